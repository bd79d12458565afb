"""Photographs a site's outline is traced over."""

from __future__ import annotations

from django.db import models

from workbench.jobs.models import JobRecord

__all__ = ["SitePhoto"]


class SitePhoto(models.Model):
    """A photograph of one site of a job, straight on, made small before it is kept."""

    job = models.ForeignKey(JobRecord, on_delete=models.CASCADE, related_name="site_photos")
    site = models.CharField(max_length=60)
    at = models.DateTimeField(auto_now_add=True)
    wide = models.PositiveIntegerField()
    high = models.PositiveIntegerField()
    jpeg = models.BinaryField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "site"], name="one_photo_per_site")]

    def __str__(self) -> str:
        return f"{self.site}, {self.at:%Y-%m-%d}"
