"""Each fault alone, by the quick way and by the plain way; what a fitter would see."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from metrolex.circuit import Fault, Resistor
from metrolex.circuit import solve as solve_circuit
from metrolex.circuit.changes import Change, InSeries, Replaced, as_changes, solve_changes
from metrolex.faults import catalogue, what_if
from metrolex.job import State
from metrolex.jobfile import EXAMPLES
from metrolex.twin import addresses, build, readings, solve, solve_each
from metrolex.twin.expectations import states_of
from tests.jobs import shipped, small_job, unfinished_van, van

STATES = [State("off"), State("run", "head"), State("crank"), State("run", "off", "running")]
NETWORK = build(van())
RESISTORS = [e.name for e in solve(NETWORK, State("run")).elements if isinstance(e, Resistor)]
EVERY = (
    [Fault(name, "open") for name in RESISTORS]
    + [Fault(name, "short") for name in RESISTORS]
    + [Fault(name, "short", to=addresses.BODY) for name in RESISTORS]
)
EVERY += [Fault(name, "resistance", 2.0) for name in RESISTORS] + [
    Fault(addresses.vehicle("battery"), "resistance", 0.1),
    Fault(addresses.wire("W9"), "swap", with_=addresses.wire("W10")),
]


@pytest.mark.thorough
@pytest.mark.parametrize("state", STATES, ids=lambda s: s.words())
def test_the_quick_way_is_the_plain_way(state):
    # Within 1 mV, the same demand as against ngspice, over every single fault of the van, each in one of the states.
    faults = EVERY[STATES.index(state) :: len(STATES)]
    for fault, quick in zip(faults, solve_each(NETWORK, state, [[one] for one in faults]), strict=True):
        plain = solve(NETWORK, state, [fault])
        assert quick.powered == plain.powered, fault
        off, node = furthest(quick.solution, plain.solution)
        assert off < 1e-3, (fault, node)
        faces = [
            {key: (face.text, face.state) for key, face in readings(one).items()} for one in (quick, plain)
        ]
        assert faces[0] == faces[1], fault


@pytest.mark.thorough
@pytest.mark.parametrize("name", EXAMPLES)
def test_boxes_relays_and_pulses_too(name):
    """Every likely fault of the examples, each in one of the states; one display less leaves the other parts as they are."""
    network = build(shipped(name))
    states = states_of(network.job)
    for i, state in enumerate(states):
        healthy = solve(network, state)
        elements = {element.name: element for element in healthy.elements}
        faults = [one.in_state(healthy, elements) for one in catalogue(network)[i :: len(states)]]
        for fault, quick in zip(faults, solve_each(network, state, faults), strict=True):
            plain = solve(network, state, fault)
            assert (quick.powered, quick.pulled) == (plain.powered, plain.pulled), fault
            off, node = furthest(quick.solution, plain.solution)
            assert off < 1e-3, (fault, node)
            faces = [
                {key: (face.text, face.state) for key, face in readings(one).items()}
                for one in (quick, plain)
            ]
            assert faces[0] == faces[1], fault


def test_an_action_is_done_before_each_fault():
    """With the sender unplugged a broken signal wire alters nothing more; its gauge reads as with the sender open."""
    state, unplugged = (
        State("run", "off", "running"),
        Fault(addresses.sender_part("coolant sender", "element"), "open"),
    )
    broken = Fault(addresses.wire("W19"), "open")
    (both,) = solve_each(NETWORK, state, [[broken]], besides=[unplugged])
    plain = solve(NETWORK, state, [unplugged, broken])
    assert furthest(both.solution, plain.solution)[0] < 1e-3


def furthest(one, other):
    """(volts, node) where two solutions of one network are furthest apart; behind a source in series the plain way has a node more."""
    assert not one.potentials.keys() - other.potentials.keys()
    return max(
        ((abs(volts - other.potentials[n]), n) for n, volts in one.potentials.items()),
        key=lambda pair: pair[0],
    )


def test_a_change_by_hand():
    # 12 V over 1 and 2 ohm; the lower made 1 ohm (half a siemens more): 6 V between them.
    from metrolex.circuit import GROUND, VoltageSource

    elements = [
        VoltageSource("battery", "plus", GROUND, 12.0),
        Resistor("up", "plus", "mid", 1.0),
        Resistor("low", "mid", GROUND, 2.0),
    ]
    assert solve_changes(elements, [Change("mid", GROUND, 0.5)])[0].potentials["mid"] == pytest.approx(6.0)
    by_name = {element.name: element for element in elements}
    (changed,) = as_changes(by_name, Fault("low", "resistance", 2.0))
    assert changed.siemens == pytest.approx(-0.25)
    assert as_changes(by_name, Fault("battery", "resistance", 3.0)) == (InSeries("battery", 3.0),)
    assert solve_changes(elements, [InSeries("battery", 3.0)])[0].potentials["mid"] == pytest.approx(4.0)
    assert as_changes(by_name, Fault("low", "swap", with_="battery")) is None
    assert len(solve_changes(elements, [])) == 0


def test_what_a_fitter_would_see():
    found = {w.words: w for w in what_if(NETWORK, State("run", "off", "running"), van().chain("coolant"))}
    assert found["signal wire W19 broken"].shown.state == "open"
    assert found["signal wire W19 broken"].signal_v == pytest.approx(5.0, abs=0.01)
    assert found["no contact through the thread of coolant sender"].shown.text == "--"
    assert found["coolant sender shorted inside"].shown.state == "short"
    assert found["tape on the thread of coolant sender"].shown.value < 70  # 300 ohm more reads colder
    assert found["ground GP1 corroded"].shown.value > 100  # the gauge's ground stands up, so it reads hotter


def test_a_channel_that_is_not_wired_has_no_faults_yet():
    assert what_if(build(unfinished_van()), State("run"), van().chain("oil pressure")) == ()
    assert what_if(NETWORK, State("run"), van().chain("battery")) == ()
    assert len(what_if(build(small_job()), State("run"), small_job().chains[0])) == 7


@pytest.mark.parametrize("state", STATES, ids=lambda s: s.words())
def test_a_part_of_another_value_is_solved_as_the_network_with_that_part(state):
    """Elements of the van, of every kind, a twentieth more: from the one inverse, and written anew. Each is tried in one of the states."""
    solved = solve(NETWORK, state)
    others = [more(e) for e in solved.elements[STATES.index(state) :: len(STATES)]]
    changes = [Replaced(other.name, value_of(other)) for other in others]
    for quick, other in zip(
        solve_changes(solved.elements, changes, solved.solution.written), others, strict=True
    ):
        plain = solve_circuit([other if e.name == other.name else e for e in solved.elements])
        off, node = furthest(quick, plain)
        assert off < 1e-6, (other.name, node)


def test_asked_by_node_or_by_answer_it_is_the_same():
    """Among the changes one that all but cuts a node off, and one that moves the right side alone."""
    solved = solve(NETWORK, State("run"))
    changes = [Replaced(e.name, value_of(more(e))) for e in solved.elements]
    by_name = {element.name: element for element in solved.elements}
    changes += [
        one for wire in ("W9", "W19") for one in as_changes(by_name, Fault(addresses.wire(wire), "open"))
    ]
    many = solve_changes(solved.elements, changes, solved.solution.written)
    assert {False, True} == {i in many.answers.anew for i in range(len(many))}
    for i, one in enumerate(many):
        for node in solved.solution.potentials:
            assert one.potentials[node] == many.potentials[node][i]
    assert (many.answers.whole() == np.array([one.potentials.whole for one in many]).T).all()


def value_field(element):
    (name,) = (name for name in ("ohm", "volt", "ampere", "ratio") if hasattr(element, name))
    return name


def value_of(element):
    return getattr(element, value_field(element))


def more(element):
    return replace(element, **{value_field(element): 1.05 * value_of(element)})
