"""Days of work, what rests, and the rechecks after the handing over, as a calendar file, RFC 5545."""

from __future__ import annotations

import datetime
from collections.abc import Sequence

from metrolex.handover.calendar import new_calendar, put_rechecks
from metrolex.handover.rechecks import rechecks_of
from metrolex.job import Job
from metrolex.workorder.days import Day
from metrolex.workorder.sheet import Sheet

__all__ = ["calendar_of_work"]


def calendar_of_work(
    job: Job, sheet: Sheet, days: Sequence[Day], stamp: datetime.datetime, uid: str
) -> bytes:
    """One event for each day of work, one with an alarm for each thing that rests now, the rechecks counted from the last day of work.

    ``uid`` begins the name of each, ``stamp`` is when it was written (UTC). Moments are written as instants: whoever reads them sees his own time.
    """
    from icalendar import Alarm, Event  # only here, and it takes a while to load

    whole = new_calendar("work")
    vehicle = job.vehicle.name
    for day in days:
        if not day.slots:
            continue
        event = Event()
        event.add("uid", f"{uid}-day-{day.date:%Y%m%d}")
        event.add("dtstamp", stamp)
        event.add("dtstart", _instant(day.slots[0].begins))
        event.add("dtend", _instant(day.slots[-1].ends))
        event.add("summary", f"{vehicle}: gauges")
        steps = [f"{slot.begins:%H:%M} {slot.planned.step.name}" for slot in day.slots]
        event.add("description", "\n".join((*steps, *(f"In the evening: {words}." for words in day.leave))))
        whole.add_component(event)
    for row in sheet.resting:
        if row.rests_until is None:
            continue
        event = Event()
        event.add("uid", f"{uid}-rests-{row.number}")
        event.add("dtstamp", stamp)
        event.add("dtstart", _instant(row.rests_until))
        event.add("dtend", _instant(row.rests_until) + datetime.timedelta(minutes=5))
        event.add("summary", f"{vehicle}: rested long enough: {row.name}")
        remind = Alarm()
        remind.add("action", "DISPLAY")
        remind.add("description", f"Rested long enough: {row.name}")
        remind.add("trigger", datetime.timedelta(0))
        event.add_component(remind)
        whole.add_component(event)
    handed = days[-1].date if days else stamp.date()
    put_rechecks(whole, rechecks_of(job), vehicle, handed, stamp, uid)
    return bytes(whole.to_ical())


def _instant(moment: datetime.datetime) -> datetime.datetime:
    return moment if moment.tzinfo is None else moment.astimezone(datetime.UTC)
