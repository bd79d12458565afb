"""A sender the vehicle has already: who reads it, what a second reader does to the first, where the wire joins."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts import channels, ports, scaling, shared
from metrolex.brief.shopping import shopping_list
from metrolex.check import chain_board, find_all
from metrolex.errors import BadInput
from metrolex.harness.plan import Lengths, plan_wires
from metrolex.intake import dump, read
from metrolex.job import Cavity, Connector, End, Job, Segment, State
from metrolex.job.references import without
from metrolex.scaling.second_reader import disturbance
from metrolex.senders import x_at
from metrolex.twin import addresses, build, solve
from metrolex.twin.run import readings
from tests.jobs import van

RUNNING = State("run", "off", "running")
CONTROL = {"name": "Engine control", "pull_up_ohm": 2200.0, "reference_v": 5.0, "control": True}
PLUG = Connector("ecu plug", "Engine control", cavities=(Cavity("17", 1, 1), Cavity("18", 1, 2)))


def read_beside(kind: str) -> Job:
    """An intake air sensor of the engine control, read by a gauge of its own beside it."""
    job = channels.add_channel(replace(van(), connectors=(PLUG,)), "air_temperature")
    key = job.chains[-1].id
    job = ports.choose_sender(job, key, "NTC, two wires, M12x1.5, open tip")
    if kind == "volts":
        gauge = job.display(job.chain(key).display)
        stage = gauge.inputs[0]
        from metrolex.acts.displays import set_input

        job = set_input(job, gauge.id, stage.id, {"kind": "volts", "pull_up_ohm": None, "input_ohm": 1e6})
    job = shared.add_reader(job, key, CONTROL)
    job = shared.join_at(job, key, "ecu plug", "17")
    if kind == "volts":
        job = scaling.take_rows(job, key, scaling.Asked(12))
    plan = plan_wires(job, Lengths(plug_m=0.6))
    return replace(
        plan.job,
        runs=tuple(replace(run, segments=run.segments or (Segment("way", 2.0),)) for run in plan.job.runs),
    )


def codes(job: Job) -> dict[str, str]:
    return {f.code: f.grade for f in find_all(build(job), solve(build(job), RUNNING))}


def test_a_pull_up_on_a_line_the_engine_control_reads_is_stopped_with_figures():
    """By hand, at the sensor's middle: two pull-ups in parallel lift the line as if the sensor were colder."""
    job = read_beside("pull_up")
    channel = job.chains[-1]
    sender, stage = job.sender(channel.sender), job.input_of(channel)
    found = disturbance(channel, sender, stage, sender.readers[0])
    assert found.share > 0.05
    ohm = float(x_at(sender.curve, found.there))
    both = 1 / (1 / 2200 + 1 / stage.circuit.pull_up_ohm)
    volts = 5.0 * ohm / (ohm + both)
    taken = volts * 2200 / (5.0 - volts)
    assert taken > ohm  # an NTC taken for more ohms is taken for colder
    assert found.taken is None or found.taken < found.there
    assert codes(job)["first_reader_disturbed"] == "stop"


def test_volts_read_beside_it_disturb_nobody_and_tell_the_truth():
    job = read_beside("volts")
    channel = job.chains[-1]
    assert "first_reader_disturbed" not in codes(job)
    heard = job.heard(channel)
    assert heard.curve.x_unit == "volt"
    shown = readings(solve(build(job), RUNNING))[channel.id]
    assert shown.value == pytest.approx(35.0, abs=1.5)


def test_the_twin_has_the_volts_both_see():
    """5 V over 2200 ohm and the sensor: the divider, by hand."""
    job = read_beside("volts")
    channel = job.chains[-1]
    sender = job.sender(channel.sender)
    ohm = float(x_at(sender.curve, 35.0))
    solved = solve(build(job), RUNNING)
    signal, back = (addresses.sender_node(sender.id, end) for end in ("signal", "return"))
    assert solved.across(signal, back) == pytest.approx(5 * ohm / (ohm + 2200), abs=0.01)
    asleep = solve(build(job), State("off"))
    assert abs(asleep.across(signal, back)) < 0.01


def test_one_wire_joins_at_the_plug_and_nothing_is_bought():
    job = read_beside("volts")
    channel = job.chains[-1]
    wires = [w for w in job.conductors if End("plug", "ecu plug", "17") in (w.a, w.b)]
    assert len(wires) == 1
    assert not [w for w in job.conductors if channel.sender in (w.a.id, w.b.id)]
    row = next(
        r for r in chain_board(build(job), solve(build(job), RUNNING), []) if r.channel.id == channel.id
    )
    assert (row.cell("port").state, row.cell("port").fact) == ("settled", "There already")
    assert not [item for item in shopping_list(job) if item.name == job.sender(channel.sender).name]


def test_the_joint_moves_with_its_wire():
    job = read_beside("volts")
    key = job.chains[-1].id
    moved = shared.join_at(job, key, "ecu plug", "18")
    assert [w for w in moved.conductors if End("plug", "ecu plug", "18") in (w.a, w.b)]
    at_sensor = shared.join_at(moved, key, "", "")
    sender = job.chain(key).sender
    assert [w for w in at_sensor.conductors if End("sender", sender, "signal") in (w.a, w.b)]
    with pytest.raises(BadInput):
        shared.join_at(job, key, "ecu plug", "99")
    with pytest.raises(BadInput):
        shared.join_at(job, key, "no plug", "1")


def test_an_old_gauge_beside_it_is_a_caution_only():
    job = read_beside("pull_up")
    sender = job.sender(job.chains[-1].sender)
    gauge = replace(sender.readers[0], name="Old gauge", pull_up_ohm=150.0, reference_v=12.0, control=False)
    old = replace(
        job, senders=tuple(replace(s, readers=(gauge,)) if s.id == sender.id else s for s in job.senders)
    )
    assert codes(old)["first_reader_disturbed"] == "caution"


def test_without_readers_it_is_a_sender_of_ones_own_again():
    job = read_beside("volts")
    key = job.chains[-1].id
    bare = shared.take_reader(job, key, "R1")
    chain = bare.chain(key)
    assert (chain.source, chain.plug, bare.sender(chain.sender).readers) == ("sender", None, ())
    with pytest.raises(BadInput):
        shared.take_reader(bare, key, "R1")


def test_stored_and_let_go_of():
    job = read_beside("volts")
    assert read(Job, dump(job)) == job
    gone = without(job, "connectors", "ecu plug")
    assert (gone.chains[-1].plug, gone.chains[-1].pin) == (None, None)
