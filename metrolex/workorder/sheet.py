"""The work order as it stands: the steps in their order, what of them is done, what rests or is held up, which comes now."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

from metrolex.job import Worked
from metrolex.job.work import day_of, moment_of
from metrolex.twin.build import Network
from metrolex.twin.kept import once
from metrolex.workorder.days import NOT_OVER_NIGHT
from metrolex.workorder.moments import later, on_the_wall
from metrolex.workorder.order import Placed
from metrolex.workorder.plan import Factors, Plan, plan_of_work, planned_steps
from metrolex.workorder.planned import Planned, states_at_work, states_said
from metrolex.workorder.replan import Rest, held_up, rest_of, states_after
from metrolex.workorder.step import Step, ended_by

__all__ = ["Band", "Row", "Sheet", "row_of_step", "sheet_of_work", "turns_of_work"]

Standing = Literal["open", "begun", "paused", "rests", "waits", "done", "could not", "left out", "held up"]
#: Open in one way or another: it can be done now or soon.
OPEN: tuple[Standing, ...] = ("begun", "paused", "open")


@dataclass(frozen=True, slots=True)
class Band:
    """How long a state holds in the order, minutes from the beginning."""

    state: str
    start_min: float
    end_min: float


@dataclass(frozen=True, slots=True)
class Row:
    """One step in its place: when it is planned for, the states it wants, how it stands, and what was written down of it.

    ``rests_until``: it is done and cures, cools or drains until then; ``waits_until``: what it needs rests until then. ``number`` is that of the
    plan, so that a sheet on paper keeps its numbers.
    """

    number: int
    planned: Planned
    start_min: float
    end_min: float
    states: tuple[str, ...]
    stands: Standing
    worked: Worked | None
    rests_until: datetime.datetime | None = None
    waits_until: datetime.datetime | None = None

    @property
    def name(self) -> str:
        """What is done in it."""
        return self.planned.step.name

    @property
    def states_said(self) -> str:
        """The states it wants, in words."""
        return states_said(self.states)

    @property
    def until(self) -> datetime.date | None:
        """The day from which what could not be done may go on."""
        return day_of(self.worked.until) if self.worked else None

    @property
    def begun(self) -> datetime.datetime | None:
        """When it was begun last."""
        return moment_of(self.worked.begun) if self.worked else None

    @property
    def still_open(self) -> bool:
        """Whether it is neither done nor left out."""
        return self.stands not in ("done", "rests", "left out")


@dataclass(frozen=True, slots=True)
class Sheet:
    """The whole work order. ``hands_on`` are minutes of all steps, ``left`` of those still open; ``entering`` what it takes to enter the states.

    ``holds`` are the states the vehicle is in now, ``lost_min`` what is lost by what is held up.
    """

    plan: Plan
    rows: tuple[Row, ...]
    bands: tuple[Band, ...]
    hands_on: float
    entering: float
    left: float
    holds: frozenset[str]
    lost_min: float

    @property
    def now(self) -> Row | None:
        """The step at hand: one begun, else the first that can be begun."""
        ready = [row for row in self.rows if row.stands in OPEN]
        return min(ready, key=lambda row: OPEN.index(row.stands) > 0, default=None)

    @property
    def then(self) -> tuple[Row, ...]:
        """The two after it."""
        now = self.now
        return tuple(row for row in self.rows if row.stands in (*OPEN, "waits") and row is not now)[:2]

    @property
    def resting(self) -> tuple[Row, ...]:
        """What cures, cools or drains just now."""
        return tuple(row for row in self.rows if row.stands == "rests")

    @property
    def can_now(self) -> tuple[Row, ...]:
        """What can be done before what is held up."""
        return tuple(row for row in self.rows if row.stands in (*OPEN, "waits"))

    @property
    def held(self) -> tuple[Row, ...]:
        """What cannot be done, and what waits for it."""
        return tuple(row for row in self.rows if row.stands in ("could not", "held up"))


def sheet_of_work(network: Network, at: datetime.datetime | None = None, factors: Factors = ()) -> Sheet:
    """The work order with how far it is at a moment; without one nothing rests any more. Raises CircuitError and BadInput in words."""
    plan = plan_of_work(network, factors)
    worked = {one.step: one for one in network.job.work}
    gone, stuck = _gone_and_stuck(plan, worked, at)
    holds = _states_now(plan, worked, at)
    rest = rest_of(network, plan, gone, stuck, holds)
    rows = list(_rows(plan, rest, worked, gone, stuck, at))
    known = states_at_work()
    entering = sum(
        known[name].minutes * count for name, count in plan.ordered.setups.items() if name in known
    )
    return Sheet(
        plan,
        tuple(rows),
        tuple(_bands(rows)),
        sum(one.step.minutes for one in plan.planned),
        entering,
        sum(_minutes_left(row) for row in rows if row.still_open),
        holds,
        rest.lost_min,
    )


def row_of_step(
    network: Network, step: str, at: datetime.datetime | None = None, factors: Factors = ()
) -> Row | None:
    """The row of one step by its key, minutes as planned: nobody waits for the rest to be put in order. None where there is no such step."""
    plan = plan_of_work(network, factors)
    worked = {one.step: one for one in network.job.work}
    row = _row_maker(plan, worked, *_gone_and_stuck(plan, worked, at), at)
    name = next((one.step.name for one in plan.planned if one.key == step), "")
    return next((row(placed, 0.0) for placed in plan.ordered.sequence if placed.step.name == name), None)


def _gone_and_stuck(
    plan: Plan, worked: Mapping[str, Worked], at: datetime.datetime | None
) -> tuple[frozenset[str], frozenset[str]]:
    """The names of the steps that are done or left out, and of those that cannot be done."""
    names = {one.key: one.step.name for one in plan.planned}
    noted = [(names[key], one) for key, one in worked.items() if key in names]
    return (
        frozenset(name for name, one in noted if one.state in ("done", "left out")),
        frozenset(name for name, one in noted if one.state == "could not" and not _due(one, at)),
    )


def _minutes_left(row: Row) -> float:
    worked = row.worked.minutes or 0.0 if row.worked and row.stands in ("begun", "paused") else 0.0
    return max(0.0, row.planned.step.minutes - worked)


def _due(one: Worked, at: datetime.datetime | None) -> bool:
    """Whether what could not be done may go on."""
    until = day_of(one.until)
    return until is not None and at is not None and until <= at.date()


def _states_now(plan: Plan, worked: Mapping[str, Worked], at: datetime.datetime | None) -> frozenset[str]:
    """The states after what was done; what is not left so over night ends with its day."""
    holds, last = frozenset[str](), None
    for day, step in _in_the_order_done(plan, worked, at.tzinfo if at else None):
        if last and day and day != last:
            holds -= NOT_OVER_NIGHT
        holds, last = states_after([step], holds), day or last
    return holds - NOT_OVER_NIGHT if at is not None and last and last < at.date() else holds


def _in_the_order_done(
    plan: Plan, worked: Mapping[str, Worked], zone: datetime.tzinfo | None
) -> list[tuple[datetime.date | None, Step]]:
    """Each step done or begun with its day, None where none was noted."""
    done = [
        (
            moment_of(worked[one.key].ended or worked[one.key].begun),
            place,
            plan.by_name[placed.step.name].step,
        )
        for place, placed in enumerate(plan.ordered.sequence)
        if (one := plan.by_name[placed.step.name]).key in worked
        and worked[one.key].state in ("done", "begun", "paused")
    ]
    timed = all(moment for moment, _, _ in done)
    done.sort(key=lambda row: (row[0].timestamp() if row[0] and timed else 0.0, row[1]))
    return [
        (on_the_wall(moment, zone).date() if moment and timed else None, step) for moment, _, step in done
    ]


def _rows(
    plan: Plan,
    rest: Rest,
    worked: Mapping[str, Worked],
    gone: frozenset[str],
    stuck: frozenset[str],
    at: datetime.datetime | None,
) -> Iterable[Row]:
    """What is gone first, as it was planned; then the rest from where that ends."""
    row = _row_maker(plan, worked, gone, stuck, at)
    sequence = plan.ordered.sequence
    as_planned = [one.step.name for one in sequence if one.step.name not in gone] == [
        one.step.name for one in (*rest.free, *rest.held)
    ]
    if as_planned:
        yield from (row(one, 0.0) for one in sequence)
        return
    shift = 0.0
    for one in sequence:
        if one.step.name in gone:
            yield row(Placed(one.step, shift, shift + one.step.minutes), 0.0)
            shift += one.step.minutes
    yield from (row(one, shift) for one in (*rest.free, *rest.held))


def _row_maker(
    plan: Plan,
    worked: Mapping[str, Worked],
    gone: frozenset[str],
    stuck: frozenset[str],
    at: datetime.datetime | None,
) -> Callable[[Placed, float], Row]:
    """What makes the row of a step that begins so many minutes later than it is placed."""
    known, by_name = states_at_work(), plan.by_name
    numbers = {placed.step.name: number for number, placed in enumerate(plan.ordered.sequence, 1)}
    rests = {name: until for name, until in _rests(plan.planned, worked) if at is not None and until > at}
    held = held_up(plan, stuck)

    def row(placed: Placed, shift: float) -> Row:
        one = by_name[placed.step.name]
        name, written = one.step.name, worked.get(one.key)
        waits = max((rests[need] for need in one.step.needs if need in rests), default=None)
        stands: Standing = "open"
        if name in gone:
            stands = (
                "rests"
                if name in rests
                else "left out"
                if written and written.state == "left out"
                else "done"
            )
        elif name in stuck:
            stands = "could not"
        elif name in held:
            stands = "held up"
        elif written and written.state in ("begun", "paused"):
            stands = "begun" if written.state == "begun" else "paused"
        elif waits is not None:
            stands = "waits"
        return Row(
            numbers[name],
            one,
            placed.start_min + shift,
            placed.end_min + shift,
            tuple(need for need in one.step.needs if need in known),
            stands,
            written,
            rests.get(name),
            waits,
        )

    return row


@once
def turns_of_work(network: Network) -> tuple[datetime.datetime, ...]:
    """The moments at which the sheet becomes another though nobody notes anything: something has rested. (Each day that begins is one too.)

    Raises CircuitError and BadInput in words.
    """
    worked = {one.step: one for one in network.job.work}
    return tuple(sorted({until for _, until in _rests(planned_steps(network), worked)}))


def _rests(
    planned: Iterable[Planned], worked: Mapping[str, Worked]
) -> Iterable[tuple[str, datetime.datetime]]:
    for one in planned:
        written = worked.get(one.key)
        ended = moment_of(written.ended) if written and written.state == "done" else None
        if ended is not None and one.step.wait_minutes:
            yield one.step.name, later(ended, one.step.wait_minutes)


def _bands(rows: list[Row]) -> Iterable[Band]:
    """From the first step that wants a state to the last before one that wants it ended."""
    for state in states_at_work():
        start: float | None = None
        end = 0.0
        for row in rows:
            if any(ended_by(need) == state for need in row.planned.step.needs):
                if start is not None:
                    yield Band(state, start, end)
                start = None
            elif state in row.states:
                start, end = row.start_min if start is None else start, row.end_min
        if start is not None:
            yield Band(state, start, end)
