"""A person of a workshop, with a role and a password."""

from __future__ import annotations

from typing import Any

from django.core.exceptions import ValidationError
from django.core.management import BaseCommand, CommandError
from django.core.management.base import CommandParser
from django.db import transaction

from workbench.accounts.models import Membership, User, Workshop
from workbench.accounts.passwords import password_for


class Command(BaseCommand):
    """``manage.py add_person NAME --workshop NAME [--role lead|fitter|reader] [--make-password]``"""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name", help="what they log in by")
        parser.add_argument("--workshop", required=True)
        parser.add_argument("--role", choices=Membership.Role.values, default=Membership.Role.FITTER)
        parser.add_argument("--full-name", default="", help="as it stands beside what they did")
        parser.add_argument("--make-password", action="store_true", help="make one up and print it")

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        workshop = Workshop.objects.filter(name=options["workshop"].strip()).first()
        if workshop is None:
            known = (
                ", ".join(Workshop.objects.values_list("name", flat=True))
                or "none yet: manage.py add_workshop"
            )
            raise CommandError(f"There is no workshop '{options['workshop']}'. There are: {known}.")
        person = User.objects.filter(username=options["name"]).first()
        told = ""
        if person is None:
            first, _, last = options["full_name"].partition(" ")
            person = User(username=options["name"], first_name=first, last_name=last)
            password = password_for(person, made_up=options["make_password"])
            person.set_password(password)
            try:
                person.full_clean()
            except ValidationError as fault:
                raise CommandError(" ".join(fault.messages)) from None
            person.save()
            told = f" Password: {password}" if options["make_password"] else ""
        place, _ = Membership.objects.update_or_create(
            user=person, workshop=workshop, defaults={"role": options["role"]}
        )
        self.stdout.write(
            f"{person.username} is a {place.get_role_display().lower()} of '{workshop.name}'.{told}"
        )
