"""What is changed at a display follows through the job: wires, readings, what was typed in its menu, who lives by what."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts import displays as acts
from metrolex.acts.catalogue import act_called
from metrolex.check.board import chain_board
from metrolex.errors import BadInput
from metrolex.job import Setting, State
from metrolex.job.references import check_references
from metrolex.scaling.menu import sheet_of
from metrolex.twin import build, readings, solve
from metrolex.twin.check import twin_findings
from tests.jobs import small_job, van, with_facts, with_part

RUN = State("run")


def test_a_display_on_its_own_battery_reads_without_a_feed():
    job = small_job()
    face = readings(solve(build(job), RUN))[job.chains[0].id].value
    ignition = job.displays[0].pin_for("ignition")
    bare = acts.take_pin(job, "gauge", ignition.id)
    for role in ("memory", "lamps"):
        if pin := bare.displays[0].pin_for(role):
            bare = acts.take_pin(bare, "gauge", pin.id)
    check_references(bare)
    face_of_bare = readings(solve(build(bare), RUN))[job.chains[0].id]
    assert (face_of_bare.state, face_of_bare.reason) == ("unfinished", "its pins name no ignition")
    alone = acts.set_display(bare, "gauge", {"own_battery": True})
    # Its supply current no longer lifts its ground: the reading moves by that alone.
    assert readings(solve(build(alone), RUN))[job.chains[0].id].value == pytest.approx(face, abs=1.0)
    cell = next(
        cell
        for cell in chain_board(build(alone), solve(build(alone), RUN), [])[0].cells
        if cell.link == "feed"
    )
    assert (cell.state, cell.fact) == ("settled", "Its own battery")


def test_what_it_forgets_is_said_in_its_makers_words():
    job = with_part(van(), "taps", "T1", circuit="F22")  # dead with the key off
    job = acts.set_display(job, "gauge 2", {"forgets": "its peaks"})
    lost = [f for f in twin_findings(build(job)) if f.code == "memory_lost"]
    assert {f.subject for f in lost} >= {"gauge 1", "gauge 2"}
    assert all(("forgets its peaks" in f.reason) is (f.subject == "gauge 2") for f in lost)


def test_what_was_typed_follows_an_input_to_its_new_name():
    job = van()
    job = replace(job, settings=(*job.settings, Setting("gauge 2", "Decimals", "0", True)))
    named = {line.name for line in sheet_of(job, job.display("gauge 2"))}
    entry = next(iter(sorted(named - {"Backlight"})))
    job = replace(job, settings=(Setting("gauge 2", entry, "7", True),))
    two = acts.set_pin(job, "gauge 2", "", {"id": "9", "role": "signal"})
    two = acts.set_input(two, "gauge 2", "", {"id": "B", "kind": "volts", "pin": "9"})
    assert two.settings == (Setting("gauge 2", f"A: {entry}", "7", True),)
    renamed = acts.set_input(two, "gauge 2", "A", {"id": "left"})
    assert renamed.settings == (Setting("gauge 2", f"left: {entry}", "7", True),)
    assert renamed.chain("coolant").input == "left"
    check_references(renamed)
    again = acts.take_input(renamed, "gauge 2", "B")
    assert again.settings == (Setting("gauge 2", entry, "7", True),)


@pytest.mark.parametrize(
    ("act", "given", "field"),
    [
        ("take_pin", {"display_id": "gauge 2", "pin_id": "5"}, "pin"),
        ("take_pin", {"display_id": "gauge 2", "pin_id": "77"}, "pin"),
        ("take_input", {"display_id": "gauge 2", "input_id": "A"}, "input"),
        ("take_display", {"display_id": "gauge 2"}, "display"),
        ("set_pin", {"display_id": "gauge 2", "pin_id": "5", "facts": {"role": "ground"}}, "role"),
        ("set_pin", {"display_id": "gauge 2", "pin_id": "5", "facts": {"id": "4"}}, "id"),
        ("set_pin", {"display_id": "gauge 2", "pin_id": "", "facts": {"id": "9", "role": "horn"}}, "role"),
        ("set_input", {"display_id": "gauge 2", "input_id": "A", "facts": {"pin": "4"}}, "pin"),
        ("set_input", {"display_id": "gauge 2", "input_id": "", "facts": {"id": "A", "kind": "data"}}, "id"),
        ("set_display", {"display_id": "gauge 2", "facts": {"weight": 2}}, "weight"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(act, given, field):
    with pytest.raises(BadInput) as refusal:
        act_called(f"displays.{act}").on(van(), given)
    assert refusal.value.field == field


def test_every_pin_and_input_renamed_gives_the_same_readings():
    job = van()
    plain = {
        key: shown.text for key, shown in readings(solve(build(job), State("run", "head", "running"))).items()
    }
    for display in job.displays:
        for i, pin in enumerate(display.pins):
            job = acts.set_pin(job, display.id, pin.id, {"id": f"x{i}"})
        for stage in display.inputs:
            job = acts.set_input(job, display.id, stage.id, {"id": f"in {stage.id}"})
    check_references(job)
    told = readings(solve(build(job), State("run", "head", "running")))
    assert {key: shown.text for key, shown in told.items()} == plain
    assert len([o for o in job.observations if o.test.what == "pin" and o.test.pin.startswith("x")]) == len(
        [o for o in van().observations if o.test.what == "pin"]
    )


def test_heavier_at_first_counts_for_its_fuse():
    pin = with_facts(van().display("gauge 1").pin_called("2"), peak_a=3.0, peak_s=20.0)
    assert pin.highest_a == 3.0
