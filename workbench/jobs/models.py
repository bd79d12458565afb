"""Jobs as they are stored: one row for the job, one row for each of its parts.

A part's ``body`` is the plain data of the core's dataclass of that name, checked by the core before it is
stored. One mapper (``storage``) turns rows into a ``metrolex.job.Job`` and back, so that the database, the job
file, the command line and the twin share one shape; see docs/decisions.
"""

from __future__ import annotations

from django.conf import settings
from django.db import models

from metrolex.job import LISTS
from metrolex.job.changes import Change
from workbench.accounts.models import Workshop

#: The parts of a job there is one of: columns of its record.
WHOLE = ("vehicle", "brief", "survey", "bus", "closing", "work_hours")

PART_KINDS = [(name, name) for name in LISTS]


class JobQuerySet(models.QuerySet["JobRecord"]):
    """Jobs of one workshop; nothing else is ever asked for."""

    def for_workshop(self, workshop: Workshop | None) -> JobQuerySet:
        """The jobs of a workshop; none at all for nobody's."""
        return self.filter(workshop=workshop) if workshop else self.none()

    def light(self) -> JobQuerySet:
        """Without what only the mapper reads, and only where the job is not at hand."""
        return self.defer(*WHOLE)

    def on_the_shelf(self) -> JobQuerySet:
        """The job touched last first."""
        return self.order_by("-updated", "-id")

    def matching(self, words: str) -> JobQuerySet:
        """Jobs whose own name or whose vehicle's name holds the words."""
        return self.filter(
            models.Q(name__icontains=words) | models.Q(vehicle__identity__name__icontains=words)
        )


class JobRecord(models.Model):
    """One job of a workshop, with what the shelf shows of it."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="jobs")
    name = models.CharField(max_length=120)
    vehicle = models.JSONField(default=dict)
    brief = models.JSONField(default=dict)
    survey = models.JSONField(default=dict)
    bus = models.JSONField(default=dict)
    closing = models.JSONField(default=dict, db_default={})
    work_hours = models.JSONField(default=dict, db_default={})
    version = models.PositiveIntegerField(default=1)
    next_words = models.CharField(max_length=400, blank=True)
    next_stage = models.CharField(max_length=20, blank=True)
    next_grade = models.CharField(max_length=10, blank=True)
    summary_version = models.PositiveIntegerField(default=0, db_default=0)
    created = models.DateTimeField(auto_now_add=True)
    updated = models.DateTimeField(auto_now=True)

    objects = JobQuerySet.as_manager()
    #: The version an act through this very object stored last.
    acted: int | None = None

    class Meta:
        indexes = [models.Index(fields=["workshop", "-updated"])]

    def __str__(self) -> str:
        return self.name


class Part(models.Model):
    """One part of a job: a channel, a sender, a circuit, a wire, an observation..."""

    job = models.ForeignKey(JobRecord, on_delete=models.CASCADE, related_name="parts")
    kind = models.CharField(max_length=20, choices=PART_KINDS)
    key = models.CharField(max_length=200)
    position = models.PositiveIntegerField(default=0)
    body = models.JSONField()
    version = models.PositiveIntegerField(default=1)
    updated = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "kind", "key"], name="one_part_per_key")]
        ordering = ["kind", "position", "id"]

    def __str__(self) -> str:
        return f"{self.kind} {self.key}"


class Act(models.Model):
    """One change of a job: who made it and when, in words, why, and every value before and after.

    The version is the one the job had after it; see ``metrolex.job.changes`` for ``changes``.
    """

    job = models.ForeignKey(JobRecord, on_delete=models.CASCADE, related_name="acts")
    version = models.PositiveIntegerField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    by_name = models.CharField(max_length=150, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    words = models.CharField(max_length=400)
    why = models.CharField(max_length=2000, blank=True)
    schema = models.PositiveSmallIntegerField()
    changes = models.JSONField(default=list)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "version"], name="one_act_per_version")]
        ordering = ["job", "version"]

    def __str__(self) -> str:
        return f"{self.by_name}: {self.words}"

    def what(self) -> list[Change]:
        """What it changed."""
        return [Change.of(plain) for plain in self.changes]
