"""Going past a stop in writing, and back."""

from __future__ import annotations

from dataclasses import replace

from metrolex.errors import BadInput
from metrolex.job import Job, Override

__all__ = ["override_finding", "remove_override"]


def override_finding(job: Job, code: str, subject: str, reason: str, by: str) -> Job:
    """Go past a stop in writing. The reason is printed in the book."""
    if not reason.strip():
        raise BadInput("reason", reason, "a written reason", "Write down why: it is printed in the book.")
    rest = tuple(o for o in job.overrides if (o.code, o.subject) != (code, subject))
    return replace(job, overrides=(*rest, Override(code, subject, reason.strip(), by)))


def remove_override(job: Job, code: str, subject: str) -> Job:
    """Take a written override back: the finding stands again."""
    return replace(job, overrides=tuple(o for o in job.overrides if (o.code, o.subject) != (code, subject)))
