"""The shelf: all jobs of the workshop, and the ways to a new one."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db.models import Exists, OuterRef
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from metrolex.acts.earlier import stand_on
from metrolex.acts.quick import quick_look
from metrolex.apart import done_apart
from metrolex.errors import BadInput
from metrolex.job import Brief, Identity, Job, Vehicle
from metrolex.job.within import replaced_within
from workbench.accounts.zones import adopt_zone, zone_said
from workbench.brief.vehicle_forms import VEHICLE_FIELDS
from workbench.gate import takes_files
from workbench.handover.models import Handed
from workbench.jobs.cache import JOBS
from workbench.jobs.door import create_job, import_job
from workbench.jobs.fields import refuse
from workbench.jobs.models import JobRecord
from workbench.jobs.state import set_state
from workbench.jobs.summary import with_summaries
from workbench.request import Request
from workbench.shelf.forms import JobFileForm, NewJobForm, QuickForm


@require_safe
def show(request: Request) -> HttpResponse:
    """All jobs of the workshop, the one touched last first."""
    words = request.GET.get("q", "").replace("\0", "").strip()[:80]
    jobs = JobRecord.objects.for_workshop(request.workshop).matching(words).on_the_shelf()
    jobs = jobs.annotate(handed_over=Exists(Handed.objects.filter(record=OuterRef("pk"))))
    return render(request, "shelf/show.html", {"jobs": with_summaries(jobs[:200]), "q": words})


@require_http_methods(["GET", "HEAD", "POST"])
def new(request: Request) -> HttpResponse:
    """A new job in one page."""
    jobs = JobRecord.objects.for_workshop(request.workshop).on_the_shelf()
    form = _new_job_form(request, request.POST or None)
    if request.method == "POST" and form.is_valid() and request.member:
        clean = form.cleaned_data
        try:
            job = Job(
                clean["name"],
                replaced_within(
                    Vehicle(Identity(clean["vehicle"])), {field: clean[field] for field in VEHICLE_FIELDS}
                ),
                Brief(clean["owner"], clean["wants"]),
            )
            if clean.get("earlier"):
                job = stand_on(job, JOBS.job_of(jobs.get(pk=clean["earlier"])))
            record = create_job(
                request.member,
                job,
                clean["channels"],
                on_dash=clean["display"] == "dash",
                lit=clean["display"] != "plain",
            )
            adopt_zone(request.member.workshop, clean.get("zone", ""))
            set_state(request, record.pk, {"key": "run", "engine": "stopped"})
            return redirect("jobs:board", record.pk)
        except BadInput as fault:
            refuse(form, fault)
    status = 422 if form.is_bound else 200
    return render(request, "shelf/new.html", {"form": form, "file_form": JobFileForm()}, status=status)


def _new_job_form(request: Request, data: Any = None) -> NewJobForm:
    """The form; a workshop that has not said its time zone is asked for it, and the browser's stands there."""
    asks = not (request.workshop and request.workshop.zone)
    return NewJobForm(
        data,
        jobs=_vehicles_seen(request),
        asks_zone=asks,
        initial={"zone": zone_said(request) or "Europe/London"},
    )


@require_http_methods(["GET", "HEAD", "POST"])
def quick(request: Request) -> HttpResponse:
    """A quick look at one gauge: a small job with all that is usual about it, its search begun."""
    form = QuickForm(request.POST or None)
    if request.method == "POST" and form.is_valid() and request.member:
        said = form.cleaned_data
        try:
            job = quick_look(
                said["measurand"],
                said["sender"],
                lit=said["lit"],
                rest_v=said["rest_v"],
                word=said["word"],
                day=timezone.localdate().isoformat(),
            )
            record = import_job(request.member, job)
            set_state(request, record.pk, {"key": "run", "engine": "stopped"})
            return redirect("faults:show", record.pk)
        except BadInput as fault:
            refuse(form, fault)
    return render(request, "shelf/quick.html", {"form": form}, status=422 if form.is_bound else 200)


def _vehicles_seen(request: Request) -> list[tuple[int, str]]:
    """The jobs of the workshop a new one may stand on, the one touched last first."""
    jobs = JobRecord.objects.for_workshop(request.workshop).on_the_shelf()
    return [
        (pk, f"{vehicle}: {name}" if vehicle else name)
        for pk, name, vehicle in jobs.values_list("pk", "name", "vehicle__identity__name")[:100]
    ]


@takes_files(settings.JOB_FILE_MAX_BYTES / 1e6)
@require_POST
def from_file(request: Request) -> HttpResponse:
    """A new job from a job file; a file that cannot be read says where, and nothing is stored."""
    file_form = JobFileForm(request.POST, request.FILES)
    if file_form.is_valid() and request.member:
        try:
            job = _read_upload(file_form.cleaned_data["file"])
            return redirect("jobs:board", import_job(request.member, job).pk)
        except BadInput as fault:
            file_form.add_error("file", f"{fault.field}: {fault.message}")
    return render(
        request,
        "shelf/new.html",
        {"form": _new_job_form(request), "file_form": file_form},
        status=422,
    )


def _read_upload(upload: Any) -> Job:
    if upload.size > settings.JOB_FILE_MAX_BYTES:
        raise BadInput("file", upload.size, f"up to {settings.JOB_FILE_MAX_BYTES // 1024} kB")
    try:
        text = upload.read().decode("utf-8")
    except UnicodeDecodeError:
        raise BadInput("file", None, "UTF-8 text", "The file is not text: is it a job file?") from None
    job: Job = done_apart("job", text)
    return job
