"""The comparison of a whole job, and the stack solver against a plain shortest path on the same graph.

Run by hand: pytest tests/benchmarks/bench_ports.py. Reported, never a pass or fail on time.
"""

from __future__ import annotations

import random

import networkx as nx
import pytest

from metrolex.fittings.connections import all_threads
from metrolex.fittings.fitting import Fitting
from metrolex.fittings.joints import partners
from metrolex.fittings.library import generic_fittings
from metrolex.fittings.stack import end_called, solve_stack
from metrolex.jobfile import example_job_data, job_from_data
from metrolex.ports.compare import candidates_for

COUNT = 300


def library() -> tuple[Fitting, ...]:
    """300 fittings: the generic ones and random adapters among all threads (seeded)."""
    draw = random.Random(4)
    names = [thread.name for thread in all_threads()]
    fresh = [
        Fitting(f"random {i}", *draw.sample(names, 2), float(draw.randint(8, 40)))
        for i in range(COUNT - len(generic_fittings()))
    ]
    return (*generic_fittings(), *fresh)


def plain_graph(fittings: tuple[Fitting, ...]) -> nx.DiGraph:
    """Open ends as nodes; an edge screws a fitting on. Weight: one a fitting, then its length."""
    graph = nx.DiGraph()
    ends = {(end.connection.name, end.gender): end for fitting in fittings for end in fitting.ends}
    for (name, gender), end in ends.items():
        for mate in partners(end.connection, gender):
            other = "female" if gender == "male" else "male"
            graph.add_edge(("open", name, gender), ("taken", mate, other), weight=0.0)
    for fitting in fittings:
        one, two = fitting.ends
        for entering, leaving in ((one, two), (two, one)):
            at, to = (
                ("taken", entering.connection.name, entering.gender),
                ("open", leaving.connection.name, leaving.gender),
            )
            weight = 1.0 + fitting.length_mm / 1e6
            if not graph.has_edge(at, to) or graph[at][to]["weight"] > weight:
                graph.add_edge(at, to, weight=weight)
    return graph


CASES = [
    ("M20x1.5 female", "1/4-18 NPT male"),
    ("filter 20 mm female", "probe 3.2 mm male"),
    ("1/8-28 BSPT female", "G1/2 male"),
]


@pytest.mark.parametrize(("port", "sender"), CASES)
def test_stack_solver(benchmark, port, sender):
    fittings, start, goal = (
        library(),
        end_called(port, "port", "female"),
        end_called(sender, "sender", "male"),
    )
    assert benchmark(solve_stack, start, goal, fittings).found


@pytest.mark.parametrize(("port", "sender"), CASES)
def test_plain_shortest_path_on_the_same_graph(benchmark, port, sender):
    fittings, start, goal = (
        library(),
        end_called(port, "port", "female"),
        end_called(sender, "sender", "male"),
    )
    graph = plain_graph(fittings)
    source, target = (
        ("open", start.connection.name, start.gender),
        ("taken", goal.connection.name, goal.gender),
    )
    graph.add_edges_from((source, ("taken", m, "male")) for m in partners(start.connection, start.gender))
    nx.set_edge_attributes(graph, dict.fromkeys(graph.out_edges(source), 0.0), "weight")
    steps = benchmark(nx.dijkstra_path_length, graph, source, target)
    assert int(steps) == len(solve_stack(start, goal, fittings).chain)


def test_full_comparison_of_the_single_seater(benchmark):
    job = job_from_data(example_job_data("single_seater"))
    found = benchmark(lambda: [candidates_for(job, channel, generic_fittings()) for channel in job.chains])
    assert sum(map(len, found)) > 15
