"""The work on a job: how far each step is, steps of the fitter's own, steps changed or split, and the hours of the workshop."""

from __future__ import annotations

import datetime
from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.intake import Key, Limits, NonNegative, Note, Text, Title
from metrolex.job.words import Word

__all__ = [
    "PLACES_OF_WORK",
    "AlteredStep",
    "OwnStep",
    "StepPlace",
    "WorkHours",
    "Worked",
    "day_of",
    "moment_of",
]

StepKey = Annotated[str, Text(160)]
Moment = Annotated[str, Text(25)]
Clock = Annotated[str, Text(5)]
Hands = Annotated[int, Limits(low=0, high=2)]
Minutes = Annotated[
    float, Limits(low=0, high=100_000)
]  # a step longer than ten weeks is none, and a calendar has an end
StepPlace = Literal["", "cabin", "bay", "under", "bench"]
PLACES_OF_WORK: dict[StepPlace, str] = {
    "": "anywhere",
    "cabin": "in the cabin",
    "bay": "in the engine bay",
    "under": "from below",
    "bench": "on the bench",
}


@dataclass(frozen=True, slots=True)
class Worked:
    """One step of the work order, by its key: begun, paused, done in so many minutes, not possible (``until`` a day), or left out, with why.

    ``begun`` is when it was begun last, ``minutes`` those worked before that; ``ended`` when it was done: from then on it rests; ``noted`` when
    something was last written down of it. ``usual`` are the minutes it was planned with. Moments are instants, '2026-11-29T10:04+01:00'.
    """

    id: Key
    step: StepKey
    state: Literal["begun", "paused", "done", "could not", "left out"]
    minutes: Minutes | None = None
    why: Note = ""
    seen: Word = ""
    begun: Moment = ""
    ended: Moment = ""
    noted: Moment = ""
    until: Moment = ""
    usual: NonNegative | None = None
    note: Note = ""
    metres: NonNegative | None = None

    def __post_init__(self) -> None:
        for name in ("begun", "ended", "noted"):
            moment_of(getattr(self, name), name)
        day_of(self.until, "until")


@dataclass(frozen=True, slots=True)
class OwnStep:
    """A step the fitter adds: a filter that is due, a hose that is old.

    ``states`` are states of the vehicle it wants, 'not STATE' one it wants ended; ``after`` and ``before`` are keys of other steps.
    """

    id: Key
    name: Title
    minutes: Minutes = 15.0
    wait_minutes: Minutes = 0.0
    hands: Hands = 1
    place: StepPlace = ""
    states: tuple[Annotated[str, Text(60, blank=False)], ...] = ()
    after: tuple[StepKey, ...] = ()
    before: tuple[StepKey, ...] = ()
    tools: tuple[Word, ...] = ()
    goods: tuple[Word, ...] = ()
    caution: Note = ""


@dataclass(frozen=True, slots=True)
class AlteredStep:
    """What the fitter changes of a step the job makes: its minutes, its wait, its hands; or it is split after ``first_minutes`` into two."""

    id: Key
    step: StepKey
    minutes: Minutes | None = None
    wait_minutes: Minutes | None = None
    hands: Hands | None = None
    after: tuple[StepKey, ...] = ()
    first: Annotated[str, Text(120)] = ""
    second: Annotated[str, Text(120)] = ""
    first_minutes: Minutes | None = None


@dataclass(frozen=True, slots=True)
class WorkHours:
    """When there is work: from ``begins`` to ``ends``, less a pause, not on the days of the week in ``closed`` (0 is Monday); from ``first_day`` on.

    ``helper``: a second pair of hands can be called. ``schools`` are the ways chosen where fitters do it differently, 'KIND=WAY'. A quote adds
    ``margin`` per cent for what nobody foresees.
    """

    first_day: Annotated[str, Text(10)] = ""
    begins: Clock = "08:00"
    ends: Clock = "17:00"
    pause_min: Annotated[float, Limits(low=0, high=240)] = 45.0
    closed: tuple[Annotated[int, Limits(low=0, high=6)], ...] = (5, 6)
    helper: bool = True
    schools: tuple[Annotated[str, Text(60)], ...] = ()
    margin: Annotated[float, Limits(low=0, high=200)] = 0.0

    def __post_init__(self) -> None:
        if self.first_day:
            day_of(self.first_day, "first_day")
        begins, ends = clock_minutes(self.begins, "begins"), clock_minutes(self.ends, "ends")
        if ends - begins - self.pause_min < _LEAST_DAY_MIN:
            raise BadInput(
                "ends",
                self.ends,
                "later than it begins",
                "A day of work is an hour at least, its pause not counted.",
            )
        if len(set(self.closed)) >= len(WEEKDAYS):
            raise BadInput("closed", None, "one day open", "One day of the week must be open.")

    @property
    def day_min(self) -> float:
        """Minutes of work in a day."""
        return clock_minutes(self.ends) - clock_minutes(self.begins) - self.pause_min


WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
_LEAST_DAY_MIN = 60.0
YEARS = range(1950, 2200)  # of moments of work


def moment_of(text: str, field: str = "moment") -> datetime.datetime | None:
    """An instant as it is written down, with its distance from UTC (none: it is UTC); None for ''. Raises BadInput.

    >>> moment_of("2026-11-29T10:04+01:00").isoformat(), moment_of("2026-11-29T10:04").isoformat()
    ('2026-11-29T10:04:00+01:00', '2026-11-29T10:04:00+00:00')
    """
    if not text:
        return None
    try:
        found = datetime.datetime.fromisoformat(text)
    except ValueError:
        raise BadInput(field, text, "a moment, 2026-11-29T10:04+01:00") from None
    _in_a_calendar(found.date(), text, field)
    return found if found.tzinfo is not None else found.replace(tzinfo=datetime.UTC)


def day_of(text: str, field: str = "day") -> datetime.date | None:
    """A day of the workshop as it is written down; None for ''. Raises BadInput."""
    if not text:
        return None
    try:
        found = datetime.date.fromisoformat(text[:10])
    except ValueError:
        raise BadInput(field, text, "a day, 2026-11-29") from None
    _in_a_calendar(found, text, field)
    return found


def _in_a_calendar(day: datetime.date, text: str, field: str) -> None:
    if day.year not in YEARS:
        raise BadInput(field, text, f"a day of the years {YEARS.start} to {YEARS.stop - 1}")


def clock_minutes(text: str, field: str = "clock") -> float:
    """Minutes since midnight of '08:00'. Raises BadInput."""
    try:
        found = datetime.time.fromisoformat(text)
    except ValueError:
        raise BadInput(field, text, "a time of day, 08:00") from None
    return 60.0 * found.hour + found.minute
