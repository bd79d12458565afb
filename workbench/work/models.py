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
    def counts(cls, job: JobRecord) -> dict[str, int]:
        """How many there are of each step of a job."""
        rows = cls.objects.filter(job=job).order_by("step").values("step").annotate(n=models.Count("pk"))
        return {row["step"]: row["n"] for row in rows}
