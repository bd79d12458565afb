"""The twin against ngspice (Debian's package), on the twin's own deck, within 1 mV.

Every position of key, lamps and engine; fourteen kinds of fault in several states; random networks.
"""

from __future__ import annotations

import itertools
import random
import re
import subprocess

import pytest

from metrolex.circuit import GROUND, Fault, Resistor, VoltageFollower, VoltageSource, spice_deck
from metrolex.circuit import solve as solve_circuit
from metrolex.circuit.elements import CurrentSource
from metrolex.faults import catalogue
from metrolex.job import KEY_STATES, LAMP_STATES, State
from metrolex.jobfile import EXAMPLES
from metrolex.twin import addresses, build, solve, solve_each
from tests.jobs import shipped, van, with_part

WITHIN_V = 1e-3
STATES = [State(key, lamps) for key, lamps in itertools.product(KEY_STATES, LAMP_STATES)]
STATES += [State("run", lamps, "running") for lamps in LAMP_STATES]

FAULTS = {
    "fuse of a tap blown": Fault(addresses.tap("T2"), "open"),
    "vehicle fuse blown": Fault(addresses.circuit_part("F22", "fuse"), "open"),
    "feed wire broken": Fault(addresses.wire("W2"), "open"),
    "ground wire broken": Fault(addresses.wire("W4"), "open"),
    "signal wire broken": Fault(addresses.wire("W19"), "open"),
    "signal wire chafed to the engine": Fault(addresses.wire("W19"), "short", to=addresses.ENGINE),
    "ignition wire chafed to the body": Fault(addresses.wire("W10"), "short", to=addresses.BODY),
    "sender element broken": Fault(addresses.sender_part("coolant sender", "element"), "open"),
    "sender element shorted": Fault(addresses.sender_part("coolant sender", "element"), "short"),
    "thread insulated by tape": Fault(
        addresses.sender_part("coolant sender", "thread"), "resistance", ohm=300.0
    ),
    "ground point corroded": Fault(addresses.ground_node("GP1"), "resistance", ohm=2.5),
    "poor crimp in the feed splice": Fault(addresses.splice_leg("S2", "W10"), "resistance", ohm=4.0),
    "battery lead corroded": Fault(addresses.vehicle("battery"), "resistance", ohm=0.05),
    "engine strap lost": Fault(addresses.vehicle("engine ground lead"), "open"),
    "memory and ignition wires swapped at the gauge": Fault(
        addresses.wire("W9"), "swap", with_=addresses.wire("W10")
    ),
    "gauge reference lost": Fault(addresses.reference_node("gauge 2", "A"), "open"),
}


def ngspice_volts(deck: str, tmp_path) -> dict[str, float]:
    """Node volts by field name, as ngspice finds them."""
    path = tmp_path / "deck.cir"
    path.write_text(deck)
    run = subprocess.run(
        ["ngspice", "-b", str(path)], capture_output=True, text=True, timeout=60, check=False
    )
    names = dict(re.findall(r"^\* node (\d+) = (.+)$", deck, re.MULTILINE))
    found = re.findall(r"^\s*V\((\d+)\)\s+(\S+)\s*$", run.stdout, re.MULTILINE)
    volts = {names[number]: float(value) for number, value in found}
    assert len(volts) == len(names) - 1, run.stdout[-2000:] + run.stderr[-2000:]
    return volts | {GROUND: 0.0}


def assert_same(elements, tmp_path, title="test") -> None:
    ours = {str(node): volts for node, volts in solve_circuit(elements).potentials.items()}
    theirs = ngspice_volts(spice_deck(elements, title), tmp_path)
    assert set(ours) == set(theirs)
    worst = max(ours, key=lambda name: abs(ours[name] - theirs[name]))
    assert abs(ours[worst] - theirs[worst]) < WITHIN_V, (worst, ours[worst], theirs[worst])


@pytest.mark.parametrize("state", STATES, ids=lambda s: s.words())
def test_every_key_state_agrees(state, tmp_path):
    assert_same(solve(build(van()), state).elements, tmp_path)


@pytest.mark.parametrize("key", ["off", "run", "crank"])
@pytest.mark.parametrize("name", FAULTS)
def test_every_kind_of_fault_agrees(name, key, tmp_path):
    healthy = solve(build(van()), State(key, "head"))
    faulty = solve(build(van()), State(key, "head"), [FAULTS[name]])
    assert_same(faulty.elements, tmp_path)
    assert faulty.elements != healthy.elements


EXAMPLE_NETWORKS = {name: build(shipped(name)) for name in EXAMPLES}
KINDS = {
    fault.kind: (name, fault)
    for name, network in EXAMPLE_NETWORKS.items()
    for fault in catalogue(network)
    if fault.does
}


@pytest.mark.parametrize("kind", KINDS)
def test_a_fault_of_each_kind_of_the_catalogue_agrees(kind, tmp_path):
    """By the quick way, a small change of the healthy network, and by ngspice on the deck with the fault in it."""
    name, fault = KINDS[kind]
    network, tried = EXAMPLE_NETWORKS[name], 0
    for state in (State("off"), State("run", "head", "running"), State("crank")):
        healthy = solve(network, state)
        does = fault.in_state(healthy, {element.name: element for element in healthy.elements})
        if not does:
            continue
        tried += 1
        (quick,) = solve_each(network, state, [does])
        alone = solve(network, state, does)
        theirs = ngspice_volts(spice_deck(alone.elements, kind), tmp_path)
        assert quick.powered == alone.powered
        for node, volts in quick.solution.potentials.items():
            assert abs(volts - theirs[str(node)]) < WITHIN_V, (state, node)
    assert tried


def test_constant_current_loads_agree(tmp_path):
    job = van()
    pins = tuple(
        p if p.role != "ignition" else type(p)(p.id, p.name, p.role, p.load_a, "constant")
        for p in job.displays[1].pins
    )
    elements = solve(build(with_part(job, "displays", "gauge 2", pins=pins)), State("run")).elements
    assert any(isinstance(e, CurrentSource) for e in elements)
    assert_same(elements, tmp_path)


@pytest.mark.parametrize("seed", range(8))
def test_random_networks_agree(seed, tmp_path):
    rnd = random.Random(seed)
    nodes = [GROUND, *(f"n{i}" for i in range(14))]
    elements = [
        VoltageSource("battery", "n0", GROUND, 12.6),
        VoltageFollower("half", "n1", GROUND, "n0", "n5", 0.5),
    ]
    elements += [Resistor(f"spine {i}", nodes[i], nodes[i + 1], 10 ** rnd.uniform(-3, 3)) for i in range(14)]
    elements += [Resistor(f"r{i}", *rnd.sample(nodes, 2), 10 ** rnd.uniform(-3, 6)) for i in range(20)]
    elements.append(CurrentSource("load", "n7", GROUND, rnd.uniform(0.0, 2.0)))
    assert_same(elements, tmp_path)


def test_a_floating_node_is_tied_by_one_gigohm_in_both(tmp_path):
    elements = [
        VoltageSource("battery", "plus", GROUND, 12.0),
        Resistor("load", "plus", GROUND, 10.0),
        VoltageSource("lost cell", "a", "b", 1.5),
        Resistor("lost load", "a", "b", 100.0),
    ]
    assert_same(elements, tmp_path)
    assert solve_circuit(elements).nodes["a"] is None
