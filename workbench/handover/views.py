"""Handover: the book on the page and as papers, the closing words, the handing over, what has been since."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from metrolex.acts.closing import set_closing
from metrolex.errors import BadInput
from metrolex.handover import bars_of, rechecks_of
from metrolex.handover.calendar import calendar_file
from metrolex.harness.label_sheets import label_sheets
from metrolex.jobfile import job_to_text
from workbench.handover.forms import ClosingForm, HandOverForm
from workbench.handover.handing_over import hand_over, handed_of
from workbench.handover.models import Handed
from workbench.handover.papers import AS_HANDED, BOOK, CARD, FUSES, SETTINGS, SIZES, printed_book
from workbench.jobs.fields import refuse
from workbench.jobs.kept_pages import Page
from workbench.jobs.look import FIRST_SEEN, Look, look_at
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import kept, look_for, page_of_job, record_for, show_page
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What bars the handing over, the closing words, what there is to take away; the book as it prints follows by itself."""
    return _show(request, record, look)


def _show(
    request: Request,
    record: JobRecord,
    look: Look,
    closing: ClosingForm | None = None,
    over: HandOverForm | None = None,
) -> HttpResponse:
    rows = handed_of(record, look)
    first = {"to": rows[0]["handed"].to if rows else look.job.brief.owner}
    wrong = closing is not None or over is not None
    bars = bars_of(look.job, look_at(look.job, FIRST_SEEN).standing)
    context: dict[str, Any] = {
        "bars": bars,
        "final": any(bar.final for bar in bars),
        "unproved": [row.channel.name for row in look.rows if row.cell("proof").state != "proved"],
        "closing": closing or ClosingForm(initial=ClosingForm.start(look.job.closing), auto_id="closing-%s"),
        "over": over or HandOverForm(initial=first, auto_id="over-%s"),
        "handed": rows,
        "sizes": SIZES,
        "label_sheets": [(one.key, one.words) for one in label_sheets().values()],
    }
    return show_page(
        request, "handover/show.html", record, look, "handover", 422 if wrong else 200, **context
    )


@require_POST
def closing(request: Request, job: int) -> HttpResponse:
    """The closing words."""
    record, form = record_for(request, job), ClosingForm(request.POST, auto_id="closing-%s")
    if kept(request, record, form, lambda before: set_closing(before, form.cleaned_data)):
        return redirect("handover:show", job)
    return _show(request, record, look_for(request, record), closing=form)


@require_POST
def over(request: Request, job: int) -> HttpResponse:
    """The handing over: the job as it stands is kept for good."""
    record, form = record_for(request, job), HandOverForm(request.POST, auto_id="over-%s")
    look = look_for(request, record)
    if form.is_valid():
        try:
            handed = hand_over(
                record, look, request.member or None, form.cleaned_data["to"], form.cleaned_data["reason"]
            )
        except BadInput as fault:
            refuse(form, fault)
        else:
            messages.success(request, f"Handed to {handed.to}, as version {handed.number}.")
            return redirect("handover:show", job)
    return _show(request, record, look, over=form)


@require_safe
@page_of_job
def book(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The book alone, to print from the browser."""
    context = printed_book(record, look, _address(request, record))
    context |= {"record": record, "look": look, "job": look.job}
    return Page(render_to_string("handover/book.html", context, request), request)


@require_safe
def book_pdf(request: Request, job: int) -> HttpResponse:
    """The book as PDF."""
    record = record_for(request, job)
    return BOOK.sent(
        request, record, f"{_name(record)}-book.pdf", address=_address(request, record), size=_size(request)
    )


@require_safe
def card_pdf(request: Request, job: int) -> HttpResponse:
    """The owner's card, for the glovebox."""
    record = record_for(request, job)
    return CARD.sent(request, record, f"{_name(record)}-card.pdf", size=_size(request))


@require_safe
def fuses_pdf(request: Request, job: int) -> HttpResponse:
    """The label for the lid of the fuse box."""
    record = record_for(request, job)
    return FUSES.sent(request, record, f"{_name(record)}-fuses.pdf", size=_size(request))


@require_safe
def settings_pdf(request: Request, job: int) -> HttpResponse:
    """What is entered in each display."""
    record = record_for(request, job)
    return SETTINGS.sent(request, record, f"{_name(record)}-settings.pdf", size=_size(request))


@require_safe
def rechecks(request: Request, job: int) -> HttpResponse:
    """The rechecks as a calendar file, counted from the last handing over, else from today."""
    record = record_for(request, job)
    look = look_for(request, record)
    last = Handed.objects.filter(record=record).defer("job_file").first()
    handed = timezone.localdate(last.at) if last else timezone.localdate()
    made = calendar_file(
        rechecks_of(look.job),
        look.job.vehicle.name,
        handed,
        last.at if last else timezone.now(),
        f"job-{record.pk}",
    )
    headers = {"Content-Disposition": f'attachment; filename="{_name(record)}-rechecks.ics"'}
    return HttpResponse(made, content_type="text/calendar; charset=utf-8", headers=headers)


@require_safe
@page_of_job
def job_file(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The whole job as a file."""
    return _as_file(job_to_text(look.job), f"{_name(record)}.json")


@require_http_methods(["GET", "HEAD"])
def as_handed(request: Request, job: int, number: int) -> HttpResponse:
    """The book of one handing over, as it was."""
    record, handed = _handed(request, job, number)
    look = look_at(handed.job, FIRST_SEEN)
    context = printed_book(record, look, _address(request, record), handed)
    return render(request, "handover/book.html", {"record": record, "look": look, "job": look.job, **context})


@require_safe
def as_handed_pdf(request: Request, job: int, number: int) -> HttpResponse:
    """The same as PDF."""
    record, handed = _handed(request, job, number)
    name = f"{_name(record)}-handed-over-{handed.number}.pdf"
    about = {"number": number, "address": _address(request, record), "size": _size(request)}
    return AS_HANDED.sent(request, record, name, **about)


@require_safe
def as_handed_file(request: Request, job: int, number: int) -> HttpResponse:
    """The job file of one handing over."""
    record, handed = _handed(request, job, number)
    return _as_file(handed.job_file, f"{_name(record)}-handed-over-{handed.number}.json")


def _handed(request: Request, job: int, number: int) -> tuple[JobRecord, Handed]:
    record = record_for(request, job)
    return record, get_object_or_404(Handed, record=record, number=number)


def _as_file(text: str, name: str) -> HttpResponse:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return HttpResponse(text, content_type="application/json; charset=utf-8", headers=headers)


def _size(request: Request) -> str:
    asked = request.GET.get("size", "")
    return asked if asked in SIZES else SIZES[0]


def _address(request: Request, record: JobRecord) -> str:
    return request.build_absolute_uri(f"/jobs/{record.pk}/")


def _name(record: JobRecord) -> str:
    return slugify(record.name) or f"job-{record.pk}"
