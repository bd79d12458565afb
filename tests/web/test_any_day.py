"""No page, paper or demo hangs on the day it is looked at: ends of months and years, a leap year, the nights of summer time, far zones."""

from __future__ import annotations

import datetime
import zoneinfo

import pytest
import time_machine

from workbench.accounts.models import Membership, Workshop
from workbench.jobs.management.commands import prepare
from workbench.jobs.models import JobRecord

MOMENTS = [
    "2026-12-31T23:58",
    "2027-01-11T09:00",  # forty days on
    "2028-01-06T12:00",  # four hundred
    "2028-02-28T23:30",
    "2028-02-29T12:00",
    "2028-03-01T00:30",
    "2027-03-28T00:30",  # clocks go on in Europe
    "2027-10-31T00:30",  # and back
    "2027-03-14T05:25",  # and in Newfoundland
    "2027-11-07T04:25",
    "2027-01-02T10:00",  # a Saturday
]
ZONES = ("UTC", "Pacific/Kiritimati", "America/St_Johns", "Europe/Berlin")
PAGES = ("work/", "work/days/", "work/work.ics", "handover/", "handover/rechecks.ics", "faults/")


@pytest.mark.parametrize("moment", [MOMENTS[i] for i in (0, 4, 8)])
def test_the_demo_and_its_pages_on_any_day(moment, db, client):
    zone = ZONES[MOMENTS.index(moment) % len(ZONES)]
    at = datetime.datetime.fromisoformat(moment).replace(tzinfo=datetime.UTC)
    with time_machine.travel(at, tick=True):
        first = prepare.load_demo()
        Workshop.objects.update(zone=zone)
        lead = Membership.objects.get(workshop=first.workshop)
        client.force_login(lead.user)
        client.cookies["zone"] = ZONES[(MOMENTS.index(moment) + 1) % len(ZONES)]
        assert client.get("/").status_code == 200
        for record in JobRecord.objects.filter(parts__kind="work").distinct():
            for tail in PAGES:
                answer = client.get(f"/jobs/{record.pk}/{tail}")
                assert answer.status_code == 200, (record.name, tail)
        here = datetime.datetime.now(zoneinfo.ZoneInfo(zone)).date()
        days = [one.first_day for one in [job_of(first).work_hours] if one.first_day]
        assert all(
            datetime.timedelta() < here - datetime.date.fromisoformat(day) <= datetime.timedelta(days=5)
            for day in days
        )


@pytest.mark.parametrize("moment", MOMENTS)
def test_a_step_begun_and_done_on_any_day(moment, bay, text):
    zone = ZONES[(MOMENTS.index(moment) + 2) % len(ZONES)]
    at = datetime.datetime.fromisoformat(moment).replace(tzinfo=datetime.UTC)
    with time_machine.travel(at, tick=False):
        bay.workshop.zone = zone
        bay.workshop.save()
        bay.client.force_login(bay.user)
        step = "fit coolant"
        bay.post("work/noted/", htmx=True, step=step, found="start")
    with time_machine.travel(at + datetime.timedelta(minutes=12), tick=False):
        bay.post("work/noted/", htmx=True, step=step, found="done")
        done = next(one for one in bay.job.work if one.step == step)
        assert datetime.datetime.fromisoformat(done.ended) - at <= datetime.timedelta(minutes=12)
        assert done.minutes <= 12.0
        assert "rests until" in text(bay.get("work/"))
        bay.post("work/noted/", htmx=True, step="find_feeds feeds", found="could not until tomorrow: no key")
        tomorrow = datetime.datetime.now(zoneinfo.ZoneInfo(zone)).date() + datetime.timedelta(days=1)
        assert (
            next(one for one in bay.job.work if one.step == "find_feeds feeds").until == tomorrow.isoformat()
        )
        assert bay.get("work/days/").status_code == 200


def job_of(record):
    from workbench.jobs.storage import job_of as stored

    return stored(JobRecord.objects.get(pk=record.pk))
