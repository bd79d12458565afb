"""What can be printed, and how it is asked for: sent at once where it is there or soon will be, else with its progress."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone

from workbench.jobs.models import JobRecord
from workbench.printing.models import Printed
from workbench.request import Request

__all__ = ["PAPERS", "Paper", "edition_of", "paper"]

PATIENCE_S, GLANCE_S = 2.0, 0.1  # a book of a few pages is there by then


@dataclass(frozen=True, slots=True)
class Paper:
    """A paper of a job: ``html`` makes it of the record, the job, and what ``sent`` was told it is about; ``view`` sends it."""

    name: str
    words: str
    view: str
    html: Callable[..., str]

    def address(self, record: JobRecord) -> str:
        """Where it is to be had."""
        return reverse(self.view, args=[record.pk])

    def sent(self, request: Request, record: JobRecord, file_name: str, **about: Any) -> HttpResponse:
        """The PDF of the job as it stands; while it is being printed, a page that says how far it is."""
        printed = _asked_for(self, record, about)
        until = time.monotonic() + PATIENCE_S
        while printed.pending and time.monotonic() < until:
            time.sleep(GLANCE_S)
            printed.refresh_from_db(fields=["begun", "done", "failed", "pdf"])
        if printed.pdf is not None:
            return HttpResponse(
                bytes(printed.pdf),
                content_type="application/pdf",
                headers={"Content-Disposition": f'attachment; filename="{file_name}"'},
            )
        context = {"record": record, "printed": printed, "paper": self, "address": request.get_full_path()}
        return render(request, "printing/waiting.html", context, status=202 if printed.pending else 500)


PAPERS: dict[str, Paper] = {}


def paper(name: str, words: str, view: str, html: Callable[..., str]) -> Paper:
    """A paper the worker of the queue knows by its name. It is made in a module ``papers`` of its place, where the worker looks."""
    PAPERS[name] = Paper(name, words, view, html)
    return PAPERS[name]


def edition_of(record: JobRecord) -> str:
    """What a paper is printed of: it is another one once the job has changed."""
    return f"{record.version} {record.updated.isoformat()}"


@transaction.atomic
def _asked_for(wanted: Paper, record: JobRecord, about: dict[str, Any]) -> Printed:
    """The paper, put in the queue unless it is there or on its way."""
    from workbench.printing.tasks import print_paper  # known once the queue is

    new = {"edition": edition_of(record), "about": about, "asked": timezone.now()}
    printed, made = Printed.objects.select_for_update().get_or_create(
        record=record, paper=wanted.name, defaults=new
    )
    same = printed.edition == new["edition"] and printed.about == about
    if not made and same and (printed.pending or printed.done):
        return printed
    if not made:
        fresh = Printed(pk=printed.pk, record=record, paper=wanted.name, **new)
        fresh.save(force_update=True)
        printed = fresh
    print_paper.defer(printed=printed.pk)
    return printed
