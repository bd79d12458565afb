"""A fuse panel typed or pasted as lines."""

from __future__ import annotations

import string
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from metrolex.acts.catalogue import act_called
from metrolex.acts.feeds import lay_out_panel
from metrolex.errors import BadInput
from metrolex.feeds.panel_lines import numbered_slots, read_panel_lines
from metrolex.intake import dump
from metrolex.job import Circuit
from tests.jobs import van


@pytest.mark.parametrize(
    ("line", "told"),
    [
        ("F1 10 Radio", ("F1", 10.0, "Radio")),
        ("F1, 10, Rear wiper", ("F1", 10.0, "Rear wiper")),
        ("F1,10,Rear wiper", ("F1", 10.0, "Rear wiper")),
        ("F 1;7,5;Rear, wiper", ("F 1", 7.5, "Rear, wiper")),
        ("F1\t15 A\t", ("F1", 15.0, None)),
        ("F1 7.5a Dash", ("F1", 7.5, "Dash")),
        ("F1 12 V socket", ("F1", None, "12 V socket")),
        ("F1 12V socket", ("F1", None, "12V socket")),
        ("F1 7 Airbag", ("F1", 7.0, "Airbag")),
        ("F1 - spare", ("F1", None, "spare")),
        ("F1 -", ("F1", None, None)),
        ("F1;;Horn", ("F1", None, "Horn")),
        ("12", ("12", None, None)),
    ],
)
def test_a_line_is_a_slot(line, told):
    slot = read_panel_lines(line)[0]
    assert (slot.id, slot.rating_a, slot.purpose) == told


def test_rows_end_at_an_empty_line_or_when_they_are_full():
    slots = read_panel_lines("\nA\nB\n\n\nC\nD\nE\n", in_row=2)
    assert [(s.id, s.row, s.column) for s in slots] == [
        ("A", 1, 1),
        ("B", 1, 2),
        ("C", 2, 1),
        ("D", 2, 2),
        ("E", 3, 1),
    ]


@given(
    st.lists(
        st.tuples(
            st.text(string.ascii_letters + string.digits, min_size=1, max_size=6),
            st.none() | st.sampled_from([2, 5, 7.5, 30]),
            st.none() | st.sampled_from(["Radio", "Rear wiper", "ECU 2"]),
        ),
        min_size=1,
        max_size=40,
        unique_by=lambda told: told[0],
    ),
    st.sampled_from(["\t", ";"]),
)
def test_columns_of_a_table_come_back_as_they_were(rows, mark):
    text = "\n".join(f"{slot}{mark}{rating or ''}{mark}{name or ''}" for slot, rating, name in rows)
    assert [(s.id, s.rating_a, s.purpose) for s in read_panel_lines(text)] == rows


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "one a line"),
        ("F1 10\n\nF1 15", "Line 3: F1 stands in line 1"),
        ("F1 0 Radio", "0 A"),
        (";10;Radio", "Line 1: a slot has a name"),
        ("n" * 61 + " 10", "60 letters"),
        ("F1\n" + "\n".join(f"G{i}" for i in range(40)), "Line 41"),
        ("F1 5 " + "x" * 121, "120 letters"),
    ],
)
def test_a_line_that_cannot_be_meant_is_named(text, words):
    with pytest.raises(BadInput) as refusal:
        read_panel_lines(text)
    assert refusal.value.field == "lines"
    assert words in refusal.value.message


def test_bare_slots_are_numbered_on_by_rows():
    slots = read_panel_lines(numbered_slots(2, 3, "K08"))
    assert [s.id for s in slots] == ["K08", "K09", "K10", "K11", "K12", "K13"]
    assert [(s.row, s.column) for s in slots] == [(r, c) for r in (1, 2) for c in (1, 2, 3)]
    with pytest.raises(BadInput):
        numbered_slots(2, 3, "front")


def test_a_slot_that_is_there_keeps_what_was_read_and_takes_what_its_line_tells():
    job = van()
    before = job.circuit("F22")
    after = lay_out_panel(job, before.slot.panel or "", f"{before.id} 20")
    now = after.circuit("F22")
    told = {"rating_a"}  # the rest of its panel is not named, so it stays where it lies
    assert {k: v for k, v in dump(now, whole=True).items() if k not in told} == {
        k: v for k, v in dump(before, whole=True).items() if k not in told
    }
    assert now.rating_a == 20.0
    assert [c for c in after.circuits if c.id != "F22"] == [c for c in job.circuits if c.id != "F22"]


def test_new_slots_come_below_those_that_are_not_named():
    job = van()
    panel = next(c.slot.panel for c in job.circuits if c.kind == "fuse")
    lowest = max(c.slot.row for c in job.circuits if c.kind == "fuse" and c.slot.panel == panel)
    after = lay_out_panel(job, panel or "", "Z1 10 Horn\n\nZ2")
    assert [(after.circuit(z).slot.row, after.circuit(z).slot.panel) for z in ("Z1", "Z2")] == [
        (lowest + 1, panel),
        (lowest + 2, panel),
    ]
    places = [(c.slot.panel, c.slot.row, c.slot.column) for c in after.circuits if c.kind == "fuse"]
    assert len(set(places)) == len(places)


def test_a_whole_panel_named_again_is_laid_anew_and_a_part_of_it_is_not():
    job = lay_out_panel(replace(van(), circuits=(), taps=(), conductors=()), "", "A\nB\n\nC 5 Horn")
    anew = lay_out_panel(job, "", "C\nA\nB", in_row=2)
    assert [(c.id, c.slot.row, c.slot.column) for c in anew.circuits] == [
        ("A", 1, 2),
        ("B", 2, 1),
        ("C", 1, 1),
    ]
    assert anew.circuit("C").purpose == "Horn"
    part = lay_out_panel(job, "", "C 10\nX\n\nA 15\n\nY")
    assert [(c.id, c.rating_a, c.slot.row, c.slot.column) for c in part.circuits] == [
        ("A", 15.0, 1, 1),
        ("B", None, 1, 2),
        ("C", 10.0, 2, 1),
        ("X", None, 3, 1),
        ("Y", None, 4, 1),
    ]


@pytest.mark.parametrize(("given", "field"), [({"rows": 2}, "in_row"), ({"in_row": 6}, "rows")])
def test_rows_need_columns(given, field):
    with pytest.raises(BadInput) as refusal:
        lay_out_panel(van(), "", **given)
    assert refusal.value.field == field


def test_a_name_used_elsewhere_is_refused():
    job = van()
    slot = next(c for c in job.circuits if c.kind == "fuse" and c.slot.panel)
    wired = replace(job, circuits=(*job.circuits, Circuit("white", kind="wire")))
    for name, words in (
        (slot.id, f"in the panel '{job.panel(slot.slot.panel).name}'"),
        ("white", "as a wire"),
    ):
        with pytest.raises(BadInput) as refusal:
            lay_out_panel(wired, "", f"{name} 10")
        assert (refusal.value.field, words in refusal.value.message) == ("lines", True)
    with pytest.raises(BadInput):
        lay_out_panel(job, "no such panel", "Z1")


def test_rows_by_columns_by_name_as_the_command_line_gives_it():
    after = act_called("feeds.lay_out_panel").on(van(), {"rows": 2, "in_row": 6, "first": "Q1"})
    assert [c.id for c in after.circuits if c.id[0] == "Q"] == [f"Q{i}" for i in range(1, 13)]
