"""The job sheet with boxes to tick, the tool list, the quote."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from typing import Any

from django.template.loader import render_to_string

from metrolex.job import Job
from metrolex.twin import build
from metrolex.workorder.left import days_left
from metrolex.workorder.plan import Factors
from metrolex.workorder.quote import quote_of
from metrolex.workorder.sheet import sheet_of_work
from workbench.accounts.zones import zone_of
from workbench.jobs.models import JobRecord
from workbench.printing.papers import paper
from workbench.work.goods_page import goods_of
from workbench.work.learned import factors_in_words
from workbench.work.page import moment_now, work_page

__all__ = ["QUOTE", "SHEET", "TOOLS", "at_for_paper"]

Pairs = Sequence[Sequence[Any]]


def _factors(pairs: Pairs) -> Factors:
    return tuple((str(kind), float(factor)) for kind, factor in pairs)


def at_for_paper(record: JobRecord) -> str:
    """The moment a paper of the work is of, to the quarter of an hour: the days that are left begin with it."""
    now = moment_now(record.workshop)
    return now.replace(minute=now.minute // 15 * 15).isoformat(timespec="minutes")


def _sheet(record: JobRecord, job: Job, *, at: str, size: str = "A4", factors: Pairs = ()) -> str:
    page = work_page(build(job), record.pk, None, _factors(factors))
    days = days_left(
        job, page["sheet"], datetime.datetime.fromisoformat(at).astimezone(zone_of(record.workshop))
    )
    return render_to_string("work/paper.html", {"job": job, "size": size, "days": days, **page})


def _tools(record: JobRecord, job: Job, *, at: str, size: str = "A4", factors: Pairs = ()) -> str:
    sheet = sheet_of_work(build(job), None, _factors(factors))
    return render_to_string("work/tools_paper.html", {"job": job, "size": size, **goods_of(job, sheet)})


def _quote(record: JobRecord, job: Job, *, at: str, size: str = "A4", factors: Pairs = ()) -> str:
    quote, pairs = quote_of(build(job), _factors(factors)), _factors(factors)
    return render_to_string(
        "work/quote_paper.html",
        {"job": job, "size": size, "quote": quote, "factors": pairs, "factors_said": factors_in_words(pairs)},
    )


SHEET = paper("work", "The job sheet", "work:sheet_pdf", _sheet)
TOOLS = paper("tools", "The tool list", "work:tools_pdf", _tools)
QUOTE = paper("quote", "The quote", "work:quote_pdf", _quote)
