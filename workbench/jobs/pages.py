"""What every page of a job needs: the record of this workshop, the job worked out, the frame around it."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from metrolex.job import Channel
from workbench.jobs.models import JobRecord
from workbench.jobs.services import Look, look_at
from workbench.jobs.state import state_of
from workbench.jobs.storage import job_of

__all__ = ["back_to", "channel_or_404", "frame", "look_for", "record_for", "show_page"]


def record_for(request: HttpRequest, job: int) -> JobRecord:
    """The record of a job of this person's workshop; 404 for any other."""
    return get_object_or_404(JobRecord.objects.for_workshop(request.workshop), pk=job)


def look_for(request: HttpRequest, record: JobRecord) -> Look:
    """The job worked out at this person's key switch."""
    return look_at(job_of(record), state_of(request, record.pk))


def channel_or_404(look: Look, channel: str) -> Channel:
    """A channel of the job, the first one for ''."""
    from django.http import Http404

    found = look.job.channel(channel) if channel else (look.job.channels[0] if look.job.channels else None)
    if found is None and channel:
        raise Http404
    return found  # type: ignore[return-value]


def frame(record: JobRecord, look: Look, place: str) -> dict[str, Any]:
    """What the frame shows: spine, key switch, findings of the place."""
    findings = [
        {"finding": finding, "override": look.overridden(finding)} for finding in look.findings_at(place)
    ]  # fmt: skip
    shown = [f for f in findings if f["finding"].grade != "note"]
    notes = [f for f in findings if f["finding"].grade == "note"]
    return {
        "record": record,
        "look": look,
        "job": look.job,
        "state": look.state,
        "place": place,
        "slips": shown,
        "notes": notes,
    }


def show_page(
    request: HttpRequest,
    template: str,
    record: JobRecord,
    look: Look,
    place: str,
    status: int = 200,
    **extra: Any,
) -> HttpResponse:
    """Render a page of the job inside its frame."""
    return render(request, template, {**frame(record, look, place), **extra}, status=status)


def back_to(request: HttpRequest, fallback: str, *args: Any) -> HttpResponse:
    """Back to where the person came from (within this site), else to a named page."""
    from django.utils.http import url_has_allowed_host_and_scheme

    target = request.POST.get("next", "")
    if target.startswith("/") and url_has_allowed_host_and_scheme(target, {request.get_host()}):
        return redirect(target)
    return redirect(fallback, *args)
