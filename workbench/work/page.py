"""What the work order's page is made of: each step with its cell, the step at hand, the bands."""

from __future__ import annotations

import datetime
from collections.abc import Collection, Hashable
from typing import TypedDict
from urllib.parse import urlencode

from django.urls import reverse
from django.utils import timezone
from django.utils.safestring import SafeString

from metrolex.errors import BadInput, CircuitError
from metrolex.job import PLACES_OF_WORK
from metrolex.twin import Network, build
from metrolex.workorder.noted import written
from metrolex.workorder.plan import Factors
from metrolex.workorder.planned import states_at_work
from metrolex.workorder.sheet import Row, Sheet, sheet_of_work, turns_of_work
from workbench.accounts.models import Workshop
from workbench.accounts.zones import zone_of
from workbench.jobs.cache import JOBS
from workbench.jobs.models import JobRecord
from workbench.markup import id_part
from workbench.sheet_cell import SheetCell
from workbench.work.drawing import time_line
from workbench.work.learned import noted_elsewhere

__all__ = [
    "StepRow",
    "WorkPage",
    "hours_said",
    "made_by_the_minute",
    "made_of",
    "moment_now",
    "step_row",
    "work_page",
]

#: Where a kind of step is done in the application.
PAGES = {
    "set_up": "scaling:show",
    "find_feeds": "feeds:show",
    "other_feed": "feeds:show",
    "tap": "feeds:show",
}


class StepRow(TypedDict):
    """A step with its cell; ``key`` stands in the ids of its elements, ``entered`` are states that begin with it, ``heed`` what to heed in them, ``who`` does it and where, ``page`` its page, ``photos`` their keys."""

    key: str
    row: Row
    cell: SheetCell
    entered: list[str]
    heed: list[str]
    who: str
    page: str
    page_said: str
    photos: list[int]


class WorkPage(TypedDict):
    """The whole page."""

    sheet: Sheet
    steps: list[StepRow]
    now: StepRow | None
    cautions: list[str]
    done: int
    hours: str
    left: str
    lost: str
    worked: str
    at_least: str
    entries: list[tuple[str, int]]
    holds: list[str]
    line: SafeString


def moment_now(workshop: Workshop | None) -> datetime.datetime:
    """The time now on the wall of a workshop, to the minute."""
    return timezone.localtime(timezone=zone_of(workshop)).replace(second=0, microsecond=0)


def made_of(record: JobRecord) -> Hashable:
    """What the pages of the work show beside the job: the day, what has rested by now, and what the workshop took elsewhere."""
    at = moment_now(record.workshop)
    try:
        come: Hashable = sum(turn <= at for turn in turns_of_work(build(JOBS.job_of(record))))
    except (BadInput, CircuitError):
        come = at
    return at.date(), come, noted_elsewhere(record)


def made_by_the_minute(record: JobRecord) -> Hashable:
    """The same for a page on which the days left begin with the minute."""
    return moment_now(record.workshop), noted_elsewhere(record)


def work_page(
    network: Network, record: int, at: datetime.datetime | None = None, factors: Factors = ()
) -> WorkPage:
    """The work order of a job at a moment. Raises CircuitError and BadInput in words."""
    sheet = sheet_of_work(network, at, factors)
    begun = {(band.state, band.start_min) for band in sheet.bands}
    steps = [step_row(row, record, begun) for row in sheet.rows]
    now = next((one for one in steps if one["row"] is sheet.now), None)
    known = states_at_work()
    cautions: list[str] = []
    if now is not None:
        entered = [state for state in now["row"].states if state not in sheet.holds]
        cautions = [known[state].caution for state in entered if known[state].caution]
        cautions += [now["row"].planned.caution] if now["row"].planned.caution else []
    return {
        "sheet": sheet,
        "steps": steps,
        "now": now,
        "cautions": cautions,
        "done": sum(row.stands in ("done", "rests") for row in sheet.rows),
        "hours": hours_said(sheet.hands_on + sheet.entering),
        "left": hours_said(sheet.left),
        "lost": hours_said(sheet.lost_min) if sheet.lost_min >= 1 else "",
        "worked": hours_said(sum(row.worked.minutes or 0.0 for row in sheet.rows if row.worked)),
        "at_least": hours_said(sheet.plan.ordered.at_least),
        "entries": [
            (known[name].words, count)
            for name, count in sheet.plan.ordered.setups.items()
            if count and name in known
        ],
        "holds": [known[name].words for name in known if name in sheet.holds],
        "line": time_line(sheet),
    }


def step_row(row: Row, record: int, begun: Collection[tuple[str, float]] = ()) -> StepRow:
    """One step with its cell."""
    key = id_part(row.planned.key)
    entered = [state for state in row.states if (state, row.start_min) in begun]
    cell = SheetCell(
        "found", written(row.worked), f"Done: {row.name}", f"wrong-{key}", (("step", row.planned.key),)
    )
    return {
        "key": key,
        "row": row,
        "cell": cell,
        "photos": [],
        "entered": [states_at_work()[name].words for name in entered],
        "heed": [words for name in entered if (words := states_at_work()[name].caution)],
        "who": _who(row),
        "page": _page(row, record),
        "page_said": "The work card, with its section"
        if row.planned.kind in ("open", "fit")
        else "Where it is done",
    }


def _who(row: Row) -> str:
    """Behind the minutes: how many people and where."""
    people = ", two people" if row.planned.step.hands > 1 else ""
    return people + (f", {PLACES_OF_WORK[row.planned.place]}" if row.planned.place else "")


def _page(row: Row, record: int) -> str:
    """Where in the application a step is done; '' where it is done with the hands alone."""
    phase = row.planned.kind.removeprefix("prove_")
    if phase != row.planned.kind:
        return f"{reverse('proving:plan', args=[record])}?phase={phase}"
    if row.planned.kind in ("open", "fit"):
        return f"{reverse('ports:card', args=[record])}?{urlencode({'channel': row.planned.part})}"
    name = PAGES.get(row.planned.kind)
    return reverse(name, args=[record]) if name else ""


def hours_said(minutes: float) -> str:
    """Minutes as hours and minutes: '2 h 35 min'."""
    hours, rest = divmod(round(minutes), 60)
    return f"{hours} h {rest:02d} min" if hours else f"{rest} min"
