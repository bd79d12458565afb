"""An act on a job file: the job after it, what it changed, what the rules say of it then."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from metrolex.acts.catalogue import act_called, all_acts
from metrolex.check import find_all
from metrolex.cli.calculation import Calculation, findings_out
from metrolex.cli.examples import EXAMPLES
from metrolex.findings import Finding
from metrolex.intake import dump
from metrolex.job import Job, State
from metrolex.job.changes import changes_between, words_of
from metrolex.jobfile import job_from_data, job_to_data
from metrolex.twin import build, solve

__all__ = ["CALCULATIONS", "ActInput"]


@dataclass(frozen=True, slots=True)
class ActInput:
    """A job, the act by name, and what it is given."""

    job: dict[str, Any]
    act: str = ""
    with_: dict[str, Any] = field(default_factory=dict)


def run_act(asked: ActInput, flags: Sequence[str] = ()) -> dict[str, Any]:
    """The job file after the act, its changes one by one and in words; with --list the acts there are."""
    if "--list" in flags:
        return {"acts": {name: [*act.takes] for name, act in all_acts().items()}}
    before = job_from_data(asked.job, "job")
    after = act_called(asked.act).on(before, asked.with_)
    changes = changes_between(dump(before, whole=True), dump(after, whole=True))
    return {
        "job": job_to_data(after),
        "changes": [change.plain() for change in changes],
        "words": words_of(changes, most=20),
        "findings": findings_out(_findings(after)),
    }


def _findings(job: Job) -> tuple[Finding, ...]:
    network = build(job)
    return find_all(network, solve(network, State()))


CALCULATIONS = {
    "act": Calculation(
        ActInput,
        run_act,
        EXAMPLES["act"](),
        ("--list",),
    )
}
