"""Going past a stop in writing, and back."""

from __future__ import annotations

from dataclasses import replace

from metrolex.errors import BadInput
from metrolex.job import Job, Waiver

__all__ = ["stop_waiving", "waive_finding"]


def waive_finding(job: Job, code: str, subject: str, reason: str, by: str) -> Job:
    """Waive a stop, with a reason. The reason is printed in the book."""
    if not reason.strip():
        raise BadInput("reason", reason, "a written reason", "Write down why: it is printed in the book.")
    rest = tuple(o for o in job.waivers if (o.code, o.subject) != (code, subject))
    return replace(job, waivers=(*rest, Waiver(code, subject, reason.strip(), by)))


def stop_waiving(job: Job, code: str, subject: str) -> Job:
    """Take a written waiver back: the finding stands again."""
    return replace(job, waivers=tuple(o for o in job.waivers if (o.code, o.subject) != (code, subject)))
