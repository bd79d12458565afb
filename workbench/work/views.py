"""Work order: shown in its order, noted step by step, as a list."""

from __future__ import annotations

import datetime
from typing import Any

from django.http import HttpResponse
from django.shortcuts import redirect
from django.template.loader import render_to_string
from django.views.decorators.http import require_POST, require_safe
from django_htmx.http import trigger_client_event

from metrolex.acts.work import note_step
from metrolex.errors import BadInput, CircuitError
from metrolex.job.work import moment_of
from metrolex.twin import build
from metrolex.workorder.sheet import row_of_step, sheet_of_work
from metrolex.workorder.unplanned import unplanned
from workbench.jobs.cache import JOBS
from workbench.jobs.door import all_of_it
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import carry_out, page_also_of, page_of_job, record_for, show_page, tell_refused
from workbench.markup import id_part
from workbench.request import Request
from workbench.sheets import csv_answer
from workbench.work.learned import factors_for
from workbench.work.models import StepPhoto
from workbench.work.page import made_of, moment_now, step_row, work_page

#: A note kept on a telephone is believed to be as old as it says within these limits.
OLDEST, AHEAD = datetime.timedelta(days=14), datetime.timedelta(minutes=2)


@require_safe
@page_also_of(made_of)
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The work order."""
    return show_page(request, "work/show.html", record, look, "work", **_context(record, look))


@require_safe
@page_also_of(made_of)
def sheet(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What hangs on a step that was noted: the step that comes now, the time line, the stages."""
    return show_page(
        request, "work/_live.html", record, look, "work", fragment=True, **_context(record, look)
    )


def _context(record: JobRecord, look: Look) -> dict[str, Any]:
    found: dict[str, Any] = {"tab": "sheet"}
    try:
        page = work_page(look.network, record.pk, moment_now(), factors_for(record))
    except (BadInput, CircuitError) as fault:
        return found | {"problem": str(fault)}
    photos = StepPhoto.of_steps(record)
    for one in page["steps"]:
        one["photos"] = photos.get(one["row"].planned.key, [])
    return found | {**page, "unplanned": unplanned(look.job)}


@require_POST
def noted(request: Request, job: int) -> HttpResponse:
    """How a step went; its row at once."""
    record = record_for(request, job)
    step, text = request.POST.get("step", ""), request.POST.get("found", "")
    error, after, at = "", None, _moment(request.POST.get("at", ""))
    try:
        after = carry_out(request, record, lambda before: note_step(before, step, text, at), as_one=all_of_it)
    except BadInput as fault:
        error = fault.message
    if not request.htmx:
        if error:
            tell_refused(request, error, text)
        return redirect("work:show", job)
    network = build(after or JOBS.job_of(record))
    found = row_of_step(network, step, moment_now(), factors_for(record))
    where = "now" if request.POST.get("where") == "now" else id_part(step)
    context: dict[str, Any] = {"key": where if found else "", "error": error}
    if found is not None and after is not None:
        context["one"] = step_row(found, record.pk)
    answer = HttpResponse(render_to_string("work/_noted.html", context))
    return answer if error else trigger_client_event(answer, "job-changed")


def _moment(said: str) -> datetime.datetime:
    """When it was noted: as the telephone that kept it says, unless its clock cannot be right."""
    now = moment_now()
    try:
        found = moment_of(said[:16])
    except BadInput:
        return now
    return found if found is not None and now - OLDEST <= found <= now + AHEAD else now


@require_safe
@page_of_job
def steps_csv(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The steps in their order, as CSV."""
    rows = [
        [
            str(row.number),
            row.name,
            f"{row.start_min:.1f}",
            f"{row.planned.step.minutes:g}",
            f"{row.planned.step.wait_minutes:g}",
            str(row.planned.step.hands),
            row.planned.place,
            ", ".join(row.states),
            ", ".join(row.planned.tools),
            "; ".join(f"{one.words} {one.figure}".strip() for one in row.planned.doing),
            row.stands,
            "" if row.worked is None or row.worked.minutes is None else f"{row.worked.minutes:g}",
            row.worked.why or row.worked.note if row.worked else "",
        ]
        for row in sheet_of_work(look.network).rows
    ]
    head = [
        "number",
        "step",
        "begins_min",
        "minutes",
        "rests_min",
        "hands",
        "place",
        "states",
        "tools",
        "how",
    ]
    return csv_answer(f"{record.name or 'job'} work order", [*head, "stands", "worked_min", "note"], rows)
