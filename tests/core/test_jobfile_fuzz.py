"""Any one value of a job file put wrong: read and worked out, or refused with the place; never anything else."""

from __future__ import annotations

import copy
import random

import pytest

from metrolex.check import chain_board, find_all
from metrolex.errors import BadInput, CircuitError
from metrolex.job import State
from metrolex.jobfile import example_job_data, job_from_data
from metrolex.twin import build, solve
from tests.attack.how_much import several

WRONG = [None, "", "x", -1, 0, 1e-9, 1e9, 1e300, True, [], {}, [[1, 2], [3, 4]], "F9", "gauge 2", "1"]


def places(data, path=()):
    yield path
    if isinstance(data, dict):
        for key, item in data.items():
            yield from places(item, (*path, key))
    elif isinstance(data, list):
        for i, item in enumerate(data):
            yield from places(item, (*path, i))


PLACES = [path for path in places(example_job_data()) if path]


@pytest.mark.parametrize("seed", several(60, 5000))
def test_one_wrong_value(seed):
    rnd = random.Random(seed)
    data = copy.deepcopy(example_job_data())
    *way, last = rnd.choice(PLACES)
    at = data
    for key in way:
        at = at[key]
    at[last] = rnd.choice(WRONG)
    try:
        job = job_from_data(data)
    except BadInput as refusal:
        assert refusal.field
        assert refusal.message
        return
    try:
        solved = solve(build(job), State("run", "park", "running"))
        assert len(chain_board(build(job), solved, find_all(build(job), solved))) == len(job.chains)
    except CircuitError as fault:
        assert str(fault).endswith(".")
