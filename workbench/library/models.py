"""What a workshop keeps on its shelf: its own fittings, and which generic ones it stocks or does without."""

from __future__ import annotations

from django.db import models

from workbench.accounts.models import Workshop


class ShelfQuerySet(models.QuerySet["ShelfFitting"]):
    def for_workshop(self, workshop: Workshop | None) -> ShelfQuerySet:
        """Rows of one workshop; none without one."""
        return self.filter(workshop=workshop) if workshop else self.none()


class ShelfFitting(models.Model):
    """A fitting of the workshop's own (``body`` holds it), or what it says of a generic one (``body`` empty)."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="fittings")
    name = models.CharField(max_length=120)
    body = models.JSONField(default=dict, blank=True)
    stock = models.PositiveIntegerField(default=0)
    left_out = models.BooleanField(default=False)

    objects = ShelfQuerySet.as_manager()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["workshop", "name"], name="one_fitting_of_a_name")]

    def __str__(self) -> str:
        return self.name
