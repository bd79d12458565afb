"""A workshop, by name."""

from __future__ import annotations

from typing import Any

from django.core.management import BaseCommand, CommandError
from django.core.management.base import CommandParser

from metrolex.characters import unfit
from workbench.accounts.models import Workshop


class Command(BaseCommand):
    """``manage.py add_workshop NAME``"""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name")

    def handle(self, *args: Any, **options: Any) -> None:
        name = options["name"].strip()
        if not name or len(name) > 120 or unfit(name):
            raise CommandError("Give it a name of 1 to 120 characters that can be read.")
        if Workshop.objects.filter(name=name).exists():
            raise CommandError(f"There is a workshop '{name}' already.")
        Workshop.objects.create(name=name)
        self.stdout.write(
            f"Workshop '{name}' is there. Next: manage.py add_person NAME --workshop '{name}' --role lead"
        )
