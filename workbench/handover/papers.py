"""The book as it prints: what it holds, with the address of its job."""

from __future__ import annotations

import functools
import io
from typing import Any

import segno
from django.template.loader import render_to_string
from django.utils.safestring import SafeString, mark_safe

from metrolex.job import Job
from metrolex.twin.expected_table import expected_table
from workbench.handover.book import book_of
from workbench.jobs.look import FIRST_SEEN, Look, look_at
from workbench.jobs.models import JobRecord
from workbench.printing.papers import paper

__all__ = ["BOOK", "printed_book"]


def printed_book(look: Look, address: str) -> dict[str, Any]:
    """What the book is made of beside the job; ``address`` is where its job stands."""
    return {**book_of(look), "address": address, "qr": _qr(address)}


def _book(record: JobRecord, job: Job, *, address: str) -> str:
    """The book of a job as it is first looked at, wherever somebody's key switch stands."""
    look = look_at(job, FIRST_SEEN)
    context = {"record": record, "look": look, "job": job, **printed_book(look, address), "as_file": True}
    context["expected"] = expected_table(look.network)
    return render_to_string("handover/book.html", context)


BOOK = paper("book", "The book", "handover:book_pdf", _book)


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
