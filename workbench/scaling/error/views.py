"""The error of a channel, part by part."""

from __future__ import annotations

from typing import TypedDict

import numpy as np
from django.http import HttpResponse
from django.utils.safestring import SafeString
from django.views.decorators.http import require_safe

from metrolex.errors import BadInput
from metrolex.job import MeasuringChain, State
from metrolex.quantities import parse_in
from metrolex.scaling.budget import SHIFTS, TERMS, Budget, remedy_of
from metrolex.twin.accuracy import matters_at
from metrolex.twin.error_budget import Loop, channel_budget
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import channel_or_404, page_of_job, show_page
from workbench.request import Request
from workbench.scaling.error.drawing import TERM_WORDS, budget_drawing

KEY_ON = State("run")  # as board and book reckon it


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """Stacked over the range, and as figures at one reading."""
    channel = channel_or_404(look, request.GET.get("channel", ""))
    return show_page(
        request,
        "scaling/error.html",
        record,
        look,
        "scaling",
        **_context(look, channel, request.GET.get("at", "")),
    )


class TermRow(TypedDict):
    """One part of the error at a reading."""

    name: str
    key: str
    error: float
    share: float
    signed: bool
    remedy: str


class ErrorPage(TypedDict, total=False):
    """Where the error of a channel comes from; figures only where its chain is whole."""

    tab: str
    channel: MeasuringChain | None
    at: str
    refused: str
    digits: int
    fine: int
    drawing: SafeString
    loop: Loop
    point: Budget
    one: float
    half_95: float
    shift: float
    worst: float
    terms: list[TermRow]
    most: float
    most_at: float
    biggest: str
    remedy: str


def _context(look: Look, channel: MeasuringChain | None, typed: str) -> ErrorPage:
    found: ErrorPage = {"tab": "error", "channel": channel, "at": typed}
    whole = channel_budget(look.network, KEY_ON, channel) if channel else None
    if channel is None or whole is None:
        return found
    budget, loop = whole
    matters = matters_at(channel)
    at = float(np.median(budget.y)) if matters is None else matters
    if typed:
        try:
            at = parse_in(typed, channel.unit)
        except BadInput as fault:
            found["refused"] = fault.message
    point = channel_budget(look.network, KEY_ON, channel, float(at))
    if point is None:
        low, high = float(budget.y[0]), float(budget.y[-1])
        found["refused"] = found.get("refused") or f"Expected {low:g} to {high:g}, but got {at:g}."
        at = min(max(float(at), low), high)
        point = channel_budget(look.network, KEY_ON, channel, at)
    assert point is not None
    return {
        **found,
        "digits": channel.scaling.decimals + 1,
        "fine": channel.scaling.decimals + 2,
        "drawing": budget_drawing(channel, budget, float(at)),
        "loop": loop,
        "at": f"{at:g}",
        "point": point[0],
        "half_95": float(point[0].half_95[0]),
        "one": float(abs(point[0].shift[0]) + point[0].half_95[0]),
        "shift": float(point[0].shift[0]),
        "worst": float(point[0].worst_case[0]),
        "terms": _terms(point[0]),
        "most": float(budget.half_95.max()),
        "most_at": float(budget.y[int(budget.half_95.argmax())]),
        "biggest": TERM_WORDS[point[0].biggest(0)],
        "remedy": remedy_of(point[0].biggest(0)),
    }


def _terms(point: Budget) -> list[TermRow]:
    """The terms of one reading, largest first, with their share of the worst case."""
    worst = float(point.worst_case[0]) or 1.0
    rows: list[TermRow] = [
        {
            "name": TERM_WORDS[name],
            "key": name,
            "error": float(point.terms[name][0]),
            "share": 100 * abs(float(point.terms[name][0])) / worst,
            "signed": name in SHIFTS,
            "remedy": remedy_of(name),
        }
        for name in TERMS
        if point.terms[name].any()
    ]
    return sorted(rows, key=lambda row: -abs(row["error"]))
