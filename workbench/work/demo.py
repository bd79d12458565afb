"""The demo's van in the middle of its second day: what was done so far, when, and what could not be."""

from __future__ import annotations

import datetime
from dataclasses import replace

from metrolex.acts.work import note_step
from metrolex.job import Job
from metrolex.twin import build
from metrolex.workorder.days import in_days, next_working_moment
from metrolex.workorder.moments import later, midnight
from metrolex.workorder.plan import plan_of_work

__all__ = ["worked_into_day_two"]

#: What really went otherwise than usual, as it was noted.
NOTED = {
    "find_feeds feeds": "41",
    "lay coolant run": "38, 2.9 m",
    "open coolant": "52",
    "other_feed T4": "could not until {in_two_days}: the owner is to say what he can do without",
}
DONE_TODAY = 4


def worked_into_day_two(job: Job, now: datetime.datetime) -> Job:
    """The job with its first day done the working day before, some of the second, and one step begun."""
    hours = job.work_hours
    first = now.date() - datetime.timedelta(days=1)
    while first.weekday() in hours.closed:
        first -= datetime.timedelta(days=1)
    begins = next_working_moment(hours, midnight(first, now.tzinfo))
    job = replace(job, work_hours=replace(hours, first_day=first.isoformat()))
    plan = plan_of_work(build(job))
    in_two_days = (now.date() + datetime.timedelta(days=2)).isoformat()
    days = in_days([plan.by_name[one.step.name] for one in plan.ordered.sequence], hours, begins)
    for slot in days[0].slots:
        typed = NOTED.get(slot.planned.key, "done").format(in_two_days=in_two_days)
        job = note_step(job, slot.planned.key, typed, slot.ends)
    waits = {one.step for one in job.work if one.state == "could not"}
    today = [slot for day in days[1:] for slot in day.slots if slot.planned.key not in waits]
    for i, slot in enumerate(today[:DONE_TODAY]):
        at = later(now, -20.0 * (DONE_TODAY - i))
        job = note_step(job, slot.planned.key, "done", at)
    return note_step(job, today[DONE_TODAY].planned.key, "start", later(now, -12.0))
