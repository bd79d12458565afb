"""Command line: order."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from metrolex.cli.calculation import Calculation
from metrolex.cli.examples import EXAMPLES
from metrolex.errors import BadInput
from metrolex.jobfile import job_from_data
from metrolex.twin import build
from metrolex.workorder import Step, order_steps
from metrolex.workorder.plan import planned_steps

__all__ = ["CALCULATIONS", "OrderInput"]


@dataclass(frozen=True, slots=True)
class OrderInput:
    """A job, whose parts make the steps, or the steps themselves."""

    job: dict[str, Any] | None = None
    steps: tuple[Step, ...] | None = None

    def __post_init__(self) -> None:
        if (self.job is None) == (self.steps is None):
            raise BadInput("steps", None, "a job or steps, one of them")


def run_order(asked: OrderInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """The order with the fewest entries into states, then the least time."""
    if asked.job is not None:
        steps: Sequence[Step] = [one.step for one in planned_steps(build(job_from_data(asked.job, "job")))]
    else:
        steps = asked.steps or ()
    found = order_steps(steps)
    return {
        "sequence": [
            {"name": one.step.name, "start_min": one.start_min, "end_min": one.end_min}
            for one in found.sequence
        ],
        "setups": found.setups,
        "total_min": found.total_min,
        "at_least_min": found.at_least,
        "proved": found.proved,
        "findings": [],
    }


CALCULATIONS = {"order": Calculation(OrderInput, run_order, EXAMPLES["order"]())}
