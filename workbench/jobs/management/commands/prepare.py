"""Make the database, the static files and, if asked, the demo workshop ready, in one go."""

from __future__ import annotations

import hashlib
from dataclasses import replace
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.checks import run_checks
from django.core.management import BaseCommand, CommandError, call_command
from django.core.management.base import CommandParser
from django.db import transaction

from metrolex.jobfile import EXAMPLES, example_job_data, job_from_data
from workbench.accounts.models import Membership, Workshop
from workbench.handover.handing_over import hand_over
from workbench.jobs.door import change, import_job
from workbench.jobs.look import FIRST_SEEN, look_at
from workbench.jobs.models import JobRecord
from workbench.work.demo import worked_into_day_two
from workbench.work.page import moment_now

DEMO_WORKSHOP = "Scree Lane Fitting Bay"


class Command(BaseCommand):
    """``manage.py prepare [--demo]``; harmless to run again."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--demo", action="store_true", help="load the demo workshop once")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["demo"]:
            _refuse_demo_elsewhere()
        call_command("migrate", verbosity=0, interactive=False)
        _collect_static()
        if options["demo"]:
            if Workshop.objects.exists() and not _demo_is_there():
                raise CommandError("This database has workshops of its own: the demo is not loaded into it.")
            load_demo()
        wrong = [found for found in run_checks(databases=["default"]) if found.is_serious()]
        if wrong:
            raise CommandError("\n".join(str(found) for found in wrong))


def _refuse_demo_elsewhere() -> None:
    """The demo's password is printed: it is for one's own machine and the demo's settings only."""
    host = str(settings.DATABASES["default"].get("HOST") or "")
    if settings.DEMO_LOGIN is None:
        raise CommandError("The demo is loaded with the demo's settings only (bin/start).")
    if host not in ("", "127.0.0.1", "localhost", "::1"):
        raise CommandError(f"The demo is not loaded into a database on another machine ({host}).")


def _collect_static() -> None:
    """Collect the static files when one of them changed since, or they were collected for another kind of storage."""
    own = sorted(path for path in settings.STATICFILES_DIRS[0].rglob("*") if path.is_file())
    digest = hashlib.sha256(settings.STORAGES["staticfiles"]["BACKEND"].encode())
    for path in own:
        digest.update(str(path).encode() + path.read_bytes())
    stamp = settings.STATIC_ROOT.with_name(f"{settings.STATIC_ROOT.name}.stamp")
    if settings.STATIC_ROOT.exists() and stamp.exists() and stamp.read_text() == digest.hexdigest():
        return
    call_command("collectstatic", verbosity=0, interactive=False, clear=True)
    stamp.write_text(digest.hexdigest())


def _demo_is_there() -> bool:
    return get_user_model().objects.filter(is_demo=True).exists()


@transaction.atomic
def load_demo() -> JobRecord | None:
    """The invented workshop with its fitter and its jobs; the first of them, None when they are there already."""
    if settings.DEMO_LOGIN is None or _demo_is_there():
        return None
    lead = demo_lead(*settings.DEMO_LOGIN)
    # The fullest last: the shelf shows the one touched last first.
    records = [_demo_job(lead, name) for name in reversed(EXAMPLES)]
    return records[-1]


def demo_lead(name: str, password: str) -> Membership:
    """The fitter of the invented workshop, with nothing on the shelf yet."""
    user = get_user_model().objects.create_user(
        name, password=password, first_name="Demo", last_name="Fitter", is_demo=True
    )
    workshop = Workshop.objects.create(name=DEMO_WORKSHOP)
    return Membership.objects.create(user=user, workshop=workshop, role=Membership.Role.LEAD)


def _demo_job(lead: Membership, name: str) -> JobRecord:
    """An example as a job of the demo; the van is in its second day, the single-seater was handed over, and came back with a fault."""
    job = job_from_data(example_job_data(name))
    if name == "van":
        return import_job(lead, worked_into_day_two(job, moment_now(lead.workshop)))
    if name != "single_seater":
        return import_job(lead, job)
    record = import_job(lead, replace(job, searches=()))
    handed = replace(job, searches=())
    hand_over(record, look_at(handed, FIRST_SEEN), lead, f"{job.brief.owner}, for the shakedown", "")
    change(record, lambda before: replace(before, searches=job.searches), by=lead, why="Back with a fault")
    return record
