"""The queue's work: one paper printed."""

from __future__ import annotations

import logging

from django.utils import timezone
from django.utils.module_loading import autodiscover_modules
from procrastinate.contrib.django import app

from workbench.jobs.cache import JOBS
from workbench.jobs.models import JobRecord
from workbench.pdf import printed_pages
from workbench.printing.models import Printed
from workbench.printing.papers import PAPERS, edition_of

__all__ = ["print_paper"]

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
    try:
        record = JobRecord.objects.get(pk=row.record_id)
        mine.update(progress="Working out what stands in it")
        html = PAPERS[row.paper].html(record, JOBS.job_of(record), **row.about)
        mine.update(progress="Laying out its pages")
        pdf, pages = printed_pages(html)
    except Exception:
        mine.update(failed=True)
        _LOG.exception("paper %s of job %s", row.paper, row.record_id)
        raise
    mine.update(pdf=pdf, pages=pages, done=timezone.now(), edition=edition_of(record))
