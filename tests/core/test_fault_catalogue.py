"""The catalogue of single faults: whole, solvable, and every one of them does something."""

from __future__ import annotations

import pytest

from metrolex.circuit import Fault
from metrolex.faults import catalogue, solve_with
from metrolex.job import State
from metrolex.jobfile import EXAMPLES
from metrolex.tables import load_table
from metrolex.twin import addresses, build, readings, solve
from tests.jobs import shipped, unfinished_van, van

KINDS = {f"{part}.{what}" for part, rows in load_table("faults").items() for what in rows}
STATES = [State("off"), State("run", "head"), State("run", "off", "running"), State("crank")]
NETWORKS = {name: build(shipped(name)) for name in EXAMPLES}


def test_the_examples_know_a_fault_of_every_kind():
    assert {fault.kind for network in NETWORKS.values() for fault in catalogue(network)} == KINDS


@pytest.mark.parametrize("name", EXAMPLES)
def test_every_fault_sits_on_a_part_the_circuit_has(name):
    network = NETWORKS[name]
    elements = {element.name for state in STATES for element in solve(network, state).elements}
    listed = catalogue(network)
    assert listed
    assert len({(f.part, f.kind) for f in listed}) == len(listed)
    for likely in listed:
        assert likely.weight > 0
        assert likely.cure
        assert likely.does or likely.entered or likely.faces, likely.words
        for effect in likely.does:
            name = effect.element if isinstance(effect, Fault) else effect.name
            assert name in elements, likely.words


@pytest.mark.thorough
@pytest.mark.parametrize("name", EXAMPLES)
def test_every_fault_does_something_somewhere(name):
    """With a fault in it some node or some face is other than on the sound job, by more than the arithmetic's own noise."""
    network = NETWORKS[name]
    sound = {state: (solve(network, state), readings(solve(network, state))) for state in STATES}
    listed = catalogue(network)
    moved = dict.fromkeys(listed, 0.0)
    for state in STATES:
        before, faces = sound[state]
        volts = before.solution.potentials
        for likely, (after, shown) in zip(listed, solve_with(network, state, listed), strict=True):
            moved[likely] = max(
                moved[likely],
                max(
                    (abs(v - volts[n]) for n, v in after.solution.potentials.items() if n in volts),
                    default=0.0,
                ),
                float(any(shown[key].text != face.text for key, face in faces.items())),
            )
    idle = [likely for likely, most in moved.items() if most < 1e-7]
    # Only what carries nothing in any state shows nothing to a meter: the wires of pulses and of data; and pulses while nothing turns.
    for likely in idle:
        if likely.kind.startswith("pulse."):
            assert {faces[likely.part.id].value for _, faces in sound.values()} <= {0.0, None}, likely.words
            continue
        wires = [name for effect in likely.does for name in (effect.element, effect.with_) if name]
        if likely.part.what == "beside":
            wires.append(addresses.wire(likely.part.which))
        assert {wire.kind for wire in wires} <= {"wire", "splice"}, likely.words
        for wire in wires:
            assert all(abs(solved.solution.currents[wire]) < 1e-9 for solved, _ in sound.values()), (
                likely.words
            )


def test_another_pull_up_shows_as_the_divider_says():
    """Twice the pull-up: the volts fall to what the bare divider gives, and the face takes them by the old one."""
    network, state = NETWORKS["van"], State("run", "off", "running")
    likely = next(f for f in catalogue(network) if f.kind == "input.other")
    sound = readings(solve(network, state))
    ((_, faces),) = solve_with(network, state, (likely,))
    channel = next(
        c for c in network.job.chains if (c.display, c.input) == (likely.part.id, likely.part.which)
    )
    assert faces[channel.id].text != sound[channel.id].text
    others = [key for key, face in faces.items() if key != channel.id and face.text != sound[key].text]
    assert not others


def test_other_rows_leave_the_circuit_alone():
    network, state = NETWORKS["van"], State("run", "off", "running")
    likely = next(f for f in catalogue(network) if f.kind == "table.other")
    ((solved, faces),) = solve_with(network, state, (likely,))
    assert solved.solution.potentials == solve(network, state).solution.potentials
    assert faces[likely.part.id].text != readings(solve(network, state))[likely.part.id].text


def test_a_job_half_done_has_the_faults_of_what_is_there():
    assert catalogue(build(unfinished_van()))
    assert len(catalogue(build(unfinished_van()))) < len(catalogue(build(van())))
