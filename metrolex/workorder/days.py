"""The order cut into days: opening hours kept, nothing left open that leaks over night, and what may be done with the vehicle at the end of each day."""

from __future__ import annotations

import datetime
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from metrolex.job import WorkHours
from metrolex.job.work import clock_minutes
from metrolex.workorder.moments import later, midnight, minutes_between, on_the_wall
from metrolex.workorder.planned import Planned, states_at_work, states_said
from metrolex.workorder.step import Step, ended_by

__all__ = ["NOT_OVER_NIGHT", "Day", "Slot", "in_days", "next_working_moment", "worked_minutes"]

#: Whoever stands the vehicle on its stands in the evening lets it down.
NOT_OVER_NIGHT = frozenset({"lifted", "cold"})
DRAINED = ("drained oil", "drained coolant", "drained gearbox")
CURES = frozenset({"mount", "fit"})  # what rests after them is glue, or sealant
NOON_MIN = 12 * 60.0
MOST_DAYS = 120


@dataclass(frozen=True, slots=True)
class Slot:
    """One step in its day; ``entered`` are states that are entered for it, their minutes before its beginning."""

    planned: Planned
    begins: datetime.datetime
    ends: datetime.datetime
    entered: tuple[str, ...]

    @property
    def entering(self) -> str:
        """The same in words."""
        return states_said(self.entered)


@dataclass(frozen=True, slots=True)
class Day:
    """One day of work, and how the vehicle is left: what to do before the door is shut, whether it may be driven and why."""

    date: datetime.date
    slots: tuple[Slot, ...]
    leave: tuple[str, ...]
    may_be_driven: bool
    why: str


def in_days(
    planned: Sequence[Planned],
    hours: WorkHours,
    begins: datetime.datetime,
    before: Sequence[Planned] = (),
    holds: frozenset[str] = frozenset(),
    released: dict[str, datetime.datetime] | None = None,
    no_day: Sequence[Planned] = (),
) -> tuple[Day, ...]:
    """Steps in their order, laid into days from ``begins`` on, by the wall clock of its zone.

    ``before`` are steps done already, ``holds`` the states the vehicle is in, ``released`` the moment before which a step (by name) cannot begin,
    ``no_day`` steps that stay undone: what they leave open is said of every evening. A step that does not fit into the rest of a day gives way to later ones that do; a place is opened only if it can be closed the same day. A step
    longer than a day begins in the morning and goes on next day.
    """
    return _Days(planned, hours, begins, before, holds, released or {}, no_day).run()


class _Days:
    def __init__(
        self,
        planned: Sequence[Planned],
        hours: WorkHours,
        begins: datetime.datetime,
        before: Sequence[Planned],
        holds: frozenset[str],
        released: dict[str, datetime.datetime],
        no_day: Sequence[Planned],
    ) -> None:
        self.zone = begins.tzinfo
        self.hours, self.done, self.holds = hours, list(before), set(holds)
        self.released = {name: on_the_wall(moment, self.zone) for name, moment in released.items()}
        self.left, self.clock = list(planned), next_working_moment(hours, begins)
        self.names, self.no_day = {one.step.name for one in planned}, list(no_day)
        self.ended: dict[str, datetime.datetime] = {}
        self.closes = {one.part: one for one in planned if one.kind == "fit"}

    def run(self) -> tuple[Day, ...]:
        days: list[Day] = []
        while self.left and len(days) < MOST_DAYS:
            date = self.clock.date()
            slots: list[Slot] = []
            while self.left and self.clock.date() == date:
                slot = self._next(first=not slots)
                if slot is None:
                    break
                slots.append(slot)
            days.append(self._evening(date, slots))
            self._tomorrow(date)
        return tuple(days)

    def _next(self, *, first: bool) -> Slot | None:
        """The first step in order that can be done and fits into what is left of the day."""
        remaining = worked_minutes(self.hours, self.clock, self._closing_time(self.clock.date()))
        waits: list[datetime.datetime] = []
        for one in self.left:
            ready = self._ready(one.step)
            if ready is None:
                continue
            if ready > self.clock:
                waits.append(ready)
                continue
            entered = self._to_enter(one.step)
            if first or self._lasts(one, entered) <= remaining:
                return self._placed(one, entered)
        soon = min((moment for moment in waits if moment.date() == self.clock.date()), default=None)
        if soon is not None and soon < self._closing_time(self.clock.date()):
            self.clock = next_working_moment(self.hours, soon)
            return self._next(first=first)
        return None

    def _lasts(self, one: Planned, entered: Sequence[str]) -> float:
        """Minutes to begin with it today: with the states to enter, and what must be closed again the same day."""
        known = states_at_work()
        lasts = one.step.minutes + sum(known[name].minutes for name in entered)
        closing = self.closes.get(one.part) if one.kind == "open" else None
        return lasts + (closing.step.minutes if closing else 0.0)

    def _ready(self, step: Step) -> datetime.datetime | None:
        """When a step may begin; None while one it needs is to come."""
        moment = self.released.get(step.name, self.clock)
        for need in step.needs:
            if need in self.names:
                if need not in self.ended:
                    return None
                moment = max(moment, self.ended[need])
        return max(moment, self.clock)

    def _to_enter(self, step: Step) -> tuple[str, ...]:
        known = states_at_work()
        return tuple(need for need in step.needs if need in known and need not in self.holds)

    def _placed(self, one: Planned, entered: tuple[str, ...]) -> Slot:
        known = states_at_work()
        begins = _after(self.hours, self.clock, sum(known[name].minutes for name in entered))
        ends = _after(self.hours, begins, one.step.minutes)
        self.holds |= set(entered)
        self.holds -= {gone for need in one.step.needs if (gone := ended_by(need)) is not None}
        self.ended[one.step.name] = later(ends, one.step.wait_minutes)
        self.left.remove(one)
        self.done.append(one)
        self.clock = ends
        return Slot(one, begins, ends, entered)

    def _evening(self, date: datetime.date, slots: Sequence[Slot]) -> Day:
        leave = list(self._leave())
        reasons = [*_not_to_be_driven(self.done, self._undone, self.holds), *self._not_cured()]
        self.holds -= NOT_OVER_NIGHT
        why = "; ".join(reasons) if reasons else "nothing is open, nothing is let out"
        return Day(date, tuple(slots), tuple(leave), not reasons, why)

    def _not_cured(self) -> Iterator[str]:
        """What was glued or sealed and still rests when the day ends."""
        for one in self.done:
            until = self.ended.get(one.step.name)
            if one.kind in CURES and one.step.wait_minutes and until is not None and until > self.clock:
                yield (
                    f"not cured before {until:%H:%M}: {one.step.name}"
                    if until.date() == self.clock.date()
                    else f"not cured yet: {one.step.name}"
                )

    @property
    def _undone(self) -> list[Planned]:
        return [*self.left, *self.no_day]

    def _leave(self) -> Iterator[str]:
        for one in _standing_open(self.done, self._undone):
            yield f"plugged: {one.step.name.removeprefix('Open ')}"
        if "lifted" in self.holds:
            yield "let down from the stands"
        joins = [one for one in self._undone if one.kind in ("tap", "join", "plug_in", "fuses")]
        if "battery off" in self.holds:
            yield "battery stays off, its cable tied away"
        elif joins and any(one.kind in ("tap", "join") for one in self.done):
            yield "battery off: joints are not finished"
        if any(one.kind == "fuses" for one in self._undone) and any(one.kind == "tap" for one in self.done):
            yield "the added fuses stay out"
        if any(state in self.holds for state in DRAINED) or _fuel_is_off(self.done, self._undone):
            yield "a note on the wheel: what is let out"

    def _closing_time(self, date: datetime.date) -> datetime.datetime:
        return midnight(date, self.zone, clock_minutes(self.hours.ends))

    def _tomorrow(self, date: datetime.date) -> None:
        """The next working morning; past what everything left waits for."""
        morning = next_working_moment(self.hours, midnight(date + datetime.timedelta(days=1), self.zone))
        self.clock = max(self.clock, morning) if self.clock.date() > date else morning
        ready = [moment for one in self.left if (moment := self._ready(one.step)) is not None]
        if ready and min(ready) > self.clock:
            self.clock = next_working_moment(self.hours, min(ready))


def _not_to_be_driven(done: Sequence[Planned], left: Sequence[Planned], holds: set[str]) -> Iterator[str]:
    """Why a vehicle may not be driven: where harm is possible what nobody knows is not fine."""
    known = states_at_work()
    yield from (known[state].words for state in DRAINED if state in holds)
    if _fuel_is_off(done, left):
        yield known["fuel depressurised"].words
    opened = [one for one in done if one.kind == "open"]
    if _standing_open(done, left):
        yield "a place stands open"
    elif opened and any(one.kind in ("refill", "prime", "prove_engine_running") for one in left):
        yield "no leak check yet"
    if any(one.kind in ("join", "tap") for one in done) and any(
        one.kind in ("join", "tap", "plug_in", "fuses") for one in left
    ):
        yield "wires are joined in part"
    elif "battery off" in holds:
        yield known["battery off"].words
    if any(one.kind == "mount" for one in done) and any(one.kind in ("mount", "set_up") for one in left):
        yield "the new display does not read yet"
    if "trim out" in holds and any(one.kind == "trim_back" for one in left):
        yield known["trim out"].words


def _fuel_is_off(done: Sequence[Planned], left: Sequence[Planned]) -> bool:
    """Whether the fuel pressure is let down and its joints were not yet seen dry under pressure."""
    return any(one.kind == "let_down" for one in done) and any(one.kind == "prime" for one in left)


def _standing_open(done: Sequence[Planned], left: Sequence[Planned]) -> list[Planned]:
    """The openings whose place has nothing in it yet."""
    left_keys = {one.key for one in left}
    return [one for one in done if one.kind == "open" and f"fit {one.part}" in left_keys]


def worked_minutes(hours: WorkHours, since: datetime.datetime, until: datetime.datetime) -> float:
    """Minutes of work between two moments of one day or more: nights, closed days and the pause at noon not counted; 0 if the clock was set back."""
    until = on_the_wall(until, since.tzinfo)
    total, date = 0.0, since.date()
    for _ in range(MOST_DAYS):
        if date > until.date():
            break
        for start, end in _windows(hours, date, since.tzinfo):
            total += max(0.0, minutes_between(max(start, since), min(end, until)))
        date += datetime.timedelta(days=1)
    return total


def next_working_moment(hours: WorkHours, moment: datetime.datetime) -> datetime.datetime:
    """The moment itself where there is work, else the next at which there is."""
    date = moment.date()
    for _ in range(MOST_DAYS):
        for start, end in _windows(hours, date, moment.tzinfo):
            if moment < end:
                return max(start, moment)
        date += datetime.timedelta(days=1)
    return moment


def _after(hours: WorkHours, moment: datetime.datetime, minutes: float) -> datetime.datetime:
    """So many minutes of work later."""
    moment, left, date = next_working_moment(hours, moment), minutes, moment.date()
    for _ in range(MOST_DAYS):
        for start, end in _windows(hours, date, moment.tzinfo):
            begins = max(start, moment)
            room = minutes_between(begins, end)
            if room < 0:
                continue
            if left <= room:
                return later(begins, left)
            left -= room
        date += datetime.timedelta(days=1)
    return moment


def _windows(
    hours: WorkHours, date: datetime.date, zone: datetime.tzinfo | None
) -> list[tuple[datetime.datetime, datetime.datetime]]:
    """From when to when there is work on a day: before and after the pause, which lies at noon or in the middle."""
    if date.weekday() in hours.closed:
        return []
    begins, ends = clock_minutes(hours.begins), clock_minutes(hours.ends)
    if not hours.pause_min:
        return [(midnight(date, zone, begins), midnight(date, zone, ends))]
    noon = (
        NOON_MIN
        if begins < NOON_MIN and NOON_MIN + hours.pause_min < ends
        else begins + (ends - begins - hours.pause_min) / 2
    )
    return [
        (midnight(date, zone, begins), midnight(date, zone, noon)),
        (midnight(date, zone, noon + hours.pause_min), midnight(date, zone, ends)),
    ]
