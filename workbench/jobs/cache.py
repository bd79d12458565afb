"""Jobs as last read, by record and version, so that what was worked out of one is there for the next request.

What a job's pages need is kept with the job itself (``metrolex.job.once``): one entry here is a job with all its states. The bound is
in bytes of the stored job times ``WEIGHT``, what all its states were measured to take in memory for each of them.
"""

from __future__ import annotations

import datetime
import json
import threading
from collections import OrderedDict
from dataclasses import dataclass, field

from django.conf import settings

from metrolex.intake import dump
from metrolex.job import Job
from workbench.jobs.models import JobRecord
from workbench.jobs.storage import job_of

__all__ = ["JOBS", "JobCache"]

#: Bytes in memory for a byte of the stored job, worked out in every state (measured: 90 to 155, see tests/web/test_cache.py).
WEIGHT = 200

Key = tuple[int, int, datetime.datetime]


@dataclass(slots=True)
class JobCache:
    """The jobs asked for last, within ``most_bytes`` in all; safe to be asked by several threads."""

    most_bytes: int
    jobs: OrderedDict[Key, tuple[Job, int]] = field(default_factory=OrderedDict)
    bytes: int = 0
    lock: threading.Lock = field(default_factory=threading.Lock)

    def job_of(self, record: JobRecord) -> Job:
        """The job of a record as it was read; from the rows where this version is not kept."""
        key = (record.pk, record.version, record.updated)
        with self.lock:
            if key in self.jobs:
                self.jobs.move_to_end(key)
                return self.jobs[key][0]
        job = job_of(record)
        return self._keep(key, job)

    def put(self, record: JobRecord, job: Job) -> None:
        """Keep a job just stored, with what was worked out of it on the way."""
        self._keep((record.pk, record.version, record.updated), job)

    def _keep(self, key: Key, job: Job) -> Job:
        weight = WEIGHT * len(json.dumps(dump(job)))
        with self.lock:
            if key not in self.jobs:
                self.jobs[key] = (job, weight)
                self.bytes += weight
            while self.bytes > self.most_bytes and len(self.jobs) > 1:
                _, (_, gone) = self.jobs.popitem(last=False)
                self.bytes -= gone
            return self.jobs[key][0] if key in self.jobs else job


JOBS = JobCache(settings.JOB_CACHE_BYTES)
