"""Chain board, key switch, findings waived with a reason."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpResponse, HttpResponseBadRequest
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import waivers
from metrolex.check import with_accuracy
from metrolex.check.stages import next_action
from metrolex.errors import BadInput
from metrolex.job import Job
from workbench.jobs.example_chain import example_chain
from workbench.jobs.forms import WaiverForm
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import (
    back_to,
    carry_out,
    look_for,
    page_of_job,
    record_for,
    show_page,
    tell_refused,
)
from workbench.jobs.state import set_state
from workbench.request import Request


@require_safe
@page_of_job
def board(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The chain board: the home of a job."""
    words, place = next_action(look.job, look.rows, look.standing)
    return show_page(
        request,
        "jobs/board.html",
        record,
        look,
        "",
        rows=with_accuracy(look.network, look.rows),
        next_words=words,
        next_place=place,
        example=example_chain() if _nothing_chosen(look) else None,
    )


def _nothing_chosen(look: Look) -> bool:
    """Whether the job is as it was made: no place, no tap, no wire."""
    return bool(look.rows) and not (
        look.job.taps or look.job.conductors or any(c.port for c in look.job.chains)
    )


SWITCHES = ("key", "lamps", "engine", "point", "switch", "thrown")


@require_POST
def key_switch(request: Request, job: int) -> HttpResponse:
    """Turn the key, the lamps, the engine or a switch of the job, then show the page again."""
    record_for(request, job)
    changes = {word: request.POST[word] for word in SWITCHES if word in request.POST}
    try:
        set_state(request, job, changes)
    except BadInput as fault:
        return HttpResponseBadRequest(fault.message, content_type="text/plain; charset=utf-8")
    return back_to(request, "jobs:board", job)


@require_POST
def waiver(request: Request, job: int) -> HttpResponse:
    """Waive a stop, with a reason."""
    record = record_for(request, job)
    form = WaiverForm(request.POST)
    if not form.is_valid():
        words = "Write down why before a stop is waived, in 2,000 characters at most: the reason is printed in the book."
        tell_refused(request, words, request.POST.get("reason", ""))
        return back_to(request, "jobs:board", job)
    clean = form.cleaned_data
    by = request.member.name if request.member else ""
    look = look_for(request, record)
    if any(f.final and (f.code, f.key) == (clean["code"], clean["subject"]) for f in look.findings):
        tell_refused(request, "This stop can't be waived: put it right.", clean["reason"])
        return back_to(request, "jobs:board", job)
    return _and_back(
        request,
        record,
        lambda before: waivers.waive_finding(before, clean["code"], clean["subject"], clean["reason"], by),
        clean["reason"],
    )


@require_POST
def waiver_remove(request: Request, job: int) -> HttpResponse:
    """Let a finding stand again."""
    code, subject = request.POST.get("code", ""), request.POST.get("subject", "")
    return _and_back(
        request, record_for(request, job), lambda before: waivers.stop_waiving(before, code, subject)
    )


def _and_back(request: Request, record: JobRecord, edit: Callable[[Job], Job], why: str = "") -> HttpResponse:
    try:
        carry_out(request, record, edit, why)
    except BadInput as fault:
        tell_refused(request, fault.message, why)
    return back_to(request, "jobs:board", record.pk)
