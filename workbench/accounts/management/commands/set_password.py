"""Another password for a person."""

from __future__ import annotations

from typing import Any

from django.core.management import BaseCommand, CommandError
from django.core.management.base import CommandParser

from workbench.accounts.models import User
from workbench.accounts.passwords import password_for


class Command(BaseCommand):
    """``manage.py set_password NAME [--make-password]``"""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name")
        parser.add_argument("--make-password", action="store_true", help="make one up and print it")

    def handle(self, *args: Any, **options: Any) -> None:
        person = User.objects.filter(username=options["name"]).first()
        if person is None:
            raise CommandError(f"There is nobody called '{options['name']}'.")
        password = password_for(person, made_up=options["make_password"])
        person.set_password(password)
        person.save(update_fields=["password"])
        told = f" It is: {password}" if options["make_password"] else ""
        self.stdout.write(f"{person.username} has a new password; they are logged out everywhere.{told}")
