"""No value that is accepted breaks a calculation, a page or an export."""

from __future__ import annotations

import warnings

import pytest

from metrolex.check import chain_board, find_all, still_standing
from metrolex.errors import CircuitError
from metrolex.faults import what_if
from metrolex.job import State
from metrolex.jobfile import EXAMPLES, job_from_text, job_to_text
from metrolex.twin import build, expect, solve
from metrolex.twin.error_budget import channel_budget
from metrolex.twin.expectations import STATES
from metrolex.twin.grounds import ground_layouts
from tests.attack.extremes import extreme_jobs
from tests.attack.how_much import several
from tests.jobs import shipped

RUNNING = State("run", "head", "running")


def everything(job):
    """All that is worked out of a job."""
    network = build(job)
    solved = solve(network, RUNNING)
    findings = find_all(network, solved)
    chain_board(network, solved, still_standing(job, findings))
    for state in STATES:
        expect(network, state)
    for channel in job.chains:
        what_if(network, RUNNING, channel)
        channel_budget(network, RUNNING, channel)
    ground_layouts(network)


@pytest.mark.thorough
@pytest.mark.parametrize("seed", several(3, 300))
@pytest.mark.parametrize("name", EXAMPLES)
def test_what_is_accepted_can_be_worked_out(name, seed):
    for job, changed in extreme_jobs(shipped(name), seed, 12):
        with warnings.catch_warnings():
            warnings.simplefilter("error", RuntimeWarning)
            try:
                everything(job)
            except CircuitError:
                continue  # told in words, and not stored: the door solves before it stores
            except BaseException as fault:
                raise AssertionError(f"{changed} broke it") from fault
        assert job_from_text(job_to_text(job)) == job
