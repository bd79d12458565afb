"""Papers that were asked for."""

from __future__ import annotations

import datetime
import hashlib
import json
from typing import Any

from django.db import models
from django.db.models import Max
from django.utils import timezone

from workbench.jobs.models import JobRecord

__all__ = ["Printed", "next_in_turn"]

LOST_AFTER = datetime.timedelta(minutes=2)  # a printing that has not ended by then went down with its worker
NOBODY_AFTER = datetime.timedelta(seconds=15)  # what waits longer, with nothing before it, has no worker


def key_of(paper: str, edition: str, about: dict[str, Any]) -> str:
    """What a paper is of, as one word: no two papers of a job that may differ have the same."""
    plain = json.dumps([paper, edition, about], sort_keys=True, ensure_ascii=True)
    return hashlib.sha256(plain.encode()).hexdigest()[:40]


class Printed(models.Model):
    """One paper of a job, of all it is made of: it waits for its turn, is being printed, failed, or is there.

    ``edition`` is the job and its workshop as they were asked for, ``about`` every option; ``key`` is both and the paper's name.
    """

    record = models.ForeignKey(JobRecord, on_delete=models.CASCADE, related_name="printed")
    paper = models.CharField(max_length=20)
    key = models.CharField(max_length=40)
    edition = models.CharField(max_length=200)
    about = models.JSONField(default=dict)
    asked = models.DateTimeField()
    begun = models.DateTimeField(null=True)
    progress = models.CharField(max_length=120, blank=True)
    done = models.DateTimeField(null=True)
    failed = models.BooleanField(default=False)
    pages = models.PositiveIntegerField(null=True)
    pdf = models.BinaryField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["record", "key"], name="one_of_each_paper")]

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
        """How many papers are printed before it, at most: those of its workshop asked for earlier, and as many of each other one."""
        waiting: dict[int, list[Printed]] = {}
        for one in _waiting():
            waiting.setdefault(one.record.workshop_id, []).append(one)
        mine = waiting.pop(self.record.workshop_id, [])
        ahead = sum(one.asked < self.asked for one in mine)
        return ahead + sum(min(len(theirs), ahead + 1) for theirs in waiting.values())

    @property
    def unattended(self) -> bool:
        """Whether it waits though nothing is before it: no worker takes it."""
        late = timezone.now() - self.asked > NOBODY_AFTER
        return self.pending and self.begun is None and late and not self.before


def _waiting() -> list[Printed]:
    """Papers that are not there yet, in the order they were asked for; what went down with its worker among them."""
    found = Printed.objects.filter(done=None, failed=False).defer("pdf").select_related("record")
    return sorted(found, key=lambda one: (one.asked, one.pk))


def next_in_turn() -> Printed | None:
    """The paper whose turn it is: workshops take turns, so that nobody's fifty papers hold up another's one."""
    last = dict(
        Printed.objects.exclude(begun=None)
        .values_list("record__workshop")
        .annotate(last=Max("begun"))
        .order_by()
    )
    never = datetime.datetime.min.replace(tzinfo=datetime.UTC)
    free = [one for one in _waiting() if one.begun is None or one.lost]
    return min(
        free, key=lambda one: (last.get(one.record.workshop_id, never), one.asked, one.pk), default=None
    )
