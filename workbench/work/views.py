"""Work order: shown once its order is found, noted step by step, on paper."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.shortcuts import redirect
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe
from django_htmx.http import trigger_client_event

from metrolex.acts.work import note_step
from metrolex.errors import BadInput, CircuitError
from metrolex.twin import build
from metrolex.workorder.sheet import sheet_of_work
from workbench.jobs.cache import JOBS
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import carry_out, page_of_job, record_for, show_page, tell_refused
from workbench.markup import id_part
from workbench.request import Request
from workbench.sheets import csv_answer
from workbench.work.page import step_row, work_page
from workbench.work.papers import SHEET


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The work order."""
    return show_page(request, "work/show.html", record, look, "work", **_context(look))


@require_safe
@page_of_job
def sheet(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What hangs on a step that was noted: the step that comes now, the time line, the stages."""
    return show_page(request, "work/_live.html", record, look, "work", fragment=True, **_context(look))


def _context(look: Look) -> dict[str, Any]:
    try:
        return dict(work_page(look.network))
    except (BadInput, CircuitError) as fault:
        return {"problem": str(fault)}


@require_POST
def noted(request: Request, job: int) -> HttpResponse:
    """How a step went; its row at once."""
    record = record_for(request, job)
    step, text = request.POST.get("step", ""), request.POST.get("found", "")
    error, after, day = "", None, timezone.localdate().isoformat()
    try:
        after = carry_out(request, record, lambda before: note_step(before, step, text, day))
    except BadInput as fault:
        error = fault.message
    if not request.htmx:
        if error:
            tell_refused(request, error, text)
        return redirect("work:show", job)
    found = next(
        (r for r in sheet_of_work(build(after or JOBS.job_of(record))).rows if r.planned.key == step), None
    )
    context: dict[str, Any] = {"key": id_part(step) if found else "", "error": error}
    if found is not None and after is not None:
        context["one"] = step_row(found)
    answer = HttpResponse(render_to_string("work/_noted.html", context))
    return answer if error else trigger_client_event(answer, "job-changed")


@require_safe
@page_of_job
def steps_csv(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The steps in their order, as CSV."""
    rows = [
        [
            str(row.number),
            row.planned.step.name,
            f"{row.start_min:.1f}",
            f"{row.planned.step.minutes:g}",
            ", ".join(row.states),
            ", ".join(row.planned.tools),
            row.stands,
            row.worked.why if row.worked else "",
        ]
        for row in sheet_of_work(look.network).rows
    ]
    head = ["number", "step", "begins_min", "minutes", "states", "tools", "stands", "why"]
    return csv_answer(f"{record.name or 'job'} work order", head, rows)


@require_safe
def sheet_pdf(request: Request, job: int) -> HttpResponse:
    """The job sheet on paper, with boxes to tick."""
    record = record_for(request, job)
    size = request.GET.get("size", "")
    about = {"size": "letter"} if size == "letter" else {}
    return SHEET.sent(request, record, f"{slugify(record.name) or 'job'}-work.pdf", **about)
