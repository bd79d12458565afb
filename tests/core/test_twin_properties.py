"""What must hold in any circuit, whatever the job, the state and the fault."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from metrolex.circuit import GROUND, Fault, Resistor, VoltageFollower, VoltageSource
from metrolex.circuit.elements import CurrentSource
from metrolex.job import KEY_STATES, LAMP_STATES, State
from metrolex.twin import build, expect, readings, solve
from metrolex.twin.addresses import Address
from tests.jobs import van, with_part

pytestmark = pytest.mark.thorough
NETWORK = build(van())
RESISTORS = [e.name for e in solve(NETWORK, State("run")).elements if isinstance(e, Resistor)]
FEEDING_GAUGE_2 = ["W2", "W4", "W10", "W12"]

states = st.builds(
    State, st.sampled_from(KEY_STATES), st.sampled_from(LAMP_STATES), st.sampled_from(["stopped", "running"])
)
faults = st.lists(
    st.one_of(
        st.builds(Fault, st.sampled_from(RESISTORS), st.just("open")),
        st.builds(Fault, st.sampled_from(RESISTORS), st.just("short")),
        st.builds(Fault, st.sampled_from(RESISTORS), st.just("resistance"), st.floats(0.01, 1e5)),
    ),
    max_size=3,
)


def balance(solved) -> dict[str, float]:
    """Current that leaves each node, in ampere; nothing may be left over (Kirchhoff's current law)."""
    left: dict[str, float] = {}
    for element in solved.elements:
        amps = solved.solution.currents[element.name]
        first, second = (
            (element.a, element.b)
            if isinstance(element, (Resistor, CurrentSource))
            else (element.minus, element.plus)
        )
        left[first] = left.get(first, 0.0) + amps
        left[second] = left.get(second, 0.0) - amps
    return left


@given(states, faults)
def test_what_flows_in_flows_out(state, broken):
    solved = solve(NETWORK, state, broken)
    # A short puts some hundred ampere through a milliohm; the tolerance is a part of the largest current.
    largest = max(abs(amps) for amps in solved.solution.currents.values())
    for node, amps in balance(solved).items():
        assert abs(amps) < 1e-6 * largest + 1e-9, node


@given(states, faults)
def test_power_made_is_power_used(state, broken):
    solved = solve(NETWORK, state, broken)
    volts, amps = solved.solution.potentials, solved.solution.currents
    used = sum(
        (volts[e.a] - volts[e.b]) * amps[e.name]
        for e in solved.elements
        if isinstance(e, (Resistor, CurrentSource))
    )
    made = sum(
        (volts[e.plus] - volts[e.minus]) * amps[e.name]
        for e in solved.elements
        if isinstance(e, (VoltageSource, VoltageFollower))
    )
    assert used == pytest.approx(made, rel=1e-6)


@given(states, faults)
def test_no_point_stands_above_the_sources_or_far_below_the_engine(state, broken):
    solved = solve(NETWORK, state, broken)
    assert (
        max(solved.solution.potentials.values()) <= 14.3 + 5.0
    )  # a lost ground can lift a 5 V reference on the supply
    assert solved.solution.potentials[GROUND] == 0.0


@given(states, faults)
def test_every_face_says_something_whatever_is_broken(state, broken):
    for face in readings(solve(NETWORK, state, broken)).values():
        assert face.text or face.reason
        assert (face.value is None) == (face.text in ("", "--", "- -"))


@given(st.sampled_from(FEEDING_GAUGE_2), st.floats(1.1, 50.0))
def test_a_longer_wire_never_lifts_the_supply_of_its_gauge(wire, times):
    job = van()
    old = next(w for w in job.conductors if w.id == wire)
    longer = with_part(job, "conductors", wire, length_m=NETWORK.lengths_m[old.id] * times)
    pins = (Address("display", "gauge 2", "pin", "2"), Address("display", "gauge 2", "pin", "4"))
    assert (
        solve(build(longer), State("run")).across(*pins) <= solve(NETWORK, State("run")).across(*pins) + 1e-6
    )


@given(st.floats(40.0, 150.0))
def test_a_hotter_fluid_never_shows_colder(degc):
    shown = [
        readings(solve(NETWORK, State("run"), true={"coolant": t}))["coolant"].value
        for t in (degc, min(degc + 5.0, 150.0))
    ]
    assert shown[0] <= shown[1]


@pytest.mark.parametrize("key", KEY_STATES)
def test_the_order_of_the_records_does_not_matter(key):
    job = van()
    turned = replace(
        job,
        conductors=job.conductors[::-1],
        circuits=job.circuits[::-1],
        taps=job.taps[::-1],
        displays=job.displays[::-1],
    )
    one, other = (
        solve(NETWORK, State(key)).solution.potentials,
        solve(build(turned), State(key)).solution.potentials,
    )
    assert one == pytest.approx(other, abs=1e-7)


def test_expectations_are_worked_out_once_and_follow_a_change():
    first = expect(NETWORK, State("run"))
    assert all(a is b for a, b in zip(expect(NETWORK, State("run")), first, strict=True))
    assert expect(build(van()), State("run")) == first
    moved = build(with_part(van(), "grounds", "GP1", contact_ohm=0.5, drop_v=None, drop_load_a=None))
    assert next(e for e in expect(moved, State("run")) if e.point.id == "gauge 2 ground").value > 0.4


def all_constant(job):
    """The van with every supply pin drawing a constant current, as dashes do."""
    displays = tuple(
        replace(
            d, pins=tuple(replace(p, load_kind="constant") if p.role == "ignition" else p for p in d.pins)
        )
        for d in job.displays
    )
    return replace(job, displays=displays)


@given(states, st.sets(st.sampled_from([w.id for w in van().conductors])), st.booleans(), st.booleans())
def test_half_wired_in_any_way_the_circuit_has_an_answer(state, missing, without_ground, without_taps):
    job = all_constant(van())
    ends = {kind for kind, gone in (("ground", without_ground), ("tap", without_taps)) if gone}
    wires = tuple(w for w in job.conductors if w.id not in missing and w.a.kind not in ends)
    faces = readings(solve(build(replace(job, conductors=wires)), state))
    assert all(face.text or face.reason for face in faces.values())
