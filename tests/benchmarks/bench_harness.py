"""How long feeds and harness take, each against a plain baseline of the same run: pytest tests/benchmarks/bench_harness.py."""

from __future__ import annotations

import math

import networkx as nx
import pytest

from metrolex.feeds.choose import candidates_for, choose_taps
from metrolex.feeds.classify import classify_circuits
from metrolex.harness import bundle
from metrolex.harness.diagram import lay_out
from metrolex.job import State
from metrolex.layout.routes import find_route, way_cost_m
from metrolex.twin import build, solve
from tests.big import big_job, big_sheet
from workbench.harness.wiring_drawing import wiring_diagram

NEEDS = {"constant": 0.5, "accessory": 1.0, "ignition": 2.0, "ignition_crank": 3.0, "lamps": 0.5}
SHEET = big_sheet(60)
JOB = big_job(7)
FORTY = big_job(40)
ODS = [1.6, 1.9, 2.4, 2.8] * 15


@pytest.mark.benchmark(group="choice over 60 slots")
def test_choice(benchmark):
    benchmark(choose_taps, SHEET, NEEDS)


@pytest.mark.benchmark(group="choice over 60 slots")
def test_choice_baseline_first_that_serves(benchmark):
    def first() -> list[str]:
        verdicts = classify_circuits(SHEET)
        return [
            candidates_for(need, load, SHEET, verdicts, {}, {})[0].circuit.id for need, load in NEEDS.items()
        ]

    benchmark(first)


@pytest.mark.benchmark(group="routing of 40 runs")
def test_routing(benchmark):
    def cold() -> list[object]:
        FORTY.memo.clear()
        return [find_route(FORTY, run.start, run.finish, run.via) for run in FORTY.runs]

    benchmark(cold)


@pytest.mark.benchmark(group="routing of 40 runs")
def test_routing_baseline_networkx(benchmark):
    def plain() -> list[object]:
        graph = nx.Graph()
        for way in FORTY.ways:
            graph.add_edge(way.a, way.b, weight=way_cost_m(way, FORTY.opening(way.opening)))
        return [nx.shortest_path(graph, run.start, run.finish, weight="weight") for run in FORTY.runs]

    benchmark(plain)


@pytest.mark.benchmark(group="diagram of 40 wires")
def test_diagram(benchmark):
    solved = solve(build(JOB), State("run"))
    assert len(JOB.conductors) >= 40
    benchmark(lambda: str(wiring_diagram(JOB, solved)))


@pytest.mark.benchmark(group="diagram of 40 wires")
def test_diagram_baseline_layout_alone(benchmark):
    benchmark(lay_out, JOB)


@pytest.mark.benchmark(group="packing of 60 circles")
def test_packing(benchmark):
    def cold() -> object:
        bundle._pack.cache_clear()
        return bundle.pack_circles(ODS)

    benchmark.pedantic(cold, rounds=5, iterations=1)


@pytest.mark.benchmark(group="packing of 60 circles")
def test_packing_baseline_greedy(benchmark):
    """Each circle dropped at the first free spot of a spiral: the plainest packing there is."""

    def greedy() -> float:
        placed: list[tuple[float, float, float]] = []
        for od in sorted(ODS, reverse=True):
            r, step = od / 2, 0
            while True:
                radius, angle = 0.05 * math.sqrt(step), 2.4 * step
                x, y = radius * math.cos(angle), radius * math.sin(angle)
                if all(math.hypot(x - u, y - v) >= r + s for u, v, s in placed):
                    placed.append((x, y, r))
                    break
                step += 1
        return 2 * max(math.hypot(x, y) + r for x, y, r in placed)

    benchmark.pedantic(greedy, rounds=3, iterations=1)
