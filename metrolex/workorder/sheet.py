"""The work order as it stands: the steps in their order, what of them is done, what is held up, which comes now."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from metrolex.job import Worked
from metrolex.twin.build import Network
from metrolex.twin.kept import once_per_circuit
from metrolex.workorder.order import Ordered, order_steps
from metrolex.workorder.recipes import Planned, states_at_work, steps_of
from metrolex.workorder.step import ended_by

__all__ = ["Band", "Row", "Sheet", "plan_of_work", "sheet_of_work"]

Standing = Literal["open", "done", "could not", "left out", "held up"]


@dataclass(frozen=True, slots=True)
class Band:
    """How long a state holds in the order, minutes from the beginning."""

    state: str
    start_min: float
    end_min: float


@dataclass(frozen=True, slots=True)
class Row:
    """One step in its place: when it is planned for, the states it wants, how it stands, and what was written down of it."""

    number: int
    planned: Planned
    start_min: float
    end_min: float
    states: tuple[str, ...]
    stands: Standing
    worked: Worked | None


@dataclass(frozen=True, slots=True)
class Sheet:
    """The whole work order. ``hands_on`` are minutes of all steps, ``left`` of those still open; ``entering`` what it takes to enter the states."""

    rows: tuple[Row, ...]
    bands: tuple[Band, ...]
    ordered: Ordered
    hands_on: float
    entering: float
    left: float

    @property
    def now(self) -> Row | None:
        """The step that comes now."""
        return next((row for row in self.rows if row.stands == "open"), None)

    @property
    def then(self) -> tuple[Row, ...]:
        """The two after it."""
        return tuple(row for row in self.rows if row.stands == "open")[1:3]

    @property
    def tools(self) -> tuple[str, ...]:
        """What to lay out for what is still open."""
        return tuple(
            sorted({tool for row in self.rows if row.stands == "open" for tool in row.planned.tools})
        )


@once_per_circuit
def plan_of_work(network: Network) -> tuple[tuple[Planned, ...], Ordered]:
    """The steps of a job and their order. Raises CircuitError in words."""
    planned = steps_of(network)
    return planned, order_steps([one.step for one in planned])


def sheet_of_work(network: Network) -> Sheet:
    """The work order with how far it is. Raises CircuitError in words."""
    planned, ordered = plan_of_work(network)
    by_name = {one.step.name: one for one in planned}
    worked = {one.step: one for one in network.job.work}
    held = _held_up(planned, worked.values())
    known = states_at_work()
    rows = []
    for number, placed in enumerate(ordered.sequence, 1):
        one = by_name[placed.step.name]
        written = worked.get(one.key)
        stands: Standing = written.state if written else "held up" if one.key in held else "open"
        states = tuple(need for need in one.step.needs if need in known)
        rows.append(Row(number, one, placed.start_min, placed.end_min, states, stands, written))
    entering = sum(known[name].minutes * count for name, count in ordered.setups.items() if name in known)
    return Sheet(
        tuple(rows),
        tuple(_bands(rows)),
        ordered,
        sum(one.step.minutes for one in planned),
        entering,
        sum(row.planned.step.minutes for row in rows if row.stands == "open"),
    )


def _held_up(planned: Iterable[Planned], worked: Iterable[Worked]) -> set[str]:
    """The steps that wait for one that could not be done."""
    by_name = {one.step.name: one for one in planned}
    stuck = {one.step for one in worked if one.state == "could not"}
    held: set[str] = set()
    for _ in by_name:
        more = {
            one.key
            for one in by_name.values()
            if any(need in by_name and by_name[need].key in stuck | held for need in one.step.needs)
        }
        if more <= held:
            break
        held |= more
    return held


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
