"""What the work order's page is made of: each step with its cell, the step at hand, the bands."""

from __future__ import annotations

from collections.abc import Collection
from typing import TypedDict

from django.utils.safestring import SafeString

from metrolex.quantities import typed
from metrolex.twin import Network
from metrolex.workorder.recipes import states_at_work
from metrolex.workorder.sheet import Row, Sheet, sheet_of_work
from workbench.markup import id_part
from workbench.sheet_cell import SheetCell
from workbench.work.drawing import time_line

__all__ = ["StepRow", "WorkPage", "hours_said", "step_row", "work_page"]


class StepRow(TypedDict):
    """A step with its cell; ``key`` stands in the ids of its elements, ``entered`` are states that begin with it."""

    key: str
    row: Row
    cell: SheetCell
    entered: list[str]


class WorkPage(TypedDict):
    """The whole page."""

    sheet: Sheet
    steps: list[StepRow]
    now: StepRow | None
    cautions: list[str]
    done: int
    hours: str
    left: str
    entries: list[tuple[str, int]]
    line: SafeString


def work_page(network: Network) -> WorkPage:
    """The work order of a job. Raises CircuitError in words."""
    sheet = sheet_of_work(network)
    begun = {(band.state, band.start_min) for band in sheet.bands}
    steps = [step_row(row, begun) for row in sheet.rows]
    now = next((one for one in steps if one["row"] is sheet.now), None)
    known = states_at_work()
    cautions = []
    if now is not None:
        cautions = [known[state].caution for state in now["row"].states if known[state].caution]
        cautions += [now["row"].planned.caution] if now["row"].planned.caution else []
    return {
        "sheet": sheet,
        "steps": steps,
        "now": now,
        "cautions": cautions,
        "done": sum(row.stands == "done" for row in sheet.rows),
        "hours": hours_said(sheet.hands_on + sheet.entering),
        "left": hours_said(sheet.left),
        "entries": [
            (known[name].words, count)
            for name, count in sheet.ordered.setups.items()
            if count and name in known
        ],
        "line": time_line(sheet),
    }


def step_row(row: Row, begun: Collection[tuple[str, float]] = ()) -> StepRow:
    """One step with its cell."""
    key, written = id_part(row.planned.key), ""
    if row.worked is not None:
        minutes, why = row.worked.minutes, row.worked.why
        written = typed(minutes) or (f"{row.worked.state}: {why}" if why else row.worked.state)
    entered = [state for state in row.states if (state, row.start_min) in begun]
    cell = SheetCell(
        "found", written, f"Done: {row.planned.step.name}", f"wrong-{key}", (("step", row.planned.key),)
    )
    return {
        "key": key,
        "row": row,
        "cell": cell,
        "entered": [states_at_work()[name].words for name in entered],
    }


def hours_said(minutes: float) -> str:
    """Minutes as hours and minutes: '2 h 35 min'."""
    hours, rest = divmod(round(minutes), 60)
    return f"{hours} h {rest:02d} min" if hours else f"{rest} min"
