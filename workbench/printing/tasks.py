"""The queue's work: one paper printed."""

from __future__ import annotations

import gc
import logging
import time
from collections.abc import Iterator
from contextlib import contextmanager

from django.utils import timezone
from django.utils.module_loading import autodiscover_modules
from procrastinate.contrib.django import app

from workbench.jobs.cache import JOBS
from workbench.jobs.models import JobRecord
from workbench.pdf import printed_pages
from workbench.printing.models import Printed
from workbench.printing.papers import PAPERS, edition_of

__all__ = ["print_paper"]

TOLD_EVERY_S = 0.5
_LOG = logging.getLogger(__name__)


@app.task(name="print_paper", queue="papers")
def print_paper(printed: int) -> None:
    """Print a paper that was asked for, of the job as it stands by now; nothing where another worker has it, or did it."""
    autodiscover_modules("papers")
    found = Printed.objects.defer("pdf").filter(pk=printed, done=None, failed=False)
    row = found.first()
    if row is None or (row.begun and not row.lost):
        return
    if not found.filter(begun=row.begun, asked=row.asked).update(begun=timezone.now()):
        return
    mine = Printed.objects.filter(pk=printed, asked=row.asked)
    told_at = 0.0

    def tell(words: str) -> None:
        nonlocal told_at
        if time.monotonic() - told_at > TOLD_EVERY_S:
            told_at = time.monotonic()
            mine.update(progress=words[:120])

    try:
        record = JobRecord.objects.get(pk=row.record_id)
        html = PAPERS[row.paper].html(record, JOBS.job_of(record), **row.about)
        with _no_collecting():
            pdf, pages = printed_pages(html, tell)
    except Exception:
        mine.update(failed=True)
        _LOG.exception("paper %s of job %s", row.paper, row.record_id)
        raise
    mine.update(pdf=pdf, pages=pages, done=timezone.now(), edition=edition_of(record))


@contextmanager
def _no_collecting() -> Iterator[None]:
    """A printing makes many things that all stay to its end: looking for garbage among them takes a seventh of its time."""
    gc.disable()
    try:
        yield
    finally:
        gc.enable()
        gc.collect()
