"""What is printed, and when it is forgotten."""

from __future__ import annotations

from typing import Any

from django.apps import AppConfig
from django.db.models.signals import post_migrate


class PrintingConfig(AppConfig):
    name = "workbench.printing"

    def ready(self) -> None:
        from workbench.printing import checks  # noqa: F401  they register themselves

        post_migrate.connect(_forget_papers, sender=self)


def _forget_papers(using: str, **_: Any) -> None:
    """A newer program may print a job differently: what an older one printed is printed again when it is asked for."""
    from workbench.printing.models import Printed

    Printed.objects.using(using).exclude(done=None).delete()
