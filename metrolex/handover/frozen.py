"""A job as it was handed over: its check sum, and what has been changed since."""

from __future__ import annotations

import hashlib
import json
from itertools import groupby

from metrolex.job import Job
from metrolex.job.changes import changes_of, part_of, words_of
from metrolex.jobfile import job_to_data

__all__ = ["check_sum", "since"]


def check_sum(job: Job) -> str:
    """SHA-256 (FIPS 180-4) of the job's plain data, keys in order, without blanks: 64 hexadecimal digits.

    Two jobs have the same where everything in them is the same.
    """
    plain = json.dumps(job_to_data(job), sort_keys=True, ensure_ascii=False, separators=(",", ":"))
    return hashlib.sha256(plain.encode()).hexdigest()


def since(handed: Job, now: Job) -> tuple[str, ...]:
    """What is other than it was handed over, a line for each part."""
    parts = groupby(changes_of(handed, now), key=part_of)
    return tuple(words_of(list(changes)) for _, changes in parts)
