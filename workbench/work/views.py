"""Work order: shown in its order, noted step by step, as a list."""

from __future__ import annotations

import datetime
from typing import Any

from django.http import HttpResponse
from django.shortcuts import redirect
from django.template.loader import render_to_string
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe
from django_htmx.http import trigger_client_event

from metrolex.acts.work import note_step
from metrolex.errors import BadInput, CircuitError
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
from workbench.work.page import hours_said, made_of, moment_now, step_row, work_page

#: A note kept on a telephone is believed to be as old as it says within these limits; what its clock is off by is put right from here on.
OLDEST, AHEAD = datetime.timedelta(days=14), datetime.timedelta(minutes=2)
CLOCK_MAY_BE_OFF = datetime.timedelta(seconds=90)


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
        page = work_page(look.network, record.pk, moment_now(record.workshop), factors_for(record))
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
    error, after = "", None
    over = request.POST.get("over") == "1" or not request.POST.get("at")  # what is noted now is the newest
    at, late = _moment(request, moment_now(record.workshop))
    try:
        after = carry_out(
            request, record, lambda before: note_step(before, step, text, at, over=over), as_one=all_of_it
        )
    except BadInput as fault:
        error = fault.message
    if not request.htmx:
        if error:
            tell_refused(request, error, text)
        return redirect("work:show", job)
    network = build(after or JOBS.job_of(record))
    found = row_of_step(network, step, moment_now(record.workshop), factors_for(record))
    where = "now" if request.POST.get("where") == "now" else id_part(step)
    context: dict[str, Any] = {"key": where if found else "", "error": error, "late": late}
    if found is not None and after is not None:
        context["one"] = step_row(found, record.pk)
    answer = HttpResponse(render_to_string("work/_noted.html", context))
    return answer if error else trigger_client_event(answer, "job-changed")


def _moment(request: Request, now: datetime.datetime) -> tuple[datetime.datetime, str]:
    """When it was noted, and what to say of the clock it was noted by.

    A telephone that kept a note says when by its own clock, and what that clock shows now: how far it is off is known, and put right.
    """
    noted, shows = (_instant(request.POST.get(name, "")) for name in ("at", "clock"))
    if noted is None:
        return now, ""
    off = datetime.timedelta() if shows is None else shows - timezone.now()
    wrong = abs(off) > CLOCK_MAY_BE_OFF
    found = (noted - off if wrong else noted).astimezone(now.tzinfo).replace(second=0, microsecond=0)
    if not now - OLDEST <= found <= now + AHEAD:
        return now, "When it was noted cannot be right: it is taken as of now."
    return found, _clock_words(off) if wrong else ""


def _instant(said: str) -> datetime.datetime | None:
    """A moment with its distance from UTC, as a browser says it; None for anything else."""
    try:
        found = datetime.datetime.fromisoformat(said[:35])
    except ValueError:
        return None
    return found if found.tzinfo is not None else None


def _clock_words(off: datetime.timedelta) -> str:
    way = "fast" if off > datetime.timedelta() else "slow"
    return f"This device's clock is {hours_said(abs(off).total_seconds() / 60)} {way}: the time of the note is put right."


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
