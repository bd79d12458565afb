"""Moments of work: instants, read on the wall clock of the workshop.

An instant knows its distance from UTC; a day of work and its hours are those of the zone it is looked at in. Lengths of time are those that really pass,
also in the nights in which the clock is changed.
"""

from __future__ import annotations

import datetime

__all__ = ["later", "midnight", "minutes_between", "on_the_wall"]

UTC = datetime.UTC


def later(moment: datetime.datetime, minutes: float) -> datetime.datetime:
    """So many minutes later, in the same zone.

    >>> import zoneinfo
    >>> before = datetime.datetime(2027, 3, 28, 1, 30, tzinfo=zoneinfo.ZoneInfo("Europe/Berlin"))
    >>> later(before, 60.0).isoformat()
    '2027-03-28T03:30:00+02:00'
    """
    passed = datetime.timedelta(minutes=minutes)
    return (
        moment + passed
        if moment.tzinfo is None
        else (moment.astimezone(UTC) + passed).astimezone(moment.tzinfo)
    )


def minutes_between(begins: datetime.datetime, ends: datetime.datetime) -> float:
    """The minutes that pass from one moment to another; negative where the second comes first."""
    if begins.tzinfo is not None and ends.tzinfo is not None:
        begins, ends = begins.astimezone(UTC), ends.astimezone(UTC)
    return (ends - begins).total_seconds() / 60.0


def midnight(day: datetime.date, zone: datetime.tzinfo | None, minutes: float = 0.0) -> datetime.datetime:
    """So many minutes by the wall clock after a day begins."""
    wall = datetime.datetime.combine(day, datetime.time()) + datetime.timedelta(minutes=minutes)
    return wall.replace(tzinfo=zone)


def on_the_wall(moment: datetime.datetime, zone: datetime.tzinfo | None) -> datetime.datetime:
    """The same moment in a zone; as it is where there is none to speak of."""
    return moment if zone is None or moment.tzinfo is None else moment.astimezone(zone)
