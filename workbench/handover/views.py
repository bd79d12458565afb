"""Handover: the book on the page and as PDF, the job file."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import render
from django.utils.text import slugify
from django.views.decorators.http import require_safe

from metrolex.jobfile import job_to_text
from workbench.handover.papers import BOOK, printed_book
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import page_of_job, record_for, show_page
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What there is to take away, and the book as it prints."""
    book = printed_book(look, _address(request, record))
    return show_page(request, "handover/show.html", record, look, "handover", **book)


@require_safe
@page_of_job
def book(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The book alone, to print from the browser."""
    book = printed_book(look, _address(request, record))
    return render(request, "handover/book.html", {"record": record, "look": look, "job": look.job, **book})


@require_safe
def book_pdf(request: Request, job: int) -> HttpResponse:
    """The book as PDF."""
    record = record_for(request, job)
    return BOOK.sent(request, record, f"{_name(record)}-book.pdf", address=_address(request, record))


@require_safe
@page_of_job
def job_file(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The whole job as a file."""
    headers = {"Content-Disposition": f'attachment; filename="{_name(record)}.json"'}
    return HttpResponse(
        job_to_text(look.job), content_type="application/json; charset=utf-8", headers=headers
    )


def _address(request: Request, record: JobRecord) -> str:
    return request.build_absolute_uri(f"/jobs/{record.pk}/")


def _name(record: JobRecord) -> str:
    return slugify(record.name) or f"job-{record.pk}"
