"""Harness: runs and wires."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, TypedDict, cast

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.safestring import SafeString
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import harness as acts
from metrolex.errors import BadInput
from metrolex.harness.cut_list import Purchase, purchases, total_length_m
from metrolex.harness.plan import plan_wires, waits_for_a_plug
from metrolex.harness.protection import Cover, bundle_of, cover_run
from metrolex.harness.runs import RunPlan, plan_run
from metrolex.job import Job, Run
from metrolex.job.within import value_within
from metrolex.layout.routes import laid
from workbench.harness import wires
from workbench.harness.drawings import run_drawing
from workbench.harness.forms import (
    LayForm,
    MoveForm,
    NewWireForm,
    RunForm,
    SegmentForm,
    SegmentFormSet,
    WireForm,
)
from workbench.harness.wires import WireRow
from workbench.jobs.cache import JOBS
from workbench.jobs.fields import as_typed, field_ids, refuse
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, carry_out, kept, look_for, page_at, page_of_job, record_for, show_page
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """Runs and the cut list."""
    context = _context(
        look, request.GET.get("run", ""), editing=_editing(look.job, request.GET.get("wire", ""))
    )
    return show_page(request, "harness/show.html", record, look, "harness", **context)


@require_safe
@page_of_job
def wire_form(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The form of one wire, fetched when it is opened: a page of all of them is heavy."""
    editing = _editing(look.job, request.GET.get("wire", ""))
    if editing is None:
        raise Http404
    return render(request, "harness/_wire_form.html", {"record": record, "editing": editing})


def _editing(job: Job, key: str) -> Editing | None:
    """A wire and its form as it stands; None where there is no such wire."""
    wire = next((w for w in job.conductors if w.id == key), None)
    if wire is None:
        return None
    start = {
        name: value_within(wire, name)
        for name in ("colour", "stripe", "stripe_2", "mark", "twist", "shield", "insulation", "run")
    }
    start |= {
        "size": as_typed(wire.size, "awg" if wire.system == "awg" else ""),
        "temperature_degc": as_typed(wire.temperature_degc, "C"),
        "length_m": as_typed(wire.length_m, "m"),
    }
    return {
        "key": key,
        "form": WireForm(initial=start, runs=_run_choices(job), auto_id=field_ids("wire", key)),
        "move": MoveForm(
            ends=[(value, words) for value, words, _ in wires.end_choices(job)],
            initial={"end": "a", "to": f"{wire.a.kind}|{wire.a.id}|{wire.a.terminal}"},
            auto_id=field_ids("move", key),
        ),
    }


class Editing(TypedDict):
    """A wire with its form."""

    key: str
    form: WireForm
    move: MoveForm


class RunRow(TypedDict):
    """A run as laid, against its lead."""

    run: Run
    way: Run
    plan: RunPlan
    drawing: SafeString | str


class RunsPage(TypedDict):
    """Runs and cut list."""

    tab: str
    runs: list[RunRow]
    chosen: Run | None
    covers: tuple[Cover, ...]
    bundle_mm: float | None
    run_form: RunForm | None
    segment_forms: Any
    wires: list[WireRow]
    editing: Editing | None
    lay_form: LayForm
    new_wire: NewWireForm
    total_m: float
    reels: tuple[Purchase, ...]


def _context(look: Look, run_key: str, **forms: Any) -> RunsPage:
    job = look.job
    chosen = job.run(run_key) or (job.runs[0] if job.runs else None)
    return {
        "tab": "runs",
        "runs": [_run_row(job, run) for run in job.runs],
        "chosen": chosen,
        "covers": cover_run(job, chosen) if chosen else (),
        "bundle_mm": bundle_of(job, chosen) if chosen else None,
        "run_form": forms.get("run_form") or (RunForm(initial=RunForm.own(chosen)) if chosen else None),
        "segment_forms": forms.get("segment_forms") or (_segment_forms(chosen) if chosen else None),
        "wires": wires.cut_list(look.solved),
        "editing": forms.get("editing"),
        "lay_form": forms.get("lay_form")
        or LayForm(runs=acts.unmeasured_runs(look.job), plugs=waits_for_a_plug(look.job)),
        "new_wire": forms.get("new_wire") or _new_wire_form(job),
        "total_m": total_length_m(job),
        "reels": purchases(job),
    }


def _run_row(job: Job, run: Run) -> RunRow:
    way = laid(job, run)
    return {
        "run": run,
        "way": way,
        "plan": plan_run(way),
        "drawing": run_drawing(way) if way.segments else "",
    }


def _segment_forms(run: Run) -> Any:
    initial = [SegmentForm.of(segment) for segment in run.segments]
    return SegmentFormSet(initial=initial, prefix="segments")


def _run_choices(job: Job) -> list[tuple[str, str]]:
    return [(run.id, run.name) for run in job.runs]


def _new_wire_form(job: Job, data: Any = None) -> NewWireForm:
    ends = [(value, words) for value, words, _ in wires.end_choices(job)]
    return NewWireForm(data, ends=ends, runs=_run_choices(job), initial={"size": "0.5"})


@require_POST
def run(request: Request, job: int) -> HttpResponse:
    """The way of one lead, as measured."""
    record, key = record_for(request, job), request.POST.get("run", "")
    form, segments = RunForm(request.POST), SegmentFormSet(request.POST, prefix="segments")
    if form.is_valid() and segments.is_valid():
        kept = tuple(
            row.segment()
            for row in cast(Sequence[SegmentForm], segments)
            if row.cleaned_data.get("length_m") is not None and not row.cleaned_data.get("DELETE")
        )
        try:
            carry_out(request, record, lambda before: acts.set_run(before, key, kept, form.values()))
            return redirect(page_at("harness:show", job, run=key))
        except BadInput as fault:
            refuse(form, fault)
    look = look_for(request, record)
    context = _context(look, key, run_form=form, segment_forms=segments)
    return show_page(request, "harness/show.html", record, look, "harness", 422, **context)


@require_POST
def run_add(request: Request, job: int) -> HttpResponse:
    name = request.POST.get("name", "").strip()
    return act(request, job, lambda before: acts.add_run(before, name), "harness:show", typed=name)


@require_POST
def run_remove(request: Request, job: int) -> HttpResponse:
    return act(
        request, job, lambda before: acts.remove_run(before, request.POST.get("run", "")), "harness:show"
    )


@require_POST
def lay(request: Request, job: int) -> HttpResponse:
    """Lay every missing wire by rule, and say what could not be laid."""
    record = record_for(request, job)
    before = JOBS.job_of(record)
    form = LayForm(request.POST, runs=acts.unmeasured_runs(before), plugs=waits_for_a_plug(before))
    if not form.is_valid():
        look = look_for(request, record)
        return show_page(
            request,
            "harness/show.html",
            record,
            look,
            "harness",
            422,
            **_context(look, "", lay_form=form),
        )
    try:
        after = carry_out(request, record, lambda before: acts.lay_wires(before, form.lengths()))
    except BadInput as fault:
        messages.error(request, fault.message)
        return redirect("harness:show", job)
    laid = len(after.conductors) - len(before.conductors)
    messages.success(request, f"{laid} wires laid by rule." if laid > 0 else "No wire to lay.")
    for missing in plan_wires(after).missing:
        messages.warning(request, f"Not laid: {missing}.")
    return redirect("harness:show", job)


@require_POST
def wire(request: Request, job: int) -> HttpResponse:
    """A wire's size, colour, length or run."""
    record, key = record_for(request, job), request.POST.get("wire", "")
    look = look_for(request, record)
    old = next((w for w in look.job.conductors if w.id == key), None)
    form = WireForm(request.POST, runs=_run_choices(look.job), auto_id=field_ids("wire", key))
    if old is None:
        messages.error(request, f"There is no wire '{key:.40}'.")
        return redirect("harness:show", job)
    if kept(request, record, form, lambda before: acts.set_wire(before, key, form.values())):
        return redirect(reverse("harness:show", args=[job]) + "#wires")
    context = _context(look, "", editing={"key": key, "form": form})
    return show_page(request, "harness/show.html", record, look, "harness", 422, **context)


@require_POST
def wire_move(request: Request, job: int) -> HttpResponse:
    """An end of a wire led to another place."""
    key, posted = request.POST.get("wire", ""), request.POST
    ends = {value: end for value, _, end in wires.end_choices(JOBS.job_of(record_for(request, job)))}

    def moved(before: Job) -> Job:
        to = ends.get(posted.get("to", ""))
        if to is None:
            raise BadInput("to", posted.get("to", ""), "a place of this job")
        return acts.move_end(before, key, posted.get("end", ""), to)

    return act(request, job, moved, "harness:show")


@require_POST
def wire_add(request: Request, job: int) -> HttpResponse:
    """One more wire between two places."""
    record = record_for(request, job)
    look = look_for(request, record)
    form = _new_wire_form(look.job, request.POST)
    if form.is_valid():
        ends = {value: end for value, _, end in wires.end_choices(look.job)}
        clean = form.cleaned_data
        try:
            carry_out(
                request,
                record,
                lambda before: acts.add_wire(
                    before,
                    ends[clean["a"]],
                    ends[clean["b"]],
                    form.values()["size"],
                    clean["colour"],
                    clean["length_m"],
                    clean["run"] or None,
                    form.values()["system"],
                ),
            )
            return redirect(reverse("harness:show", args=[job]) + "#wires")
        except BadInput as fault:
            form.add_error("b", fault.message)
    return show_page(
        request, "harness/show.html", record, look, "harness", 422, **_context(look, "", new_wire=form)
    )


@require_POST
def wire_remove(request: Request, job: int) -> HttpResponse:
    return act(
        request,
        job,
        lambda before: acts.remove_wire(before, request.POST.get("wire", "")),
        "harness:show",
    )
