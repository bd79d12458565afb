"""What is looked at again after the handing over, and on which day."""

from __future__ import annotations

import datetime
import math
from dataclasses import dataclass

from metrolex.job import Job
from metrolex.proving import checks_later
from metrolex.tables import load_table

__all__ = ["Recheck", "rechecks_of"]


@dataclass(frozen=True, slots=True)
class Recheck:
    """One visit: ``days`` after the handing over, ``when`` says what it goes by; ``again``: every so many days anew."""

    key: str
    name: str
    when: str
    days: int
    again: bool
    look_at: tuple[str, ...]

    def day(self, handed: datetime.date) -> datetime.date:
        """The day it falls on."""
        return handed + datetime.timedelta(days=self.days)


def rechecks_of(job: Job) -> tuple[Recheck, ...]:
    """The visits of a job, the first one first."""
    found, later = [], checks_later(job)
    for key, row in load_table("rechecks").items():
        listed = [f"{one.do}: {one.finds.words}" for one in later if one.ref.phase == key]
        look_at = (*listed, *row.get("look_at", ()))
        if look_at:
            days = _days(job, row)
            found.append(Recheck(key, row["name"], row["when"], days, bool(row.get("again")), look_at))
    return tuple(sorted(found, key=lambda one: one.days))


def _days(job: Job, row: dict[str, int]) -> int:
    """When a distance is driven, by what the owner says he drives in a week, and at the latest with the yearly visit; else the usual days."""
    a_week = job.closing.km_a_week
    if "km" in row and a_week:
        return max(1, math.ceil(min(7 * row["km"] / a_week, row["at_latest"])))
    return row["days"]
