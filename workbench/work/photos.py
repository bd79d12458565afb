"""Photographs of steps: taken, shown, thrown away; each belongs to a job of one workshop."""

from __future__ import annotations

from django.contrib import messages
from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST, require_safe

from metrolex.characters import whole_number
from metrolex.errors import BadInput
from metrolex.limits import limit
from metrolex.twin import build
from metrolex.workorder.plan import planned_steps
from workbench.accounts.roles import may_write
from workbench.gate import takes_files
from workbench.jobs.cache import JOBS
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import record_for
from workbench.request import Request
from workbench.shrink import shrunk
from workbench.work.models import StepPhoto


@takes_files(limit("photo", "bytes") / 1e6)
@require_POST
def take(request: Request, job: int) -> HttpResponse:
    """A photograph kept with a step."""
    record, step, sent = record_for(request, job), request.POST.get("step", ""), request.FILES.get("photo")
    try:
        may_write(request.member or None)
        if sent is None:
            raise BadInput("photo", None, "a photograph", "Choose or take a photograph first.")
        if all(one.key != step for one in planned_steps(build(JOBS.job_of(record)))):
            raise BadInput(
                "step", step, "a step of this job", "This step is not there any more: reload the page."
            )
        if (sent.size or 0) > limit("photo", "bytes"):
            raise BadInput("photo", f"{sent.size} bytes", f"at most {limit('photo', 'bytes') / 1e6:.0f} MB")
        _keep(record, step, request.member.name if request.member else "", shrunk(sent.read()))
    except BadInput as fault:
        messages.error(request, fault.message)
    return redirect("work:show", job)


@transaction.atomic
def _keep(record: JobRecord, step: str, by: str, jpeg: bytes) -> None:
    """Keep one photograph more, counted one at a time. Raises BadInput where the job has as many as it may."""
    JobRecord.objects.select_for_update(no_key=True).only("pk").get(pk=record.pk)
    if StepPhoto.objects.filter(job=record).count() >= limit("photo", "a_job"):
        raise BadInput("photo", None, f"at most {limit('photo', 'a_job'):g} photographs of a job")
    StepPhoto.objects.create(job=record, step=step, by_name=by, jpeg=jpeg)
    record.save(update_fields=["updated"])  # the work order shows it


@require_safe
def photo(request: Request, job: int, photo: int) -> HttpResponse:
    """One of them."""
    found = get_object_or_404(StepPhoto, job=record_for(request, job), pk=photo)
    return HttpResponse(
        bytes(found.jpeg), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400"}
    )


@require_POST
def throw_away(request: Request, job: int) -> HttpResponse:
    """One of them taken out."""
    record, key = record_for(request, job), whole_number(request.POST.get("photo", ""))
    try:
        may_write(request.member or None)
    except BadInput as fault:
        messages.error(request, fault.message)
    else:
        StepPhoto.objects.filter(job=record, pk=key or 0).delete()
        record.save(update_fields=["updated"])
    return redirect("work:show", job)
