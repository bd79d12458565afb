"""The rechecks as a calendar file, RFC 5545."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from typing import Any

from metrolex.handover.rechecks import Recheck

__all__ = ["calendar_file", "new_calendar", "put_rechecks"]


def calendar_file(
    rechecks: Sequence[Recheck], vehicle: str, handed: datetime.date, stamp: datetime.datetime, uid: str
) -> bytes:
    """One all-day event for each recheck, reminded two days before; ``uid`` begins the name of each, ``stamp`` is when it was written (UTC)."""
    whole = new_calendar("rechecks")
    put_rechecks(whole, rechecks, vehicle, handed, stamp, uid)
    return bytes(whole.to_ical())


def new_calendar(of: str) -> Any:
    """A calendar with nothing in it yet."""
    from icalendar import Calendar  # only here, and it takes a while to load

    whole = Calendar()
    whole.add("prodid", f"-//Metrolex//{of}//EN")
    whole.add("version", "2.0")
    return whole


def put_rechecks(
    whole: Any,
    rechecks: Sequence[Recheck],
    vehicle: str,
    handed: datetime.date,
    stamp: datetime.datetime,
    uid: str,
) -> None:
    """The rechecks put into a calendar."""
    from icalendar import Alarm, Event

    for one in rechecks:
        event = Event()
        event.add("uid", f"{uid}-{one.key}")
        event.add("dtstamp", stamp)
        event.add("dtstart", one.day(handed))
        event.add("dtend", one.day(handed) + datetime.timedelta(days=1))
        event.add("summary", f"{vehicle}: {one.name.lower()}")
        event.add("description", "\n".join((f"{one.when[0].upper()}{one.when[1:]}.", *one.look_at)))
        if one.again:
            event.add(
                "rrule", {"freq": "daily", "interval": one.days} if one.days != 365 else {"freq": "yearly"}
            )
        remind = Alarm()
        remind.add("action", "DISPLAY")
        remind.add("description", f"{vehicle}: {one.name.lower()}")
        remind.add("trigger", datetime.timedelta(days=-2))
        event.add_component(remind)
        whole.add_component(event)
