"""What must not be in a workshop's database."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.conf import settings
from django.core.checks import CheckMessage, Error, Tags, register
from django.db import connections

from workbench.accounts.models import User

__all__ = ["no_demo_account"]


@register(Tags.database)
def no_demo_account(databases: Sequence[str] | None = None, **_: Any) -> list[CheckMessage]:
    """The demo's person, whose password is printed, is not in a database that is no demo's."""
    if settings.DEMO_LOGIN is not None or not databases:
        return []
    for name in databases:
        there = User._meta.db_table in connections[name].introspection.table_names()
        if there and User.objects.using(name).filter(is_demo=True, is_active=True).exists():
            return [
                Error(
                    "The demo's account is in this database.",
                    hint="It cannot log in here, but take it out: it came with 'prepare --demo'.",
                    id="accounts.E001",
                )
            ]
    return []
