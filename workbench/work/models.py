"""Photographs taken at a step of the work."""

from __future__ import annotations

from django.db import models

from workbench.jobs.models import JobRecord

__all__ = ["StepPhoto"]


class StepPhoto(models.Model):
    """A photograph of one step of a job, made small before it is kept."""

    job = models.ForeignKey(JobRecord, on_delete=models.CASCADE, related_name="photos")
    step = models.CharField(max_length=160)
    by_name = models.CharField(max_length=150, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    jpeg = models.BinaryField()

    class Meta:
        ordering = ["at", "id"]
        indexes = [models.Index(fields=["job", "step"])]

    def __str__(self) -> str:
        return f"{self.step}, {self.at:%Y-%m-%d}"

    @classmethod
    def of_steps(cls, job: JobRecord) -> dict[str, list[int]]:
        """The keys of those of each step of a job, oldest first."""
        found: dict[str, list[int]] = {}
        for step, key in cls.objects.filter(job=job).values_list("step", "pk"):
            found.setdefault(step, []).append(key)
        return found
