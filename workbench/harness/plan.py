"""The plan page: zones, ways, runs along them; a run is led through another zone by dragging it there."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypedDict

from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils.safestring import SafeString
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import plan as acts
from metrolex.harness.extension import Extension, extension_of
from metrolex.harness.runs import RunPlan, plan_run
from metrolex.job import Job, Opening, Run, Way, Zone
from metrolex.layout.lengths import MOVING_EXTRA_M
from metrolex.layout.routes import Route, laid, route_of
from metrolex.layout.templates import layouts
from workbench.harness.drawings import run_drawing
from workbench.harness.plan_drawing import plan_drawing
from workbench.harness.plan_forms import LaidRunForm, WayForm, ZoneForm
from workbench.harness.wires import WireRow, cut_list
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import (
    act,
    act_in_place,
    kept,
    look_for,
    page_at,
    page_of_job,
    record_for,
    show_page,
)
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The plan with one run in hand."""
    context = _context(look, request.GET.get("run", ""))
    return show_page(request, "harness/plan.html", record, look, "harness", **context)


class LaidRow(TypedDict):
    """A run in the list above the plan; no figures before it is laid."""

    run: Run
    plan: RunPlan | None


class WayRow(TypedDict):
    """A way with what it joins and the hole it passes."""

    way: Way
    a: Zone | None
    b: Zone | None
    opening: Opening | None


class RunInHand(TypedDict):
    """What the plan shows of the run in hand."""

    run_form: forms.Form
    way: Run
    route: Route | None
    via: list[tuple[str, str]]
    run_plan: RunPlan | None
    run_picture: SafeString | str
    extension: Extension | None
    moving_m: float
    wires: list[WireRow]
    zones_to_pass: list[Zone]


class PlanPage(TypedDict):
    """The plan with its runs, ways and zones."""

    tab: str
    layouts: tuple[tuple[str, str], ...]
    suggested: str
    chosen: Run | None
    runs: list[LaidRow]
    drawing: SafeString | str
    ways: list[WayRow]
    new_way: forms.Form
    new_zone: forms.Form
    editing: str


def _context(look: Look, run_key: str, **refused: Any) -> dict[str, Any]:
    chosen = look.job.run(run_key) or max(
        look.job.runs, key=lambda r: len(laid(look.job, r).segments), default=None
    )
    plan = _plan(look.job, chosen, refused)
    return {**plan, **_in_hand(look, chosen, refused.get("run"))} if chosen is not None else {**plan}


def _plan(job: Job, chosen: Run | None, refused: dict[str, Any]) -> PlanPage:
    return {
        "tab": "plan",
        "layouts": layouts(),
        "suggested": acts.suggest_layout(job),
        "chosen": chosen,
        "runs": [
            {"run": run, "plan": plan_run(way) if (way := laid(job, run)).segments else None}
            for run in job.runs
        ],
        "drawing": plan_drawing(job, chosen).safe() if job.zones else "",
        "ways": [
            {"way": way, "a": job.zone(way.a), "b": job.zone(way.b), "opening": job.opening(way.opening)}
            for way in job.ways
        ],
        "new_way": refused.get("way") or WayForm(job, prefix="way"),
        "new_zone": refused.get("zone") or ZoneForm(job, prefix="zone"),
        "editing": refused.get("editing", ""),
    }


def _in_hand(look: Look, chosen: Run, refused: forms.Form | None) -> RunInHand:
    job, way = look.job, laid(look.job, chosen)
    names = {zone.id: zone.name for zone in job.zones}
    passed = (chosen.start, chosen.finish, *chosen.via)
    return {
        "run_form": refused or LaidRunForm(job, initial=LaidRunForm.of(chosen)),
        "way": way,
        "route": route_of(job, chosen),
        "via": [(key, names[key]) for key in chosen.via],
        "run_plan": plan_run(way) if way.segments else None,
        "run_picture": run_drawing(way) if way.segments else "",
        "extension": extension_of(job, chosen),
        "moving_m": MOVING_EXTRA_M,
        "wires": [row for row in cut_list(look.solved) if row["wire"].run == chosen.id],
        "zones_to_pass": [zone for zone in job.zones if zone.id not in passed],
    }


@require_POST
def start(request: Request, job: int) -> HttpResponse:
    """A layout to begin with."""
    return act(
        request,
        job,
        lambda before: acts.start_plan(before, request.POST.get("layout", "")),
        "harness:plan",
    )


@require_POST
def run(request: Request, job: int) -> HttpResponse:
    """A run's ends and its lead."""
    record, key = record_for(request, job), request.POST.get("run", "")
    look = look_for(request, record)
    form = LaidRunForm(look.job, request.POST)
    if kept(request, record, form, lambda before: acts.lay_run(before, key, form.values())):
        return redirect(page_at("harness:plan", job, run=key))
    return show_page(
        request, "harness/plan.html", record, look, "harness", 422, **_context(look, key, run=form)
    )


@require_POST
def via(request: Request, job: int) -> HttpResponse:
    """Lead a run through a zone, or no more; the picture, the length, the cut list and the findings follow."""
    key, zone, out = (request.POST.get(name, "") for name in ("run", "zone", "out"))
    edit: Callable[[Job], Job] = (
        (lambda before: acts.let_pass_no_more(before, key, zone))
        if out
        else (lambda before: acts.let_pass(before, key, zone))
    )
    return act_in_place(
        request,
        job,
        edit,
        page="harness:plan",
        place="harness",
        template="harness/_plan_moved.html",
        context=lambda look: _context(look, key),
        run=key,
    )


@require_POST
def way_save(request: Request, job: int) -> HttpResponse:
    """A way as measured, or a new one."""
    record, key = record_for(request, job), request.POST.get("way", "")
    look = look_for(request, record)
    stands = next((way for way in look.job.ways if way.id == key), None)
    form = WayForm(look.job, request.POST, prefix="way", initial=WayForm.of(stands) if stands else None)
    return _saved(
        request,
        record,
        look,
        form,
        "way",
        key,
        lambda before: acts.set_way(before, key, form.values()),
    )


@require_POST
def zone_save(request: Request, job: int) -> HttpResponse:
    """A zone, or a new one."""
    record, key = record_for(request, job), request.POST.get("zone", "")
    look = look_for(request, record)
    form = ZoneForm(look.job, request.POST, prefix="zone")
    return _saved(
        request,
        record,
        look,
        form,
        "zone",
        key,
        lambda before: acts.set_zone(before, key, form.cleaned_data),
    )


def _saved(
    request: Request,
    record: JobRecord,
    look: Look,
    form: forms.Form,
    name: str,
    key: str,
    edit: Callable[[Job], Job],
) -> HttpResponse:
    if kept(request, record, form, edit):
        return redirect(page_at("harness:plan", record.pk, run=request.POST.get("run", "")))
    context = _context(look, request.POST.get("run", ""), **{name: form}, editing=f"{name}:{key}")
    return show_page(request, "harness/plan.html", record, look, "harness", 422, **context)


@require_safe
@page_of_job
def edit(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The page with one way or zone in its form."""
    way, zone = request.GET.get("way", ""), request.GET.get("zone", "")
    refused: dict[str, Any] = {}
    found_way = next((w for w in look.job.ways if w.id == way), None)
    found_zone = look.job.zone(zone)
    if found_way:
        refused = {
            "way": WayForm(look.job, prefix="way", initial=WayForm.of(found_way)),
            "editing": f"way:{way}",
        }
    elif found_zone:
        refused = {
            "zone": ZoneForm(look.job, prefix="zone", initial=ZoneForm.of(found_zone)),
            "editing": f"zone:{zone}",
        }
    return show_page(
        request,
        "harness/plan.html",
        record,
        look,
        "harness",
        **_context(look, request.GET.get("run", ""), **refused),
    )


@require_POST
def way_remove(request: Request, job: int) -> HttpResponse:
    return act(
        request, job, lambda before: acts.remove_way(before, request.POST.get("way", "")), "harness:plan"
    )


@require_POST
def zone_remove(request: Request, job: int) -> HttpResponse:
    return act(
        request,
        job,
        lambda before: acts.remove_zone(before, request.POST.get("zone", "")),
        "harness:plan",
    )


@require_safe
@page_of_job
def plan_file(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The plan as an SVG file."""
    headers = {"Content-Disposition": f'attachment; filename="{slugify(record.name) or "job"}-plan.svg"'}
    return HttpResponse(
        str(plan_drawing(look.job, look.job.run(request.GET.get("run", "")))),
        content_type="image/svg+xml",
        headers=headers,
    )
