"""What can be printed, and how it is asked for: sent where it is there, else a page that says how far it is. No request waits for it."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.db.models import Q
from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone

from metrolex.limits import limit
from workbench.jobs.models import JobRecord
from workbench.printing.models import Printed, key_of
from workbench.request import Request

__all__ = ["PAPERS", "Paper", "TooMany", "edition_of", "paper"]

#: A paper of the job as it was is kept so long: somebody may still be at the page that waits for it.
OLD_AFTER = datetime.timedelta(minutes=10)


class TooMany(Exception):
    """The workshop has as many papers waiting as it may."""


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
        """The PDF of the job as it stands; while it is not there, a page that says how far it is."""
        context = {"record": record, "paper": self, "address": request.get_full_path()}
        try:
            printed = _asked_for(self, record, about)
        except TooMany:
            context["most"] = int(limit("printing", "waiting"))
            return render(request, "printing/too_many.html", context, status=429)
        if printed.pdf is not None:
            return HttpResponse(
                bytes(printed.pdf),
                content_type="application/pdf",
                headers={"Content-Disposition": f'attachment; filename="{file_name}"'},
            )
        status = 202 if printed.pending else 500
        return render(request, "printing/waiting.html", context | {"printed": printed}, status=status)


PAPERS: dict[str, Paper] = {}


def paper(name: str, words: str, view: str, html: Callable[..., str]) -> Paper:
    """A paper the worker of the queue knows by its name. It is made in a module ``papers`` of its place, where the worker looks."""
    PAPERS[name] = Paper(name, words, view, html)
    return PAPERS[name]


def edition_of(record: JobRecord) -> str:
    """What a paper is printed of: it is another one once the job has changed, or its workshop is called otherwise."""
    return f"{record.version} {record.updated.isoformat()} {record.workshop.name}"


@transaction.atomic
def _asked_for(wanted: Paper, record: JobRecord, about: dict[str, Any]) -> Printed:
    """The paper, put in the queue unless it is there or on its way. Raises TooMany."""
    from workbench.printing.tasks import print_paper  # known once the queue is

    edition, now = edition_of(record), timezone.now()
    key = key_of(wanted.name, edition, about)
    JobRecord.objects.select_for_update(no_key=True).filter(
        pk=record.pk
    ).first()  # one at a time for each job
    there = Printed.objects.filter(record=record, key=key).first()
    if there is not None and (there.pending or there.done):
        return there
    _forget_older(record, edition, now)
    if there is None and _waiting_for(record) >= limit("printing", "waiting"):
        raise TooMany
    fresh = Printed(
        pk=there.pk if there else None,
        record=record,
        paper=wanted.name,
        key=key,
        edition=edition,
        about=about,
        asked=now,
    )
    fresh.save()
    print_paper.defer(printed=fresh.pk)
    fresh.refresh_from_db()
    return fresh


def _waiting_for(record: JobRecord) -> int:
    return Printed.objects.filter(record__workshop=record.workshop_id, done=None, failed=False).count()


def _forget_older(record: JobRecord, edition: str, now: datetime.datetime) -> None:
    """What was printed of the job as it was before, and nobody waits for any more."""
    over = Q(done__lt=now - OLD_AFTER) | Q(failed=True)
    Printed.objects.filter(over, record=record).exclude(edition=edition).delete()
