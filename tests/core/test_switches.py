"""Switches and relays: in the circuit, in the loads, in a wire, two readings on one dial."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts import channels, harness, ports, switches
from metrolex.check import find_all
from metrolex.errors import BadInput
from metrolex.harness.loads import load_of_tap
from metrolex.harness.plan import plan_wires
from metrolex.intake import dump, read
from metrolex.job import End, Job, Segment, State, Switch
from metrolex.job.references import without
from metrolex.job.state_words import state_in_words
from metrolex.scaling.by_turns import laws_apart
from metrolex.senders import TableCurve
from metrolex.topology import topology_of
from metrolex.twin import addresses, build, expect, solve
from metrolex.twin.backlight import backlights
from metrolex.twin.expectations import states_of
from metrolex.twin.run import readings
from tests.jobs import van

RUNNING = State("run", "off", "running")


def codes(job: Job) -> set[str]:
    return {finding.code for finding in find_all(build(job), solve(build(job), RUNNING))}


def with_own_light_switch() -> Job:
    """The van with a switch in the wire from the lamps' tap."""
    job = van()
    tap = next(t for t in job.taps if t.need == "lamps")
    wire = topology_of(job).wires_at(End("tap", tap.id))[0]
    return switches.into_wire(job, wire.id, {"name": "Gauge lights", "kind": "on_off"}, None, 0.4)


def lamp_volts(job: Job, state: State) -> float:
    gauge = job.displays[0]
    pin, ground = gauge.pin_for("lamps"), gauge.pin_for("ground")
    return solve(build(job), state).across(
        addresses.pin_node(gauge, pin.id), addresses.pin_node(gauge, ground.id)
    )


def test_a_switch_in_a_wire_parts_it_and_joins_it():
    job = with_own_light_switch()
    dark, lit = (lamp_volts(job, State("run", "park", thrown=thrown)) for thrown in ((), ("SW1",)))
    assert abs(dark) < 0.1
    assert lit == pytest.approx(lamp_volts(van(), State("run", "park")), abs=0.05)


def test_what_hangs_on_a_tap_is_followed_through_a_switch():
    job = with_own_light_switch()
    tap = next(t for t in job.taps if t.need == "lamps")
    assert load_of_tap(job, tap) == load_of_tap(van(), van().tap(tap.id))
    assert all(topology_of(job).fed(d, d.pin_for("lamps")) for d in job.displays)
    assert plan_wires(job).added == plan_wires(van()).added


def test_a_backlight_switch_is_on_when_it_is_dark_and_proved_when_thrown():
    job = with_own_light_switch()
    assert [light.levels for light in backlights(build(job))] == [
        light.levels for light in backlights(build(van()))
    ]
    (thrown,) = states_of(job)[-1:]
    assert (thrown.lamps, thrown.thrown) == ("park", ("SW1",))
    assert state_in_words(job, thrown).endswith("Gauge lights at on")


def test_a_switch_taken_out_leaves_the_wire_whole():
    job = with_own_light_switch()
    whole = switches.take_switch(job, "SW1")
    assert {(w.id, w.a, w.b, w.run, w.length_m) for w in whole.conductors} == {
        (w.id, w.a, w.b, w.run, w.length_m) for w in van().conductors
    }
    assert whole.switches == ()


def with_relay(coil_from: str) -> Job:
    """A relay that feeds the ignition pins of the gauges: its coil from a tap, its contact from another."""
    job = van()
    tap = next(t for t in job.taps if t.need in ("ignition", "ignition_crank"))
    job = switches.add_switch(job, {"name": "Gauge relay", "kind": "relay"})
    trunk = topology_of(job).wires_at(End("tap", tap.id))[0]
    constant = next(t for t in job.taps if t.need == "constant")
    job = replace(
        job,
        conductors=tuple(
            replace(w, a=End("switch", "K1", "87")) if w.id == trunk.id else w for w in job.conductors
        ),
    )
    ground = End("ground", job.grounds[0].id)
    feed = {"key": End("tap", tap.id), "nothing": ground}[coil_from]
    for a, b in (
        (End("tap", constant.id), End("switch", "K1", "30")),
        (feed, End("switch", "K1", "86")),
        (End("switch", "K1", "85"), ground),
    ):
        job = harness.add_wire(job, a, b, 1.0, "RD", 0.5, None)
    return job


def test_a_relay_pulls_with_the_key_and_feeds_by_its_contact():
    """12 V over 90 ohm: 0.13 A in the coil; the gauges are awake with the key and dark without."""
    job = with_relay("key")
    on, off = solve(build(job), State("run")), solve(build(job), State("off"))
    assert (on.pulled, off.pulled) == (frozenset({"K1"}), frozenset())
    assert {d.id for d in job.displays} == set(on.powered)
    assert off.powered == frozenset()
    coil = on.solution.currents[addresses.coil("K1")]
    assert abs(coil) == pytest.approx(on.volts(addresses.switch_node("K1", "86")) / 90, rel=0.02)
    key = next(t for t in job.taps if t.need in ("ignition", "ignition_crank"))
    assert load_of_tap(job, key).steady_a == pytest.approx(12 / 90)


def test_a_coil_fed_by_nothing_never_pulls():
    job = with_relay("nothing")
    assert solve(build(job), RUNNING).pulled == frozenset()
    assert solve(build(job), RUNNING).powered == frozenset()


def test_contacts_that_carry_less_than_flows_are_named():
    job = with_own_light_switch()
    assert "switch_overloaded" not in codes(job)
    weak = replace(job, switches=(replace(job.switches[0], limit_a=0.01),))
    assert "switch_overloaded" in codes(weak)


def two_oils(second: str = "NTC, two wires, 1/8-27 NPT") -> Job:
    """The van's gearbox gauge shows its engine oil too."""
    job = channels.add_channel(van(), "oil_temperature")
    other = job.chains[-1]
    job = ports.choose_sender(job, other.id, second)
    first = next(c for c in job.chains if c.measurand == "gearbox_temperature")
    job = switches.share_dial(job, first.id, other.id)
    plan = plan_wires(job)
    assert plan.missing == ()
    return replace(
        plan.job,
        runs=tuple(replace(run, segments=run.segments or (Segment("way", 2.0),)) for run in plan.job.runs),
        conductors=tuple(w if w.length_m or w.run else replace(w, length_m=0.2) for w in plan.job.conductors),
    )


def test_two_readings_take_turns_on_one_dial():
    job = two_oils()
    first, second = job.switches[0].channels
    rest, thrown = RUNNING, replace(RUNNING, thrown=("SW1",))
    at_rest, at_thrown = readings(solve(build(job), rest)), readings(solve(build(job), thrown))
    alone = readings(solve(build(van()), rest))
    assert at_rest[job.chain(first).id].value == alone[job.chain(first).id].value
    assert at_thrown[job.chain(second).id].value == pytest.approx(95, abs=3)
    for shown, key in ((at_rest, second), (at_thrown, first)):
        assert shown[job.chain(key).id].value is None
        assert "stands at" in shown[job.chain(key).id].reason
    faces = {e.point.channel for e in expect(build(job), thrown) if e.point.kind == "shown"}
    assert job.chain(second).id in faces
    assert job.chain(first).id not in faces
    assert {"two_on_one_pin", "unlike_on_one_dial"}.isdisjoint(codes(job))


def test_one_table_for_both():
    job = two_oils()
    first, second = (job.chain(key) for key in job.switches[0].channels)
    changed = job.with_chain(replace(second, scaling=replace(second.scaling, decimals=1)))
    assert changed.chain(first.id).scaling == changed.chain(second.id).scaling
    assert changed.chain(first.id).scaling.decimals == 1


def test_unlike_senders_on_one_dial_are_stopped():
    job = two_oils()
    second = job.chain(job.switches[0].channels[1])
    sender = job.sender(second.sender)
    steeper = replace(sender, curve=TableCurve(((1500.0, 20.0), (700.0, 50.0), (300.0, 80.0), (90.0, 120.0))))
    other = replace(job, senders=tuple(steeper if s.id == sender.id else s for s in job.senders))
    assert (
        laws_apart(job.heard(job.chain(job.switches[0].channels[0])), other.heard(other.chain(second.id)))
        > 0.02
    )
    assert "unlike_on_one_dial" in codes(other)


def test_what_cannot_share_is_refused():
    job = van()
    for first, other in (("gearbox", "gearbox"), ("gearbox", "oil pressure"), ("battery", "coolant")):
        with pytest.raises(BadInput):
            switches.share_dial(job, first, other)
    shared = two_oils()
    with pytest.raises(BadInput):
        switches.share_dial(shared, shared.switches[0].channels[0], "coolant")


def test_a_switch_of_a_shared_dial_taken_out_leaves_the_first():
    job = two_oils()
    first, second = job.switches[0].channels
    bare = switches.take_switch(job, "SW1")
    assert readings(solve(build(bare), RUNNING))[job.chain(first).id].value is not None
    assert bare.chain(second).input is None


def test_terminals_in_use_stay():
    job = with_own_light_switch()
    with pytest.raises(BadInput):
        switches.set_switch(job, "SW1", {"kind": "changeover"})
    assert switches.set_switch(job, "SW1", {"kind": "momentary"}).switch("SW1").kind == "momentary"


@pytest.mark.parametrize(
    ("kind", "poles", "terminals"),
    [
        ("on_off", 1, ("common", "on")),
        ("changeover", 1, ("common", "A", "B")),
        ("changeover", 2, ("1 common", "1 A", "1 B", "2 common", "2 A", "2 B")),
        ("relay", 1, ("30", "87", "87a", "86", "85")),  # DIN 72552
    ],
)
def test_terminals_by_kind(kind, poles, terminals):
    assert Switch("S", "S", kind, poles).terminals == terminals


def test_switches_are_stored_and_let_go_of():
    job = two_oils()
    assert read(Job, dump(job)) == job
    gone = without(job, "switches", "SW1")
    assert not [w for w in gone.conductors if "switch" in (w.a.kind, w.b.kind)]
