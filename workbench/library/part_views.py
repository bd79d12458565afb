"""Senders and displays in the library: what there is, where it is used, keeping one of a job."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from metrolex.characters import whole_number
from metrolex.errors import BadInput
from metrolex.job import Sender
from metrolex.kit import all_box_kits
from metrolex.quantities import unit_words
from metrolex.senders import x_range, y_range
from workbench.accounts.roles import workshop_to_change
from workbench.jobs.cache import JOBS
from workbench.jobs.pages import back_to, record_for, tell_refused
from workbench.library import parts
from workbench.request import Request


@require_safe
def senders(request: Request) -> HttpResponse:
    """All senders with their curves."""
    rows = [
        {"shelf": row, "law": _law(row.sender), "span": _span(row.sender)}
        for row in _found(request, parts.senders_of(request.workshop))
    ]
    return render(request, "library/senders.html", {"rows": rows, "q": _words(request), "kind": "sender"})


@require_safe
def displays(request: Request) -> HttpResponse:
    """All displays with their inputs and menus."""
    rows = _found(request, parts.displays_of(request.workshop))
    likes = [row.name for row in parts.displays_of(request.workshop)]
    context = {"rows": rows, "q": _words(request), "kind": "display", "likes": [*likes, *all_box_kits()]}
    return render(request, "library/displays.html", context)


def _found(request: Request, rows: tuple[Any, ...]) -> list[Any]:
    words = _words(request).lower().split()
    return [row for row in rows if all(word in row.name.lower() for word in words)]


def _words(request: Request) -> str:
    return request.GET.get("q", "").replace("\0", "").strip()[:80]


def _law(sender: Sender) -> str:
    """A curve's law in a few words."""
    curve = sender.curve
    if curve.kind == "table":
        between = {"linear": "straight", "pchip": "smooth", "log_x": "straight over log"}[curve.interpolation]
        return f"{len(curve.points)} points, {between}"
    return {
        "beta": "beta",
        "steinhart_hart": "Steinhart-Hart",
        "linear": "straight line",
        "thermocouple": f"type {getattr(curve, 'type', '')}",
    }[curve.kind]


def _span(sender: Sender) -> str:
    xs, ys = x_range(sender.curve), y_range(sender.curve)
    return (
        f"{_short(xs[0])} to {_short(xs[1])} {unit_words(sender.curve.x_unit)}, "
        f"{_short(ys[0])} to {_short(ys[1])} {unit_words(sender.curve.y_unit)}"
    )


def _short(value: float) -> str:
    """Three figures that matter, thousands as k."""
    return (
        f"{value / 1000:.3g}k"
        if abs(value) >= 10_000
        else f"{value:.3g}"
        if abs(value) < 1000
        else f"{value:.0f}"
    )


@require_POST
def keep(request: Request) -> HttpResponse:
    """A sender or display of one of the workshop's jobs, kept under a name."""
    number = request.POST.get("job", "")
    record = record_for(request, whole_number(number) or 0)
    kind, key = request.POST.get("kind", ""), request.POST.get("part", "")
    job = JOBS.job_of(record)
    part = job.sender(key) if kind == "sender" else job.display(key) if kind == "display" else None
    if part is None:
        raise Http404
    try:
        name = parts.keep(workshop_to_change(request), part, request.POST.get("name", ""))
        messages.success(request, f"{name} is in the library.")
    except BadInput as fault:
        tell_refused(request, fault.message, request.POST.get("name", ""))
    return back_to(request, "library:senders" if kind == "sender" else "library:displays")


@require_POST
def remove(request: Request) -> HttpResponse:
    """One of the workshop's own taken out."""
    kind = request.POST.get("kind", "")
    try:
        parts.remove(workshop_to_change(request), kind, request.POST.get("name", ""))
    except BadInput as fault:
        messages.error(request, fault.message)
    return redirect("library:displays" if kind == "display" else "library:senders")
