"""Papers as they were last asked for."""

from __future__ import annotations

import datetime

from django.db import models
from django.utils import timezone

from workbench.jobs.models import JobRecord

__all__ = ["Printed"]

LOST_AFTER = datetime.timedelta(minutes=2)  # a printing that has not ended by then went down with its worker
NOBODY_AFTER = datetime.timedelta(seconds=15)  # what waits longer, with nothing before it, has no worker


class Printed(models.Model):
    """One paper of a job, the edition asked for last: it waits for its turn, is being printed, failed, or is there."""

    record = models.ForeignKey(JobRecord, on_delete=models.CASCADE, related_name="printed")
    paper = models.CharField(max_length=20)
    edition = models.CharField(max_length=60)
    about = models.JSONField(default=dict)
    asked = models.DateTimeField()
    begun = models.DateTimeField(null=True)
    progress = models.CharField(max_length=120, blank=True)
    done = models.DateTimeField(null=True)
    failed = models.BooleanField(default=False)
    pages = models.PositiveIntegerField(null=True)
    pdf = models.BinaryField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["record", "paper"], name="one_of_each_paper")]

    def __str__(self) -> str:
        return f"{self.paper} of {self.record_id}"

    @property
    def lost(self) -> bool:
        """Whether it was begun and will not be ended."""
        return self.done is None and self.begun is not None and timezone.now() - self.begun > LOST_AFTER

    @property
    def pending(self) -> bool:
        """Whether it waits or is being printed."""
        return self.done is None and not self.failed and not self.lost

    @property
    def before(self) -> int:
        """How many papers are printed before it."""
        waiting = Printed.objects.filter(done=None, failed=False, asked__lt=self.asked)
        return waiting.filter(asked__gt=timezone.now() - LOST_AFTER).count()

    @property
    def unattended(self) -> bool:
        """Whether it waits though nothing is before it: no worker takes it."""
        late = timezone.now() - self.asked > NOBODY_AFTER
        return self.pending and self.begun is None and late and not self.before
