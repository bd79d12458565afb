"""Handover: the book on the page and as PDF, the job file."""

from __future__ import annotations

import functools
import io
from typing import Any

import segno
from django.http import HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.utils.safestring import SafeString, mark_safe
from django.utils.text import slugify
from django.views.decorators.http import require_safe

from metrolex.jobfile import job_to_text
from workbench.handover.book import book_of
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import page_of_job, show_page
from workbench.pdf import pdf_of
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What there is to take away, and the book as it prints."""
    return show_page(request, "handover/show.html", record, look, "handover", **_book(request, record, look))


@require_safe
@page_of_job
def book(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The book alone, to print from the browser."""
    return render(request, "handover/book.html", _alone(request, record, look))


@require_safe
@page_of_job
def book_pdf(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The book as PDF."""
    html = render_to_string("handover/book.html", {**_alone(request, record, look), "as_file": True})
    headers = {"Content-Disposition": f'attachment; filename="{_name(record)}-book.pdf"'}
    return HttpResponse(pdf_of(html), content_type="application/pdf", headers=headers)


@require_safe
@page_of_job
def job_file(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The whole job as a file."""
    headers = {"Content-Disposition": f'attachment; filename="{_name(record)}.json"'}
    return HttpResponse(
        job_to_text(look.job), content_type="application/json; charset=utf-8", headers=headers
    )


def _alone(request: Request, record: JobRecord, look: Look) -> dict[str, Any]:
    return {"record": record, "look": look, "job": look.job, **_book(request, record, look)}


def _book(request: Request, record: JobRecord, look: Look) -> dict[str, Any]:
    address = request.build_absolute_uri(f"/jobs/{record.pk}/")
    return {**book_of(look), "address": address, "qr": _qr(address)}


@functools.lru_cache(256)
def _qr(address: str) -> SafeString:
    out = io.BytesIO()
    segno.make(address, error="m").save(
        out,
        kind="svg",
        xmldecl=False,
        svgns=True,
        scale=3,
        border=2,
        omitsize=True,
        svgclass="qr",
        lineclass=None,
    )
    return mark_safe(out.getvalue().decode())


def _name(record: JobRecord) -> str:
    return slugify(record.name) or f"job-{record.pk}"
