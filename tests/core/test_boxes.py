"""Boxes between sender and display: what they are fed, what they read, what they give."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts import boxes, channels, ports, scaling
from metrolex.check import chain_board, find_all
from metrolex.circuit import Fault
from metrolex.errors import BadInput
from metrolex.faults import what_if
from metrolex.harness.loads import load_of_tap
from metrolex.harness.plan import plan_wires
from metrolex.intake import dump, read
from metrolex.job import Job, Segment, State
from metrolex.job.references import without
from metrolex.kit import all_box_kits, box_kit, measurands, sender_and_box
from metrolex.twin import addresses, build, expect, solve
from metrolex.twin.error_budget import channel_budget
from metrolex.twin.run import readings
from tests.jobs import van

RUNNING = State("run", "off", "running")
MIXTURE, CONTENT, FUEL, EXHAUST = "mixture", "ethanol content", "fuel temperature", "exhaust gas"
CHOICES = {
    "lambda": "heated mixture sensor, pumped cell, by mixture controller, 0 to 5 V",
    "ethanol_content": "content sensor, 50 to 150 Hz, by content converter, two outputs",
    "fuel_temperature": "Content converter: fuel temperature",
    "exhaust_temperature": "exhaust probe 3.2 mm, type K, bare leads, by thermocouple amplifier, type K, 0 to 5 V",
}


@pytest.fixture(scope="module")
def boxed() -> Job:
    """The van with four channels more, each by a box, wired by rule, every way measured."""
    job = van()
    for measurand, choice in CHOICES.items():
        job = channels.add_channel(job, measurand)
        job = ports.choose_sender(job, job.chains[-1].id, choice)
        job = scaling.take_rows(job, job.chains[-1].id, scaling.Asked(8))
    job = replace(
        job, runs=tuple(replace(run, segments=run.segments or (Segment("way", 2.0),)) for run in job.runs)
    )
    plan = plan_wires(job)
    assert plan.missing == ()
    return plan.job


def volts_at(job: Job, channel: str, faults: tuple[Fault, ...] = (), **true: float) -> float:
    """What stands at the output pin of a channel's box against the box's ground."""
    chain = job.chain(channel)
    box = job.display(chain.box)
    solved = solve(build(job), RUNNING, faults, true={key.replace("_", " "): v for key, v in true.items()})
    pin = box.output_called(chain.output).pin
    return solved.across(addresses.pin_node(box, pin), addresses.pin_node(box, box.pin_for("ground").id))


def test_every_choice_that_names_a_box_finds_its_parts():
    named = [(facts.id, sender_and_box(choice)) for facts in measurands() for choice in facts.senders]
    by_data = {name for name, box in all_box_kits().items() if all(box.by_data(out) for out in box.outputs)}
    assert {box for _, (_, box) in named if box} == set(all_box_kits()) - by_data
    assert by_data
    for measurand, (_, box) in named:
        if box:
            assert measurand in {output.measurand for output in box_kit(box, "b").outputs}


@pytest.mark.parametrize(("value", "volts"), [(0.68, 0.0), (1.0, 5 * 0.32 / 0.68), (1.36, 5.0)])
def test_a_controller_gives_volts_along_its_line(boxed, value, volts):
    """By hand: 0 V at 0.68, 5 V at 1.36, straight between; 100 ohm of output against 100 kohm of input take a thousandth."""
    assert volts_at(boxed, MIXTURE, mixture=value) == pytest.approx(volts * 100 / 100.1, abs=2e-3)


def test_an_amplifier_reads_its_couple(boxed):
    """16.397 mV at 400 degC (NIST ITS-90, type K): 1.6 V of 0 to 5 V over 1250 degC, however the couple's leads lie."""
    solved = solve(build(boxed), RUNNING, true={EXHAUST: 400.0})
    box = boxed.display(boxed.chain(EXHAUST).box)
    couple = solved.across(addresses.pin_node(box, "3"), addresses.pin_node(box, "4"))
    assert 1000 * couple == pytest.approx(
        16.397 - 1.000, abs=0.02
    )  # against 25 degC: 1.000 mV in the same table
    assert volts_at(boxed, EXHAUST, exhaust_gas=400.0) == pytest.approx(1.6, abs=0.01)
    assert readings(solved)[EXHAUST].value == pytest.approx(400, abs=3)


def test_a_sensor_on_its_makers_lead_has_no_wire_and_no_figure_of_ours(boxed):
    network = build(boxed)
    sensor = boxed.sender(boxed.chain(MIXTURE).sender)
    assert not any(sensor.id in (wire.a.id, wire.b.id) for wire in boxed.conductors)
    assert not [e for e in solve(network, RUNNING).elements if getattr(e.name, "id", "") == sensor.id]
    assert not [e for e in expect(network, RUNNING) if e.point.test.id == sensor.id]


def test_the_heater_is_in_what_hangs_on_the_tap(boxed):
    """1.1 A warm, 3.0 A for 25 s: by that the tap, its fuse and its wire are judged."""
    chain = boxed.chain(MIXTURE)
    tap = next(t for t in boxed.taps if t.need in ("ignition", "ignition_crank"))
    bare = boxes.take_between(boxed, MIXTURE)
    with_it, without_it = load_of_tap(boxed, tap), load_of_tap(bare, bare.tap(tap.id))
    assert with_it.steady_a - without_it.steady_a == pytest.approx(1.1)
    assert with_it.peak_a - without_it.peak_a == pytest.approx(3.0)
    assert (with_it.peak_s, bare.display(chain.box)) == (25.0, None)


@pytest.mark.parametrize("part", ["signal", "return"])
def test_pulses_that_do_not_arrive_take_both_outputs_along(boxed, part):
    sender = boxed.chain(CONTENT).sender
    wire = next(
        w.id for w in boxed.conductors if (sender, part) in ((w.a.id, w.a.terminal), (w.b.id, w.b.terminal))
    )
    broken = (Fault(addresses.wire(wire), "open"),)
    assert volts_at(boxed, CONTENT) > 0.8
    for channel in (CONTENT, FUEL):
        assert volts_at(boxed, channel, broken) == pytest.approx(0.0, abs=0.01)
    shown = {one.words: one.shown.value for one in what_if(build(boxed), RUNNING, boxed.chain(CONTENT))}
    assert shown[f"{'signal' if part == 'signal' else 'return'} wire {wire} broken"] == 0


def test_a_broken_couple_is_seen_through_the_amplifier(boxed):
    """An open couple leaves no millivolts: the amplifier takes it for its cold junction, as one without an open detector does."""
    sender = boxed.chain(EXHAUST).sender
    open_couple = Fault(addresses.sender_part(sender, "leads"), "open")
    shorted = volts_at(boxed, EXHAUST, (Fault(addresses.sender_part(sender, "element"), "short"),))
    assert volts_at(boxed, EXHAUST, (open_couple,)) < 0.2  # an open couple reads its cold junction
    assert 0.0 < shorted < 5.0


def test_what_a_face_shows_is_off_by_the_pair_and_no_more(boxed):
    """Two per cent of the converter's own pair, a digit and the input: the sender's tolerance is not counted again."""
    found = channel_budget(build(boxed), RUNNING, boxed.chain(CONTENT), 50.0)
    assert found is not None
    budget, loop = found
    assert loop.wired
    assert float(budget.terms["sender"][0]) == pytest.approx(2.0, rel=0.01)


def test_nothing_of_a_box_is_asked_for_that_it_has_not(boxed):
    network = build(boxed)
    ids = {display.id for display in boxed.displays if not display.face}
    found = [f for f in find_all(network, solve(network, RUNNING)) if f.subject in ids]
    assert {f.code for f in found} <= {"drop_high", "ground_lifted"}
    rows = {row.channel.id: row for row in chain_board(network, solve(network, RUNNING), [])}
    assert rows[FUEL].open_links == ("proof",)
    assert rows[CONTENT].open_links == ("port", "proof")


def test_a_second_reading_is_offered_while_it_is_free(boxed):
    job = channels.add_channel(boxed, "fuel_temperature")
    other = job.chains[-1]
    assert not [name for name in ports.offered_senders(job, other, {}) if ":" in name]
    freed = boxes.take_between(job, FUEL)
    assert "Content converter: fuel temperature" in ports.offered_senders(freed, other, {})
    taken = ports.choose_sender(freed, other.id, "Content converter: fuel temperature")
    chain = taken.chain(other.id)
    assert (chain.sender, chain.run, chain.box) == (None, None, boxed.chain(CONTENT).box)
    with pytest.raises(BadInput):
        boxes.read_output(taken, FUEL, chain.box, "B")


def test_the_box_goes_with_its_last_reading_and_leaves_the_rest(boxed):
    box = boxed.chain(CONTENT).box
    one = boxes.take_between(boxed, CONTENT)
    assert one.display(box) is not None
    both = boxes.take_between(one, FUEL)
    assert both.display(box) is None
    assert not [w for w in both.conductors if box in (w.a.id, w.b.id)]
    assert len(both.displays) == len(boxed.displays) - 1


def test_a_box_that_does_not_fit_is_refused(boxed):
    for kit, channel in (
        ("content converter, two outputs", MIXTURE),
        ("mixture controller, 0 to 5 V", EXHAUST),
    ):
        with pytest.raises(BadInput):
            boxes.put_between(boxed, channel, box_kit(kit, "box"))


def test_a_job_with_boxes_is_stored_as_it_is_and_let_go_of_cleanly(boxed):
    assert read(Job, dump(boxed)) == boxed
    gone = without(boxed, "displays", boxed.chain(MIXTURE).box)
    chain = gone.chain(MIXTURE)
    assert (chain.box, chain.box_input, chain.output) == (None, None, None)
    assert gone.heard(chain) == gone.sender(chain.sender)


def test_a_dark_controller_is_no_reading(boxed):
    """With the key off the controller gives nothing, and the face is dark anyway; without its feed wire it says why."""
    box = boxed.chain(MIXTURE).box
    bare = without(
        boxed,
        "conductors",
        *(w.id for w in boxed.conductors if (box, "1") in ((w.a.id, w.a.terminal), (w.b.id, w.b.terminal))),
    )
    shown = readings(solve(build(bare), RUNNING))[MIXTURE]
    assert (shown.value, shown.reason) == (None, "Mixture controller: its ignition pin has no wire yet")
