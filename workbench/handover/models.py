"""Jobs as they were handed over."""

from __future__ import annotations

from django.conf import settings
from django.db import models

from metrolex.job import Job
from metrolex.jobfile import job_from_text
from workbench.jobs.models import JobRecord

__all__ = ["Handed"]


class Handed(models.Model):
    """One handing over: the whole job of that day, never changed again. ``number`` counts those of a job from 1.

    ``passed`` are the bars that were gone past, each in words, ``reason`` why.
    """

    record = models.ForeignKey(JobRecord, on_delete=models.CASCADE, related_name="handed")
    number = models.PositiveIntegerField()
    at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    by_name = models.CharField(max_length=150, blank=True)
    to = models.CharField(max_length=120)
    reason = models.CharField(max_length=2000, blank=True)
    passed = models.JSONField(default=list)
    version = models.PositiveIntegerField()
    check_sum = models.CharField(max_length=64)
    job_file = models.TextField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["record", "number"], name="one_handing_over_per_number")
        ]
        ordering = ["record", "-number"]

    def __str__(self) -> str:
        return f"{self.record_id} handed over, {self.number}"

    @property
    def job(self) -> Job:
        """The job as it was."""
        return job_from_text(self.job_file)

    @property
    def sum_in_groups(self) -> str:
        """The check sum as it is printed and read out: in groups of eight."""
        return " ".join(self.check_sum[i : i + 8] for i in range(0, len(self.check_sum), 8))
