"""The probe sheet: a cell is saved as it is left and answers with its row; what hangs on it follows when the typing pauses. A row is added at its foot."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import HttpResponse
from django.shortcuts import redirect
from django.template.loader import render_to_string
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe
from django_htmx.http import trigger_client_event

from metrolex.acts import sheet as acts
from metrolex.errors import BadInput
from metrolex.feeds.probe import columns_of
from metrolex.job import Job
from metrolex.twin import build
from workbench.feeds.page import new_row, page_context, sheet_row, wrong_id
from workbench.jobs.afterwards import answers_first
from workbench.jobs.cache import JOBS
from workbench.jobs.door import all_of_it
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, carry_out, page_of_job, record_for, show_page, tell_refused
from workbench.request import Request

__all__ = ["column_add", "column_remove", "fact", "live", "probe", "prove", "row_add"]


@require_POST
@answers_first
def probe(request: Request, job: int) -> HttpResponse:
    """One cell of the probe sheet, as it is left."""
    key, state, text = (request.POST.get(name, "") for name in ("circuit", "state", "reading"))
    return _cell(request, job, key, state, lambda before: acts.set_reading(before, key, state, text), text)


@require_POST
@answers_first
def prove(request: Request, job: int) -> HttpResponse:
    """Whether it was proved: by its fuse, or a wire by a lamp."""
    key, answer = request.POST.get("circuit", ""), request.POST.get("proved", "")
    return _cell(request, job, key, "proved", lambda before: acts.prove_circuit(before, key, answer))


@require_POST
@answers_first
def fact(request: Request, job: int) -> HttpResponse:
    """What a row says of its slot: name, fuse, fed side."""
    key, which, text = (request.POST.get(name, "") for name in ("circuit", "fact", "value"))
    return _cell(request, job, key, which, lambda before: acts.set_fact(before, key, which, text), text)


@require_POST
@answers_first
def row_add(request: Request, job: int) -> HttpResponse:
    """One more row at the foot of the sheet; with htmx it is put in place and the next one asked for."""
    record = record_for(request, job)
    name, purpose, fuse, kind = (request.POST.get(key, "") for key in ("id", "purpose", "rating_a", "kind"))
    error, after = "", None
    try:
        after = carry_out(request, record, lambda before: acts.add_row(before, name, purpose, fuse, kind))
    except BadInput as fault:
        error = fault.message
    if not request.htmx:
        if error:
            tell_refused(request, error, f"{name} {purpose}")
        return redirect(f"{reverse('feeds:show', args=[job])}#probe-new")
    if after is None:
        return HttpResponse(render_to_string("feeds/_cell.html", {"wrong": "new-row-wrong", "error": error}))
    context: dict[str, Any] = {"record": record, "row": sheet_row(build(after), after.circuits[-1])}
    context |= {"new_row": new_row(after, kind), "states": columns_of(after)}
    answer = HttpResponse(render_to_string("feeds/_row_added.html", context, request))
    return trigger_client_event(answer, "job-changed")


@require_POST
def column_add(request: Request, job: int) -> HttpResponse:
    column = request.POST.get("column", "")
    return act(request, job, lambda before: acts.add_column(before, column), "feeds:show", typed=column)


@require_POST
def column_remove(request: Request, job: int) -> HttpResponse:
    column = request.POST.get("column", "")
    return act(request, job, lambda before: acts.remove_column(before, column), "feeds:show")


def _cell(
    request: Request, job: int, key: str, state: str, edit: Callable[[Job], Job], typed: str = ""
) -> HttpResponse:
    record = record_for(request, job)
    error, after = "", None
    try:
        after = carry_out(request, record, edit, as_one=all_of_it)
    except BadInput as fault:
        error = fault.message
    if not request.htmx:
        if error:
            tell_refused(request, f"{key}, {state}: {error}", typed)
        return redirect("feeds:show", job)
    circuit = (after or JOBS.job_of(record)).circuit(key)
    context: dict[str, Any] = {"wrong": wrong_id(key, state) if circuit else "", "error": error}
    if after is not None and circuit is not None:
        context["row"] = sheet_row(build(after), circuit)
    answer = HttpResponse(render_to_string("feeds/_cell.html", context))
    return answer if error else trigger_client_event(answer, "job-changed")


@require_safe
@page_of_job
def live(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """All that hangs on the sheet: classes, panels, taps, stages, findings."""
    return show_page(request, "feeds/_live.html", record, look, "feeds", fragment=True, **page_context(look))
