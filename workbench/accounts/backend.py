"""Who a request comes from: the person and their place in a workshop, in one query."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib.auth.backends import ModelBackend

from workbench.accounts.models import Membership, User

__all__ = ["WorkshopBackend"]


class WorkshopBackend(ModelBackend):
    """Logs in by name and password as Django does; the person comes with their first membership, None without one."""

    def get_user(self, user_id: Any) -> User | None:
        found = Membership.objects.select_related("user", "workshop").filter(user_id=user_id).first()
        person = found.user if found else super().get_user(user_id)
        if not isinstance(person, User) or not self.user_can_authenticate(person):
            return None
        person.member = found
        return person

    def user_can_authenticate(self, user: Any) -> bool:
        """Not for the demo's person outside the demo: their password is printed."""
        return super().user_can_authenticate(user) and not (user.is_demo and settings.DEMO_LOGIN is None)
