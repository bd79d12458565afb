"""A finished chain of an example job, to look at while one's own is still empty."""

from __future__ import annotations

import functools
from dataclasses import dataclass

from metrolex.check import Row, with_accuracy
from metrolex.job import Job
from metrolex.jobfile import example_job_data, job_from_data
from workbench.jobs.look import FIRST_SEEN, look_at

__all__ = ["ExampleChain", "example_chain"]


@dataclass(frozen=True, slots=True)
class ExampleChain:
    """The job it is of, and its row of the board."""

    job: Job
    rows: tuple[Row, ...]


@functools.cache
def example_chain() -> ExampleChain:
    """The first chain of the example jobs in which no link is open."""
    job = job_from_data(example_job_data("van"))
    look = look_at(job, FIRST_SEEN)
    rows = with_accuracy(look.network, look.rows)
    whole = [row for row in rows if all(cell.state in ("settled", "proved", "none") for cell in row.cells)]
    return ExampleChain(job, tuple(whole[:1]))
