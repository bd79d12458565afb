"""What is said when a job is closed."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from metrolex.intake import dump, read
from metrolex.job import Closing, Job

__all__ = ["set_closing"]


def set_closing(job: Job, data: dict[str, Any]) -> Job:
    """The named fields of the closing words changed. Raises BadInput."""
    return replace(job, closing=read(Closing, {**dump(job.closing), **data}, "closing"))
