"""What the shelf says of a job: its next action.

It is worked out when the answer to a save has been sent, as the job is first looked at, so that its page finds it done. The version it
is of stands beside it: where another one was stored since, or the program was stopped in between, the shelf works it out itself.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from metrolex.check.stages import next_action
from metrolex.job import Job
from workbench.jobs.cache import JOBS
from workbench.jobs.look import FIRST_SEEN, look_at
from workbench.jobs.models import JobRecord

__all__ = ["Summary", "keep_summary", "summary_of", "with_summaries"]


@dataclass(frozen=True, slots=True)
class Summary:
    """The next action in words, the stage it belongs to, the worst grade that stands there."""

    words: str
    stage: str
    grade: str


def summary_of(job: Job) -> Summary:
    """The next action of a job. Raises CircuitError where the circuit has no answer."""
    look = look_at(job, FIRST_SEEN)
    words, stage = next_action(job, look.rows, look.standing)
    worst = look.standing[0].grade if look.standing else ""
    return Summary(words, stage, worst if worst != "note" else "")


def keep_summary(record: JobRecord, job: Job) -> None:
    """Work the summary of this version out and store it, unless another version has been stored since."""
    found = summary_of(job)
    record.next_words, record.next_stage, record.next_grade = found.words[:400], found.stage, found.grade
    record.summary_version = record.version
    JobRecord.objects.filter(pk=record.pk, version=record.version).update(
        next_words=record.next_words,
        next_stage=record.next_stage,
        next_grade=record.next_grade,
        summary_version=record.version,
    )


def with_summaries(records: Iterable[JobRecord]) -> list[JobRecord]:
    """The records, each with the summary of its own version."""
    found = list(records)
    for record in found:
        if record.summary_version != record.version:
            keep_summary(record, JOBS.job_of(record))
    return found
