"""What every page of a job needs: the record of this workshop, the job worked out, the frame around it."""

from __future__ import annotations

import functools
from collections.abc import Callable, Hashable
from dataclasses import replace
from typing import Any, TypedDict
from urllib.parse import urlencode

from django.contrib import messages
from django.forms import Form
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from django.utils.html import format_html
from django.utils.http import url_has_allowed_host_and_scheme

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.job import Job, MeasuringChain, State, Waiver
from workbench.jobs.afterwards import afterwards
from workbench.jobs.cache import JOBS
from workbench.jobs.door import AsOne, Conflict, all_of_it, change
from workbench.jobs.fields import refuse
from workbench.jobs.kept_pages import PAGES, TOKEN, Page
from workbench.jobs.look import Look, look_at
from workbench.jobs.models import JobRecord
from workbench.jobs.seen import Seen
from workbench.jobs.state import state_of
from workbench.request import Request

__all__ = [
    "act",
    "act_in_place",
    "at_channel",
    "back_to",
    "carry_out",
    "channel_or_404",
    "frame",
    "kept",
    "look_for",
    "page_also_of",
    "page_at",
    "page_of_job",
    "record_for",
    "show_page",
    "tell_refused",
]


ViewOfJob = Callable[[Request, JobRecord, Look], HttpResponse]
#: Findings up to which each is shown by itself.
MOST_SLIPS = 6


def record_for(request: Request, job: int) -> JobRecord:
    """The record of a job of this person's workshop; 404 for any other."""
    record = get_object_or_404(JobRecord.objects.for_workshop(request.workshop).light(), pk=job)
    if request.workshop:  # a lazy None is not None
        record.workshop = request.workshop
    return record


def look_for(request: Request, record: JobRecord) -> Look:
    """The job worked out at this person's key switch."""
    return look_at(JOBS.job_of(record), state_of(request, record.pk))


def page_of_job(view: ViewOfJob) -> Callable[[Request, int], HttpResponse]:
    """A view of a job of this workshop, 404 for any other: gets its record and the job worked out, and is rendered once for what it shows."""
    return page_also_of(lambda record: None)(view)


def page_also_of(
    more: Callable[[JobRecord], Hashable],
) -> Callable[[ViewOfJob], Callable[[Request, int], HttpResponse]]:
    """As ``page_of_job``, for a view that shows more than the job, its switch and its library: ``more`` is what it was then."""

    def kept_for(view: ViewOfJob) -> Callable[[Request, int], HttpResponse]:
        @functools.wraps(view)
        def page(request: Request, job: int) -> HttpResponse:
            record = record_for(request, job)
            if request.method != "GET" or len(messages.get_messages(request)):
                return view(request, record, look_for(request, record))
            shown = (_shown(request, record), more(record))
            return PAGES.answer(request, shown, lambda: view(request, record, look_for(request, record)))

        return page

    return kept_for


def _shown(request: Request, record: JobRecord) -> Hashable:
    """All that a page of a job may be made of: the job, its key switch, the workshop and its library, the person, the address."""
    workshop, member = request.workshop, request.member
    return (
        (record.pk, record.version, record.updated, state_of(request, record.pk)),
        (workshop.pk, workshop.name, workshop.library_version, workshop.zone) if workshop else None,
        timezone.get_current_timezone_name(),
        (member.pk, member.role, member.name) if member else None,
        (request.get_host(), request.get_full_path(), bool(request.htmx)),
    )


def channel_or_404(look: Look, channel: str, *, needed: bool = False) -> MeasuringChain:
    """A channel of the job, the first one for ''; a page of a job without channels gets None unless one is ``needed``."""
    found = look.job.chain(channel) if channel else (look.job.chains[0] if look.job.chains else None)
    if found is None and (channel or needed):
        raise Http404
    return found  # type: ignore[return-value]


def at_channel(request: Request, job: int) -> tuple[JobRecord, Look, MeasuringChain]:
    """The job asked for, worked out, and the channel the page is at: the first one where none is named."""
    record = record_for(request, job)
    look = look_for(request, record)
    asked = request.POST if request.method == "POST" else request.GET
    return record, look, channel_or_404(look, asked.get("channel", ""), needed=request.method == "POST")


class Slip(TypedDict):
    """A finding beside the page, with the reason it was waived for."""

    finding: Finding
    waiver: Waiver | None


class Bunch(TypedDict):
    """Slips of one kind, shown as one."""

    grade: str
    code: str
    slips: list[Slip]
    subjects: str


class Frame(TypedDict):
    """What every page of a job shows around its work."""

    record: JobRecord
    look: Look
    job: Job
    state: State
    place: str
    slips: list[Slip]
    bunches: list[Bunch]
    still_open: int
    notes: list[Slip]


def frame(record: JobRecord, look: Look, place: str) -> Frame:
    """What the frame shows: spine, key switch, findings of the place."""
    here = look.findings_at(place)
    slips: list[Slip] = [{"finding": f, "waiver": look.waived(f)} for f in here]
    shown = [slip for slip in slips if slip["finding"].grade != "note"]
    return {
        "record": record,
        "look": look,
        "job": look.job,
        "state": look.state,
        "place": place,
        "slips": shown,
        "bunches": _bunches(shown),
        "still_open": sum(stage.count for stage in look.stages if place in ("", "handover", stage.key)),
        "notes": [slip for slip in slips if slip["finding"].grade == "note"],
    }


def _bunches(slips: list[Slip]) -> list[Bunch]:
    """Slips one by one; where there are more than can be taken in, those of one kind and grade together. Stops stay by themselves."""
    found: dict[Hashable, list[Slip]] = {}
    for i, slip in enumerate(slips):
        finding = slip["finding"]
        alone = len(slips) <= MOST_SLIPS or finding.grade == "stop"
        found.setdefault(i if alone else (finding.grade, finding.code), []).append(slip)
    return [
        {
            "grade": bunch[0]["finding"].grade,
            "code": bunch[0]["finding"].code,
            "slips": bunch,
            "subjects": ", ".join(dict.fromkeys(slip["finding"].subject for slip in bunch)),
        }
        for bunch in found.values()
    ]


def show_page(
    request: Request,
    template: str,
    record: JobRecord,
    look: Look,
    place: str,
    status: int = 200,
    **extra: Any,
) -> HttpResponse:
    """Render a page of the job inside its frame."""
    request.kept_typed = status == 422
    context = {**frame(record, look, place), **extra, "csrf_token": TOKEN}
    return Page(render_to_string(template, context, request), request, status)


def carry_out(
    request: Request,
    record: JobRecord,
    act: Callable[[Job], Job],
    why: str = "",
    as_one: AsOne = lambda job: (),
) -> Job:
    """This person's act on a job, held against the version the form was made from. Raises BadInput."""
    seen = Seen.of(request.POST.get("seen", ""))
    try:
        after = change(record, act, by=request.member or None, why=why, seen=seen, as_one=as_one)
    except Conflict as clash:
        if seen:
            request.told = replace(seen, told=clash.version)
        raise
    request.stored = record.acted
    state = state_of(request, record.pk)
    afterwards(lambda: look_at(after, state))  # the next page this person asks for
    return after


def tell_refused(request: Request, words: str, typed: str = "") -> None:
    """Say on the next page why something was not taken, and give back what was typed for it: it can be copied from there."""
    if not typed.strip():
        messages.error(request, words)
        return
    back = "{} <label class=typed-back>What you typed <textarea readonly rows=2>{}</textarea></label>"
    messages.error(request, format_html(back, words, typed))


def act(
    request: Request,
    job: int,
    edit: Callable[[Job], Job],
    page: str,
    *,
    typed: str = "",
    as_one: AsOne = all_of_it,
    **query: str,
) -> HttpResponse:
    """One act on a job: done, or said why not and nothing changed; then its page again, at the channel spoken of.

    ``typed`` is what was written in words for it, given back if it is refused; ``query`` goes into the address of that page.
    """
    record = record_for(request, job)
    try:
        after = carry_out(request, record, edit, as_one=as_one)
    except BadInput as fault:
        tell_refused(request, fault.message, typed)
        after = JOBS.job_of(record)
    channel = request.POST.get("channel", "")
    return redirect(page_at(page, job, channel=channel if after.chain(channel) else "", **query))


def act_in_place(
    request: Request,
    job: int,
    edit: Callable[[Job], Job],
    *,
    page: str,
    place: str,
    template: str,
    context: Callable[[Look], dict[str, Any]],
    **query: str,
) -> HttpResponse:
    """One act that redraws its drawing and what hangs on it where they stand; without scripts its page again, at ``query``."""
    record, error = record_for(request, job), ""
    try:
        carry_out(request, record, edit, as_one=all_of_it)
    except BadInput as fault:
        error = fault.message
    if not request.htmx:
        if error:
            messages.error(request, error)
        return redirect(page_at(page, job, **query))
    record = JobRecord.objects.get(pk=record.pk)
    look = look_for(request, record)
    return render(request, template, {**frame(record, look, place), **context(look), "error": error})


def kept(
    request: Request,
    record: JobRecord,
    form: Form,
    edit: Callable[[Job], Job],
    fields: dict[str, str] | None = None,
    as_one: AsOne = lambda job: (),
) -> bool:
    """Whether a form was sound and its edit stored; else the complaint stands at its field, with what was typed."""
    if not form.is_valid():
        return False
    try:
        carry_out(request, record, edit, as_one=as_one)
    except BadInput as fault:
        refuse(form, fault, fields)
        return False
    return True


def page_at(page: str, job: int, **query: str) -> str:
    """The address of a page of a job; empty words of the query are left out."""
    words = urlencode({name: word for name, word in query.items() if word})
    return reverse(page, args=[job]) + (f"?{words}" if words else "")


def back_to(request: Request, fallback: str, *args: Any) -> HttpResponse:
    """Back to where the person came from (within this site), else to a named page."""
    target = request.POST.get("next", "")
    if target.startswith("/") and url_has_allowed_host_and_scheme(target, {request.get_host()}):
        return redirect(target)
    return redirect(fallback, *args)
