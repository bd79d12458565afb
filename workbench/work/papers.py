"""The job sheet: the steps on paper, with boxes to tick."""

from __future__ import annotations

from django.template.loader import render_to_string

from metrolex.job import Job
from metrolex.twin import build
from workbench.jobs.models import JobRecord
from workbench.printing.papers import paper
from workbench.work.page import work_page

__all__ = ["SHEET"]


def _sheet(record: JobRecord, job: Job, *, size: str = "A4") -> str:
    return render_to_string("work/paper.html", {"job": job, "size": size, **work_page(build(job))})


SHEET = paper("work", "The job sheet", "work:sheet_pdf", _sheet)
