"""The flow paths of the vehicle: started from a layout, measured, edited."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import ports as acts
from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import FlowPath, Job
from metrolex.ports.facts import hanging_on
from metrolex.ports.paths import beside_words, layout_of
from metrolex.quantities import in_unit
from workbench.jobs.fields import as_typed, field_ids, refuse
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, carry_out, look_for, page_at, page_of_job, record_for, show_page
from workbench.ports.forms import NewPathForm, PathForm
from workbench.ports.path_drawing import path_drawing
from workbench.ports.path_text import parts_text, read_parts, read_stretches, stretches_text, sum_of
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """All paths, drawn to scale, each with its form."""
    return _page(request, record, look)


def _page(
    request: Request,
    record: JobRecord,
    look: Look,
    bad: PathForm | None = None,
    new_form: NewPathForm | None = None,
) -> HttpResponse:
    rows = []
    for path in look.job.paths:
        others = [p for p in look.job.paths if p.kind == path.kind and p.id != path.id]
        mine = bad if bad is not None and bad.data.get("id") == path.id else None
        rows.append(
            {
                "path": path,
                "drawing": path_drawing(
                    path,
                    (),
                    (),
                    "",
                    beside=beside_words(path, look.job.paths),
                    others=hanging_on(look.job, path),
                ),
                "form": mine
                or PathForm(initial=_start(path), paths=others, auto_id=field_ids("path", path.id)),
                "open": mine is not None,
            }
        )
    status = 422 if bad is not None or (new_form is not None and new_form.errors) else 200
    return show_page(
        request,
        "ports/paths.html",
        record,
        look,
        "ports",
        status,
        rows=rows,
        tab="paths",
        layout=layout_of(look.job.vehicle),
        new_form=new_form or NewPathForm(),
    )


def _start(path: FlowPath) -> dict[str, Any]:
    return {
        "id": path.id,
        "drawn": sum_of(parts_text(path), stretches_text(path)),
        "name": path.name,
        "length_m": _in_mm(path.length_m),
        "into": path.into or "",
        "measured": path.measured,
        "parts": parts_text(path),
        "stretches": stretches_text(path),
    }


def _in_mm(length_m: float | None) -> str:
    return "" if length_m is None else as_typed(in_unit(length_m, "m", "mm"), "mm")


@require_POST
def start(request: Request, job: int) -> HttpResponse:
    """The paths of this layout."""
    return act(request, job, acts.start_paths, "ports:paths")


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """One path, as it was measured."""
    record = record_for(request, job)
    form = PathForm(
        request.POST,
        paths=look_for(request, record).job.paths,
        auto_id=field_ids("path", request.POST.get("id", "")),
    )
    if form.is_valid():
        try:
            carry_out(request, record, lambda before: _with_path(before, form.cleaned_data))
            messages.success(request, f"{form.cleaned_data['name']} saved.")
            return redirect(page_at("ports:paths", job))
        except BadInput as fault:
            refuse(form, fault, {"at_m": "length_m", "ports": "length_m"})
    return _page(request, record, look_for(request, record), form)


def _with_path(job: Job, clean: dict[str, Any]) -> Job:
    old = job.path(clean["id"])
    if old is None:
        raise BadInput("name", clean["name"], "a path of this job", "This path is gone: load the page again.")
    length = clean["length_m"]
    parts, stretches = read_parts(clean["parts"]), read_stretches(clean["stretches"])
    lines = sum_of(clean["parts"], clean["stretches"])
    unchanged = lines == (clean["drawn"] or sum_of(parts_text(old), stretches_text(old)))
    if length is not None and old.length_m is not None and abs(length - old.length_m) > 1e-9 and unchanged:
        # Only the length was typed, whatever another drew meanwhile: the drawing is stretched to it, parts and pins keep their share.
        job = acts.measure_path(job, old.id, length)
        return acts.set_path(
            job,
            replace(
                job.path(old.id) or old,
                name=clean["name"],
                into=clean["into"] or None,
                measured=clean["measured"],
            ),
        )
    path = read(
        FlowPath,
        {
            "id": old.id,
            "name": clean["name"],
            "kind": old.kind,
            "length_m": length,
            "into": clean["into"] or None,
            "measured": clean["measured"],
            "parts": parts,
            "stretches": stretches,
        },
    )
    return acts.set_path(job, path)


@require_POST
def new(request: Request, job: int) -> HttpResponse:
    """One more path."""
    record = record_for(request, job)
    form = NewPathForm(request.POST)
    if form.is_valid():
        clean = form.cleaned_data
        try:
            carry_out(
                request,
                record,
                lambda before: acts.add_path(before, clean["name"], clean["kind"], clean["length_m"]),
            )
            return redirect(page_at("ports:paths", job))
        except BadInput as fault:
            refuse(form, fault)
    return _page(request, record, look_for(request, record), new_form=form)


@require_POST
def remove(request: Request, job: int) -> HttpResponse:
    """Take a path out; its pins stay without a position."""
    key = request.POST.get("path", "")
    return act(request, job, lambda before: acts.remove_path(before, key), "ports:paths")
