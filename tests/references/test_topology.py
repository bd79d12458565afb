"""The wiring of a job held against networkx, and against what copper does."""

from __future__ import annotations

from dataclasses import replace

import networkx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from metrolex.harness.loads import load_of_tap, load_of_wire, loads_of_wires
from metrolex.job import Conductor, End, Splice
from metrolex.jobfile import EXAMPLES
from metrolex.topology import Topology, at_pin, at_terminal, plain, topology_of
from tests.jobs import shipped, van

WALLS = ("tap", "ground", "battery", "port")
JOBS = {name: shipped(name) for name in EXAMPLES}


def graph_of(job):
    """One node a joint; a place of the vehicle is a node of its own at every wire, so that no net runs through it."""
    graph = networkx.Graph()
    for wire in job.conductors:
        a, b = ((plain(end), wire.id if end.kind in WALLS else "") for end in (wire.a, wire.b))
        graph.add_edge(a, b)
    return graph


def nets_by_networkx(job):
    return {frozenset(end for end, _ in part) for part in networkx.connected_components(graph_of(job))}


@pytest.mark.parametrize("name", EXAMPLES)
def test_nets_are_the_connected_components(name):
    job = JOBS[name]
    assert {net.ends for net in topology_of(job).nets} == nets_by_networkx(job)
    assert sum(len(net.wires) for net in topology_of(job).nets) == len(job.conductors)


places = st.sampled_from(
    [End("splice", f"S{i}") for i in range(5)]
    + [End("display", "gauge 1", str(i)) for i in range(1, 5)]
    + [End("tap", "T1"), End("tap", "T2"), End("ground", "GP1"), End("battery", "negative")]
)
wirings = st.lists(st.tuples(places, places).filter(lambda pair: pair[0] != pair[1]), max_size=14)


def wired(pairs):
    wires = tuple(Conductor(f"W{i}", a, b) for i, (a, b) in enumerate(pairs))
    return replace(van(), conductors=wires, splices=tuple(Splice(f"S{i}") for i in range(5)))


@settings(max_examples=150, deadline=None)
@given(wirings)
def test_any_wiring_is_parted_as_networkx_parts_it(pairs):
    job = wired(pairs)
    wiring = Topology(job)
    assert {net.ends for net in wiring.nets} == nets_by_networkx(job)
    assert sorted(w.id for net in wiring.nets for w in net.wires) == sorted(w.id for w in job.conductors)
    for wire in job.conductors:
        assert plain(wire.b) in wiring.joined(wire.a) or wire.a.kind in WALLS


@settings(max_examples=150, deadline=None)
@given(wirings)
def test_wires_named_for_a_loop_can_go_and_nothing_comes_apart(pairs):
    """And with them gone no wire between splices lies on a cycle any more (cycle basis by networkx)."""
    job = wired(pairs)
    wiring = Topology(job)
    without = replace(job, conductors=tuple(w for w in job.conductors if w not in wiring.loops()))
    for splice in job.splices:
        assert Topology(without).joined(End("splice", splice.id)) == wiring.joined(End("splice", splice.id))
    graph = graph_of(without)
    between = {
        frozenset((plain(w.a), plain(w.b))) for w in without.conductors if w.a.kind == w.b.kind == "splice"
    }
    for cycle in networkx.cycle_basis(graph):
        steps = {frozenset((a[0], b[0])) for a, b in zip(cycle, [*cycle[1:], cycle[0]], strict=True)}
        assert not steps & between


@settings(max_examples=100, deadline=None)
@given(wirings)
def test_beyond_a_tap_is_its_nets(pairs):
    job = wired(pairs)
    wiring = Topology(job)
    for tap in ("T1", "T2"):
        end = End("tap", tap)
        assert {w.id for w in wiring.beyond(end)} == {w.id for net in wiring.nets_at(end) for w in net.wires}


@settings(max_examples=100, deadline=None)
@given(wirings)
def test_a_wire_carries_what_goes_dead_when_it_is_cut(pairs):
    """Bridges and components by networkx; a wire that is no bridge may carry all that its tap feeds."""
    job = wired(pairs)
    loads = loads_of_wires(job)
    taps = [End("tap", tap.id) for tap in job.taps]
    pins = {at_pin(d, pin): pin.load_a for d in job.displays for pin in d.pins}
    fed_by = {w.id: [t for t in taps if w in Topology(job).beyond(t)] for w in job.conductors}
    assert set(loads) == {key for key, found in fed_by.items() if found}
    for wire in job.conductors:
        if not fed_by[wire.id]:
            continue
        tap, graph = fed_by[wire.id][0], networkx.MultiGraph()
        for one in job.conductors:
            ends = [
                (plain(e), "" if e.kind not in WALLS or plain(e) == tap else one.id) for e in (one.a, one.b)
            ]
            graph.add_edge(*ends, key=one.id)
        before = networkx.node_connected_component(graph, (tap, ""))
        ends = next((a, b) for a, b, key in graph.edges(keys=True) if key == wire.id)
        graph.remove_edge(*ends, key=wire.id)
        after = networkx.node_connected_component(graph, (tap, ""))
        dead = before if set(ends) <= after else before - after
        assert loads[wire.id].steady_a == pytest.approx(sum(pins.get(end, 0.0) for end, _ in dead))


def test_a_chain_from_pin_to_pin_is_fed_and_grounded():
    """Copper does not end at a pin two wires share: the second display of a chain is fed, and its load counts at the tap."""
    job = van()
    first, second = job.displays[0], job.displays[1]
    tap = job.taps[0]
    one, two = first.pin_for("ignition"), second.pin_for("ignition")
    wires = (
        Conductor("W1", End("tap", tap.id), at_pin(first, one)),
        Conductor("W2", at_pin(first, one), at_pin(second, two)),
    )
    job = replace(job, conductors=wires, splices=())
    wiring = topology_of(job)
    assert wiring.fed(second, two)
    assert load_of_tap(job, tap).steady_a == pytest.approx(one.load_a + two.load_a)
    assert load_of_wire(job, wires[0]).steady_a == pytest.approx(one.load_a + two.load_a)
    assert load_of_wire(job, wires[1]).steady_a == pytest.approx(two.load_a)
    assert not wiring.fed(second, second.pin_for("ground"))


def test_terminals_written_on_places_without_any_are_the_same_place():
    job = replace(van(), conductors=(Conductor("W1", End("tap", "T1", "x"), End("ground", "GP1", "y")),))
    assert topology_of(job).wired(End("tap", "T1"))
    assert topology_of(job).wired(End("ground", "GP1", "z"))


def test_two_displays_of_alike_names_stay_apart():
    job = van()
    odd = replace(job.displays[1], id="gauge 1 b")
    job = replace(job, displays=(*job.displays, odd))
    wiring = topology_of(job)
    assert wiring.wired(at_pin(job.displays[0], job.displays[0].pins[0]))
    assert not wiring.wired(at_pin(odd, odd.pins[0]))


def test_it_is_built_once_for_a_job_and_anew_for_the_job_after():
    job = van()
    assert topology_of(job) is topology_of(job)
    after = replace(job, conductors=job.conductors[1:])
    assert topology_of(after) is not topology_of(job)
    assert job == van()  # what is kept with a job is no part of it
    assert hash(job) == hash(van())


def test_the_wire_of_a_channel_is_the_one_at_its_input():
    job = van()
    channel = next(c for c in job.chains if c.sender)
    wire = topology_of(job).signal_wire(channel)
    assert at_terminal(job.sender(channel.sender), "signal") in (wire.a, wire.b)
