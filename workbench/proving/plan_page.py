"""What the plan of Proving is made of: the phases, and of the one at hand its tests that are enough and its checks."""

from __future__ import annotations

from itertools import groupby
from typing import TypedDict
from urllib.parse import urlencode

from django.urls import reverse

from metrolex.job import State
from metrolex.proving import Check, Enough, PhasePlan, PlannedCheck, enough_of, plan_of
from metrolex.quantities import typed
from metrolex.twin import Network
from workbench.jobs.models import JobRecord
from workbench.markup import id_part
from workbench.proving.page import TestRow, row_of
from workbench.sheet_cell import SheetCell

__all__ = ["CheckRow", "PlanPage", "check_row", "plan_page"]


class CheckRow(TypedDict):
    """A check with its cell; ``key`` stands in the ids of its elements, ``note_at`` is the page where it is written down instead, '' for here."""

    key: str
    planned: PlannedCheck
    cell: SheetCell
    note_at: str


class PlanPage(TypedDict):
    """The plan at one phase."""

    enough: Enough
    phases: tuple[PhasePlan, ...]
    at: PhasePlan
    tests: list[tuple[State, list[TestRow]]]
    checks: list[CheckRow]
    more_checks: list[CheckRow]
    minutes_left: float
    open_count: int


def plan_page(record: JobRecord, network: Network, asked: str) -> PlanPage:
    """The plan at the phase asked for, the first that is not done where none is. Raises CircuitError in words."""
    plans = plan_of(network)
    at = next((one for one in plans if one.phase.key == asked), None)
    at = at or next((one for one in plans if one.open), plans[-1])
    rows = [check_row(record, one) for one in at.checks]
    by_state = groupby(at.tests, key=lambda one: one.state)
    return {
        "enough": enough_of(network),
        "phases": plans,
        "at": at,
        "tests": [(state, [row_of(network, state, one.point) for one in group]) for state, group in by_state],
        "checks": [row for row in rows if row["planned"].check.needed],
        "more_checks": [row for row in rows if not row["planned"].check.needed],
        "minutes_left": sum(one.minutes for one in plans),
        "open_count": sum(one.open for one in plans),
    }


def check_row(record: JobRecord, planned: PlannedCheck) -> CheckRow:
    """One check with its cell."""
    check, checked = planned.check, planned.checked
    written = ""
    if checked is not None:
        figure = typed(checked.value)
        word = "ok" if checked.result == "good" else checked.result
        written = figure or (f"{word}: {checked.why}" if checked.why else word)
    key = id_part(check.ref.key)
    return {
        "key": key,
        "planned": planned,
        "cell": SheetCell(
            "found", written, f"Found: {check.do}", f"wrong-{key}", (("check", check.ref.key),)
        ),
        "note_at": _note_at(record, check) if check.place else "",
    }


def _note_at(record: JobRecord, check: Check) -> str:
    """Where a check is written down that belongs to another place."""
    if check.place == "scaling":
        return f"{reverse('scaling:show', args=[record.pk])}?{urlencode({'channel': check.ref.on})}"
    return reverse("brief:survey", args=[record.pk])
