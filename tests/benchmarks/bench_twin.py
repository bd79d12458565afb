"""Solve time of the van job, and as a ratio to numpy solving a dense matrix of the same size."""

from __future__ import annotations

import numpy as np

from metrolex.circuit import VoltageFollower, VoltageSource
from metrolex.job import State
from metrolex.twin import build, solve
from tests.jobs import van

ROUNDS = {"rounds": 200, "warmup_rounds": 20}


def test_twin_one_state(benchmark):
    network = build(van())
    benchmark.pedantic(solve, (network, State("run")), **ROUNDS)


def test_dense_matrix_of_the_same_size(benchmark):
    solved = solve(build(van()), State("run"))
    branches = sum(isinstance(e, (VoltageSource, VoltageFollower)) for e in solved.elements)
    size = len(solved.solution.potentials) - 1 + branches
    rnd = np.random.default_rng(1)
    benchmark.pedantic(
        np.linalg.solve, (rnd.random((size, size)) + size * np.eye(size), rnd.random(size)), **ROUNDS
    )
