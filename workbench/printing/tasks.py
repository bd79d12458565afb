"""The queue's work: one paper printed."""

from __future__ import annotations

import logging

from django.utils import timezone
from django.utils.module_loading import autodiscover_modules
from procrastinate.contrib.django import app

from workbench.accounts.zones import zone_of
from workbench.jobs.cache import JOBS
from workbench.jobs.models import JobRecord
from workbench.pdf import printed_pages
from workbench.printing.models import Printed, next_in_turn
from workbench.printing.papers import PAPERS

__all__ = ["print_paper"]

_LOG = logging.getLogger(__name__)


@app.task(name="print_paper", queue="papers")
def print_paper(printed: int) -> None:
    """Print one paper: whichever's turn it is, of the job as it stands by now. Each that is asked for brings one such task."""
    autodiscover_modules("papers")
    row = next_in_turn()
    if row is None:
        return
    free = Printed.objects.filter(pk=row.pk, begun=row.begun, asked=row.asked, done=None, failed=False)
    if not free.update(begun=timezone.now()):
        return
    mine = Printed.objects.filter(pk=row.pk, asked=row.asked)
    try:
        record = JobRecord.objects.select_related("workshop").get(pk=row.record_id)
        mine.update(progress="Working out what stands in it")
        with timezone.override(zone_of(record.workshop)):
            html = PAPERS[row.paper].html(record, JOBS.job_of(record), **row.about)
        mine.update(progress="Laying out its pages")
        pdf, pages = printed_pages(html)
    except Exception:
        mine.update(failed=True)
        _LOG.exception("paper %s of job %s", row.paper, row.record_id)
        raise
    mine.update(pdf=pdf, pages=pages, done=timezone.now())
