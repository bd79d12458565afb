"""What the shelf says of a job: its next action."""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.check.stages import next_action
from metrolex.job import Job
from workbench.jobs.look import FIRST_SEEN, look_at

__all__ = ["Summary", "summary_of"]


@dataclass(frozen=True, slots=True)
class Summary:
    """The next action in words, the stage it belongs to, the worst grade that stands there."""

    words: str
    stage: str
    grade: str


def summary_of(job: Job) -> Summary:
    """Worked out as a job is first looked at, so that its page finds it done. Raises CircuitError where the circuit has no answer."""
    look = look_at(job, FIRST_SEEN)
    words, stage = next_action(job, look.rows, look.standing)
    worst = look.standing[0].grade if look.standing else ""
    return Summary(words, stage, worst if worst != "note" else "")
