"""Openings: the holes that leads pass, each with its wires packed."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import harness as acts
from metrolex.errors import BadInput
from metrolex.harness.openings import crossing_of, offers_for
from metrolex.job import Opening
from workbench.harness.forms import OpeningForm
from workbench.harness.opening_drawing import opening_drawing
from workbench.jobs.fields import as_typed, field_ids, refuse
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, carry_out, look_for, page_at, page_of_job, record_for, show_page
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """Every opening in cross-section."""
    return _page(request, record, look)


def _page(request: Request, record: JobRecord, look: Look, bad: OpeningForm | None = None) -> HttpResponse:
    runs = [(run.id, run.name) for run in look.job.runs]
    rows: list[dict[str, Any]] = []
    for i, opening in enumerate(look.job.openings):
        crossing = crossing_of(look.job, opening)
        mine = bad if bad is not None and bad.data.get("id") == opening.id else None
        form = mine or OpeningForm(initial=_start(opening), runs=runs, auto_id=f"id_{i}_%s")
        rows.append(
            {
                "opening": opening,
                "crossing": crossing,
                "drawing": opening_drawing(crossing),
                "form": form,
                "open": mine is not None,
                "offers": offers_for(look.job, crossing),
            }
        )
    # A form of an opening that is gone comes back as a new one: nothing typed is lost.
    new = bad if bad is not None and not any(row["open"] for row in rows) else OpeningForm(runs=runs)
    return show_page(
        request,
        "harness/openings.html",
        record,
        look,
        "harness",
        422 if bad else 200,
        rows=rows,
        new=new,
        tab="openings",
    )


def _start(opening: Opening) -> dict[str, Any]:
    return {
        "id": opening.id,
        "name": opening.name,
        "hole_mm": as_typed(opening.hole_mm, "mm"),
        "edge": opening.edge,
        "made": opening.made,
        "runs": list(opening.runs),
        "there_mm": as_typed(opening.there_mm, "mm") if opening.there_mm else "",
        "plugs": "\n".join(f"{p.name}, {as_typed(p.w_mm)} x {as_typed(p.h_mm)} mm" for p in opening.plugs),
    }


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """One opening, as measured."""
    record = record_for(request, job)
    form = OpeningForm(
        request.POST,
        runs=[(run.id, run.name) for run in look_for(request, record).job.runs],
        auto_id=field_ids("opening", request.POST.get("id", "")),
    )
    if form.is_valid():
        key = form.cleaned_data["id"]
        try:
            carry_out(
                request, record, lambda before: acts.set_opening(before, key, form.data_of(key or "new"))
            )
            return redirect(page_at("harness:openings", job))
        except BadInput as fault:
            refuse(form, fault, {"id": "name"})
    return _page(request, record, look_for(request, record), form)


@require_POST
def remove(request: Request, job: int) -> HttpResponse:
    """Take an opening off the plan."""
    key = request.POST.get("opening", "")
    return act(request, job, lambda before: acts.remove_opening(before, key), "harness:openings")
