"""What is left of the work, in days."""

from __future__ import annotations

import datetime

from metrolex.job import Job
from metrolex.job.work import day_of
from metrolex.workorder.days import Day, in_days
from metrolex.workorder.moments import midnight
from metrolex.workorder.sheet import Sheet

__all__ = ["days_left"]


def days_left(job: Job, sheet: Sheet, at: datetime.datetime) -> tuple[Day, ...]:
    """The rest from a moment on, or from the first day of work while that is to come.

    What cannot be done has its day where one is said; without one it is in no day, nor is what waits for it.
    """
    first = day_of(job.work_hours.first_day)
    begins = max(at, midnight(first, at.tzinfo)) if first else at
    left = [row for row in sheet.rows if row.still_open]
    released = {row.name: row.waits_until for row in left if row.waits_until is not None}
    never = set[str]()
    for row in left:
        if row.stands == "could not":
            until = row.until
            if until is None:
                never.add(row.name)
            else:
                released[row.name] = midnight(until, at.tzinfo)
    for _ in left:
        never |= {row.name for row in left if never.intersection(row.planned.step.needs)}
    return in_days(
        [row.planned for row in left if row.name not in never],
        job.work_hours,
        begins,
        [row.planned for row in sheet.rows if not row.still_open],
        sheet.holds,
        released,
        [row.planned for row in left if row.name in never],
    )
