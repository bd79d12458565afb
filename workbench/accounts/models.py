"""People and the workshops they belong to. Every record of a job hangs from a workshop."""

from __future__ import annotations

from django.contrib.auth.models import AbstractUser
from django.db import models


class Workshop(models.Model):
    """A workshop: what it owns no other workshop can see."""

    name = models.CharField(max_length=120)
    library_version = models.PositiveIntegerField(default=0, db_default=0)
    zone = models.CharField(max_length=60, blank=True, default="", db_default="")

    def __str__(self) -> str:
        return self.name


class User(AbstractUser):
    """A person who logs in. ``member`` is their place in the workshop they work for, as the login found it.

    The demo's person, whose password stands on the log-in page, is marked: outside the demo's settings nobody logs in as them.
    """

    is_demo = models.BooleanField(default=False, db_default=False)
    member: Membership | None = None


class Membership(models.Model):
    """A person's place in a workshop."""

    class Role(models.TextChoices):
        LEAD = "lead", "Lead"
        FITTER = "fitter", "Fitter"
        READER = "reader", "Reader"

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="memberships")
    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role.choices, default=Role.FITTER)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["user", "workshop"], name="one_membership_per_workshop")
        ]
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.user} at {self.workshop}"

    @property
    def name(self) -> str:
        """The person's name as it stands beside what they did."""
        return self.user.get_full_name() or self.user.get_username()
