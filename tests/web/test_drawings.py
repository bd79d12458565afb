"""Drawings say what the core says, stay inside their sheet, and hold nothing that runs."""

from __future__ import annotations

import re
from dataclasses import replace
from xml.etree import ElementTree

import pytest

from metrolex.feeds.classify import classify_circuits
from metrolex.harness.runs import plan_run
from metrolex.intake import dump, read
from metrolex.job import KEY_STATES, Job, State
from metrolex.senders import TableCurve
from metrolex.twin import build, solve
from metrolex.twin.carry import carry_over
from tests.core.test_carry import ASIDE
from tests.jobs import small_job, van, with_chain, with_part
from workbench.drawing import WIRE_PAINT, Drawing, wire_paint
from workbench.feeds.drawings import panel_drawing
from workbench.harness.drawings import run_drawing
from workbench.harness.wiring_drawing import wiring_diagram, wiring_svg
from workbench.scaling.bench.drawing import scaling_drawing

SVG = "{http://www.w3.org/2000/svg}"


def parsed(drawing):
    return ElementTree.fromstring(str(drawing))


def words(root):
    return [t.text or "" for t in root.iter(SVG + "text")]


def inside(root):
    width, height = (float(v) for v in root.get("viewBox").split()[2:])
    for rect in root.iter(SVG + "rect"):
        x, y, w, h = (float(rect.get(k)) for k in ("x", "y", "width", "height"))
        assert -1 <= x <= x + w <= width + 1
        assert -1 <= y <= y + h <= height + 1
    for path in root.iter(SVG + "path"):
        for x, y in re.findall(r"[ML](-?[\d.]+) (-?[\d.]+)", path.get("d")):
            assert -1 <= float(x) <= width + 1
            assert -1 <= float(y) <= height + 1


@pytest.mark.parametrize("key", KEY_STATES)
@pytest.mark.parametrize("job", [van(), small_job()], ids=["van", "small"])
def test_the_wiring_stays_on_its_sheet_and_names_every_part(job, key):
    root = parsed(wiring_diagram(job, solve(build(job), State(key))))
    inside(root)
    found = " ".join(words(root))
    for display in job.displays:
        assert display.id.capitalize() in found
        for pin in display.pins:
            assert f"{pin.id} {pin.name}" in found
    for tap in job.taps:
        assert tap.circuit in found
    for sender in job.senders:
        assert sender.id.capitalize() in found


def test_every_colour_on_the_wires_is_printed_as_a_code_too():
    job = van()
    found = words(parsed(wiring_diagram(job, solve(build(job), State("run")))))
    for wire in job.conductors:
        if wire.a.kind == "tap" or wire.b.kind == "sender":
            code = wire.look.colour + (f"/{wire.look.stripe}" if wire.look.stripe else "")
            assert f"{wire.id} {code} {wire.size:g}" in found


def test_a_dead_feed_is_dashed_not_only_pale():
    job = van()
    off = parsed(wiring_diagram(job, solve(build(job), State("off"))))
    run = parsed(wiring_diagram(job, solve(build(job), State("run", "park"))))

    def dead(root):
        return [r for r in root.iter(SVG + "rect") if r.get("class") == "slip-dead"]

    assert [r.get("stroke-dasharray") for r in dead(off)] == ["4 3", "4 3"]
    assert not dead(run)


def test_the_panel_marks_what_is_never_tapped_in_words():
    job = van()
    root = parsed(
        panel_drawing(
            job.circuits, classify_circuits(job.circuits), job.taps, job.panels[0].id, cluster_out=False
        )
    )
    inside(root)
    found = words(root)
    assert found.count("never tap") == 2
    assert {"T1", "T2", "T3", "T4", "run and crank", "dimmed", "unclear"} <= set(found)
    assert [a.get("href") for a in root.iter(SVG + "a")] == [
        f"#slot-{c.id}" for c in job.circuits if (c.kind, c.slot.panel) == ("fuse", job.panels[0].id)
    ]
    assert root.get("role") == "group"


@pytest.mark.parametrize("run", [r for r in van().runs if r.segments], ids=lambda r: r.id)
def test_a_run_is_drawn_to_scale_against_its_lead(run):
    root = parsed(run_drawing(run))
    inside(root)
    plan = plan_run(run)
    bars = [r for r in root.iter(SVG + "rect") if r.get("class") in ("box", "hot", "rule")]
    drawn = sum(float(r.get("width")) for r in bars)
    lead = next(
        (float(r.get("width")) for r in root.iter(SVG + "rect") if r.get("class") == "act-fill"), None
    )
    assert (lead is None) == (run.supplied_m is None)
    if lead is not None:
        assert lead / drawn == pytest.approx(run.supplied_m / plan.length_m, rel=1e-3)


@pytest.mark.parametrize("channel", ["gearbox", "coolant", "oil pressure"])
def test_the_curve_carries_the_tables_rows_as_marks(channel):
    job = van()
    found = job.chain(channel)
    root = parsed(scaling_drawing(found, job.sender(found.sender), job.input_of(found), found.true_running))
    marks = [r for r in root.iter(SVG + "rect") if r.get("class") == "row-mark"]
    assert len(marks) == len(found.scaling.table)
    assert any(w.startswith("true ") for w in words(root))


def test_a_curve_that_turns_back_is_said_instead_of_drawn():
    job = with_part(
        small_job(), "senders", "ntc", curve=TableCurve(((100.0, 1.0), (200.0, 9.0), (300.0, 4.0)))
    )
    assert "turns back" in " ".join(words(parsed(scaling_drawing(job.chains[0], job.senders[0], None, None))))


@pytest.mark.parametrize("low", [None, 0.0, 90.0])
def test_a_face_without_a_table_still_has_its_curve(low):
    job = with_chain(small_job(), scaling=replace(small_job().chains[0].scaling, table=(), low=low))
    root = parsed(scaling_drawing(job.chains[0], job.senders[0], job.displays[0].inputs[0], 80.0))
    assert "No table entered yet." in words(root)


def test_names_cannot_leave_their_text():
    sheet = Drawing(10, 10, '"><script>alert(1)</script>')
    sheet.text(1, 1, "</svg><script>")
    assert "<script>" not in str(sheet)
    assert ElementTree.fromstring(str(sheet)).find(SVG + "title").text == '"><script>alert(1)</script>'


def test_wire_colours_have_codes_and_the_unknown_is_grey():
    assert all(len(code) == 2 for code in WIRE_PAINT)
    assert wire_paint("rd") == WIRE_PAINT["RD"]
    assert wire_paint("?") == WIRE_PAINT["GY"]


@pytest.mark.parametrize("words", ASIDE)
def test_a_diagram_handed_on_is_the_one_that_would_be_drawn(words):
    before = van()
    wiring_svg(build(before), State("run"))
    after = ASIDE[words](before)
    assert carry_over(before, after)
    anew = read(Job, dump(after))
    assert wiring_svg(build(after), State("run")) == wiring_svg(build(anew), State("run"))
