"""Handover: the book on the page and as PDF, the job file."""

from __future__ import annotations

import io
from typing import Any

import segno
from django.http import HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.utils.safestring import mark_safe
from django.utils.text import slugify
from django.views.decorators.http import require_GET

from metrolex.jobfile import job_to_text
from workbench.handover.book import book_of
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import frame, look_for, record_for
from workbench.pdf import pdf_of
from workbench.request import Request


@require_GET
def show(request: Request, job: int) -> HttpResponse:
    """What there is to take away, and the book as it prints."""
    record = record_for(request, job)
    look = look_for(request, record)
    gathered = _book(request, record, look)
    return render(request, "handover/show.html", {**frame(record, look, "handover"), **gathered})


@require_GET
def book(request: Request, job: int) -> HttpResponse:
    """The book alone, to print from the browser."""
    record = record_for(request, job)
    look = look_for(request, record)
    return render(request, "handover/book.html", {"record": record, **_book(request, record, look)})


@require_GET
def book_pdf(request: Request, job: int) -> HttpResponse:
    """The book as PDF."""
    record = record_for(request, job)
    look = look_for(request, record)
    html = render_to_string(
        "handover/book.html", {"record": record, "as_file": True, **_book(request, record, look)}
    )
    headers = {"Content-Disposition": f'attachment; filename="{_name(record)}-book.pdf"'}
    return HttpResponse(pdf_of(html), content_type="application/pdf", headers=headers)


@require_GET
def job_file(request: Request, job: int) -> HttpResponse:
    """The whole job as a file."""
    record = record_for(request, job)
    look = look_for(request, record)
    headers = {"Content-Disposition": f'attachment; filename="{_name(record)}.json"'}
    return HttpResponse(
        job_to_text(look.job), content_type="application/json; charset=utf-8", headers=headers
    )


def _book(request: Request, record: JobRecord, look: Any) -> dict[str, Any]:
    address = request.build_absolute_uri(f"/jobs/{record.pk}/")
    return {**book_of(look), "address": address, "qr": _qr(address)}


def _qr(address: str) -> Any:
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
