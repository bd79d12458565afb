"""What a workshop keeps on its shelf: its own fittings, and which generic ones it stocks or does without."""

from __future__ import annotations

from typing import Any

from django.db import models
from django.db.models.signals import post_delete, post_save
from django.dispatch import receiver

from workbench.accounts.models import Workshop


class ShelfQuerySet(models.QuerySet[Any]):
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


class ShelfPart(models.Model):
    """A sender, a display or a step of work of the workshop's own, as the core's dataclass of that kind."""

    KINDS = [("sender", "sender"), ("display", "display"), ("step", "step of work")]

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="shelf_parts")
    kind = models.CharField(max_length=20, choices=KINDS)
    name = models.CharField(max_length=120)
    body = models.JSONField()
    updated = models.DateTimeField(auto_now=True)

    objects = ShelfQuerySet.as_manager()

    class Meta:
        ordering = ["kind", "name"]
        constraints = [
            models.UniqueConstraint(fields=["workshop", "kind", "name"], name="one_shelf_part_of_a_name")
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.name}"


@receiver([post_save, post_delete], sender=ShelfFitting)
@receiver([post_save, post_delete], sender=ShelfPart)
def library_changed(instance: ShelfFitting | ShelfPart, **_: object) -> None:
    """A page made of the workshop's library before this is not the page any more."""
    known_anew(instance.workshop_id)


def known_anew(workshop: int) -> None:
    """What a workshop knows beside its jobs has changed."""
    Workshop.objects.filter(pk=workshop).update(library_version=models.F("library_version") + 1)
