"""Best paths against networkx on the shipped layouts and on random plans."""

from __future__ import annotations

import random
from dataclasses import replace

import networkx as nx
import pytest
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra

from metrolex.job import Job, Opening, Way, Zone
from metrolex.layout.routes import find_route, way_cost_m
from metrolex.layout.shortest import all_paths
from metrolex.layout.templates import layout_called, layouts
from tests.jobs import a_vehicle


def graph_of(job):
    graph = nx.Graph()
    graph.add_nodes_from(zone.id for zone in job.zones)
    for way in job.ways:
        cost = way_cost_m(way, job.opening(way.opening))
        if not graph.has_edge(way.a, way.b) or graph[way.a][way.b]["weight"] > cost:
            graph.add_edge(way.a, way.b, weight=cost)
    return graph


def random_job(seed):
    pick = random.Random(seed)
    zones = tuple(
        Zone(f"z{i}", f"Zone {i}", "frame", pick.uniform(0, 90), pick.uniform(0, 50)) for i in range(14)
    )
    ways = []
    for i in range(26):
        a, b = pick.sample(zones, 2)
        ways.append(
            Way(
                f"w{i}",
                a.id,
                b.id,
                pick.choice((0.0, pick.uniform(0.1, 3))),
                peak_degc=pick.choice((40, 90, 200)),
                moving=pick.random() < 0.3,
                wet=pick.random() < 0.3,
                opening=pick.choice((None, "o")),
                tied_to=pick.choice(((), ("clips",), ("fuel line",))),
            )
        )
    return Job(
        "Plan",
        a_vehicle("Vehicle"),
        zones=zones,
        ways=tuple(ways),
        openings=(Opening("o", "Hole", 20.0, made="new"),),
    )


def shipped(key):
    layout = layout_called(key)
    return Job("Plan", a_vehicle("Vehicle"), zones=layout.zones, ways=layout.ways, openings=layout.openings)


@pytest.mark.parametrize(
    "job",
    [*(shipped(key) for key, _ in layouts()), *(random_job(seed) for seed in range(6))],
    ids=lambda job: str(len(job.ways)),
)
def test_every_pair_of_zones(job):
    graph = graph_of(job)
    for a in job.zones:
        costs = nx.single_source_dijkstra_path_length(graph, a.id)
        for b in job.zones:
            route = find_route(job, a.id, b.id)
            if b.id not in costs:
                assert route is None
                continue
            assert route.cost_m == pytest.approx(costs[b.id], abs=1e-6)
            assert route.zones[0] == a.id
            assert route.zones[-1] == b.id
            for way, at, to in zip(route.ways, route.zones, route.zones[1:], strict=False):
                assert {way.a, way.b} == {at, to}


def test_through_a_zone_is_two_best_paths():
    job = shipped("van")
    straight, led = (
        find_route(job, "engine top", "pillar"),
        find_route(job, "engine top", "pillar", ("dash right",)),
    )
    first, second = find_route(job, "engine top", "dash right"), find_route(job, "dash right", "pillar")
    assert led.cost_m == pytest.approx(first.cost_m + second.cost_m)
    assert led.length_m > straight.length_m


def test_no_way_through():
    job = shipped("van")
    cut = replace(job, ways=tuple(way for way in job.ways if "pillar" not in (way.a, way.b)))
    assert find_route(cut, "engine top", "pillar") is None
    assert find_route(job, "engine top", "moon") is None


@pytest.mark.parametrize("seed", range(12))
def test_all_paths_are_scipys(seed):
    """Costs of all pairs of places of a random net, some not to be reached, against scipy's Dijkstra; the ways cost what is said."""
    draw = random.Random(seed)
    count = draw.randint(1, 25)
    costs = {
        (draw.randrange(count), draw.randrange(count)): draw.choice([1e-9, draw.uniform(0.01, 9)])
        for _ in range(draw.randint(0, 60))
    }
    found, before = all_paths(count, costs)
    rows, columns = ([pair[k] for pair in costs] for k in (0, 1))
    plain = dijkstra(csr_array((list(costs.values()), (rows, columns)), shape=(count, count)))
    assert [cost for row in found for cost in row] == pytest.approx(plain.ravel().tolist())
    for a in range(count):
        for b in range(count):
            at, total = b, 0.0
            while before[a][at] is not None:
                total += costs[before[a][at], at]
                at = before[a][at]
            assert at == a if found[a][b] < float("inf") else before[a][b] is None
            if found[a][b] < float("inf"):
                assert total == pytest.approx(found[a][b])
