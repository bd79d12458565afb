"""Shelf, new job, chain board, brief, key switch."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib import messages
from django.http import HttpRequest, HttpResponse, HttpResponseBadRequest
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from metrolex.acts import brief as brief_acts
from metrolex.acts import channels, overrides
from metrolex.errors import BadInput
from metrolex.job import Brief, Job, Vehicle
from metrolex.jobfile import job_from_text
from metrolex.kit import measurands
from workbench.jobs import services
from workbench.jobs.fields import as_typed, refuse
from workbench.jobs.forms import BriefForm, JobFileForm, NewJobForm, OverrideForm, SupplyForm
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, back_to, kept, look_for, record_for, show_page
from workbench.jobs.state import set_state

VEHICLE_FIELDS = (
    "maker", "model", "year", "engine", "cylinders", "fuel", "induction", "gearbox", "layout", "cooling", "fuel_feed", "fuel_line_bar", "length_m",
)  # fmt: skip


@require_GET
def shelf(request: HttpRequest) -> HttpResponse:
    """All jobs of the workshop, the one touched last first."""
    words = request.GET.get("q", "").replace("\0", "").strip()[:80]
    jobs = JobRecord.objects.for_workshop(request.workshop).matching(words).on_the_shelf()
    return render(request, "jobs/shelf.html", {"jobs": list(jobs[:200]), "q": words})


@require_http_methods(["GET", "POST"])
def new(request: HttpRequest) -> HttpResponse:
    """A new job in one page."""
    form = NewJobForm(request.POST or None)
    if request.method == "POST" and form.is_valid() and request.workshop:
        clean = form.cleaned_data
        try:
            job = Job(
                clean["name"],
                Vehicle(clean["vehicle"], **{field: clean[field] for field in VEHICLE_FIELDS}),
                Brief(clean["owner"], clean["wants"]),
            )
            record = services.create_job(
                request.workshop, job, clean["channels"], on_dash=clean["display"] == "dash"
            )
            return redirect("jobs:board", record.pk)
        except BadInput as fault:
            refuse(form, fault)
    status = 422 if form.is_bound else 200
    return render(request, "jobs/new.html", {"form": form, "file_form": JobFileForm()}, status=status)


@require_POST
def from_file(request: HttpRequest) -> HttpResponse:
    """A new job from a job file; a file that cannot be read says where, and nothing is stored."""
    file_form = JobFileForm(request.POST, request.FILES)
    if file_form.is_valid() and request.workshop:
        try:
            job = _read_upload(file_form.cleaned_data["file"])
            return redirect("jobs:board", services.import_job(request.workshop, job).pk)
        except BadInput as fault:
            file_form.add_error("file", f"{fault.field}: {fault.message}")
    return render(request, "jobs/new.html", {"form": NewJobForm(), "file_form": file_form}, status=422)


def _read_upload(upload: Any) -> Job:
    if upload.size > settings.JOB_FILE_MAX_BYTES:
        raise BadInput("file", upload.size, f"up to {settings.JOB_FILE_MAX_BYTES // 1024} kB")
    try:
        text = upload.read().decode("utf-8")
    except UnicodeDecodeError:
        raise BadInput("file", None, "UTF-8 text", "The file is not text: is it a job file?") from None
    return job_from_text(text)


@require_GET
def board(request: HttpRequest, job: int) -> HttpResponse:
    """The chain board: the home of a job."""
    record = record_for(request, job)
    return show_page(request, "jobs/board.html", record, look_for(request, record), "")


@require_http_methods(["GET", "POST"])
def brief(request: HttpRequest, job: int) -> HttpResponse:
    """Vehicle, owner, wants, electrical supply, what is shown."""
    record = record_for(request, job)
    look = look_for(request, record)
    form = BriefForm(request.POST or None, initial=_brief_initial(look.job))
    if request.method == "POST" and form.is_valid():
        clean = form.cleaned_data
        try:
            services.change(record, lambda before: _with_brief(before, clean))
            messages.success(request, "Brief saved.")
            return redirect("jobs:brief", job)
        except BadInput as fault:
            refuse(form, fault)
    return _brief_page(
        request, record, look, form, SupplyForm(initial=SupplyForm.of(look.job.supply), prefix="supply")
    )


def _brief_page(
    request: HttpRequest, record: JobRecord, look: Look, form: BriefForm, supply: SupplyForm
) -> HttpResponse:
    refused = form.is_bound or supply.is_bound
    return show_page(
        request,
        "jobs/brief.html",
        record,
        look,
        "brief",
        422 if refused else 200,
        form=form,
        supply_form=supply,
        offered=measurands(),
    )


@require_POST
def supply(request: HttpRequest, job: int) -> HttpResponse:
    """Battery, charging, starter, straps and loads, with their tolerances."""
    record = record_for(request, job)
    form = SupplyForm(request.POST, prefix="supply")
    if kept(record, form, lambda before: brief_acts.set_supply(before, form.cleaned_data)):
        messages.success(request, "Supply saved.")
        return redirect("jobs:brief", job)
    look = look_for(request, record)
    return _brief_page(request, record, look, BriefForm(initial=_brief_initial(look.job)), form)


def _brief_initial(job: Job) -> dict[str, Any]:
    own = {field: getattr(job.vehicle, field) for field in VEHICLE_FIELDS}
    return {
        **own, "length_m": as_typed(job.vehicle.length_m, "m"), "fuel_line_bar": as_typed(job.vehicle.fuel_line_bar, "bar"), "vehicle": job.vehicle.name, "name": job.name, "owner": job.brief.owner, "wants": job.brief.wants,
        "hours_left": as_typed(job.brief.hours_left),
        "waits_for": job.brief.waits_for, "rest_v": as_typed(job.supply.rest_v, "V"),
        "alternator_v": as_typed(job.supply.alternator_v, "V"),
    }  # fmt: skip


def _with_brief(job: Job, clean: dict[str, Any]) -> Job:
    return brief_acts.set_brief(
        job,
        clean["name"],
        vehicle={"name": clean["vehicle"], **{field: clean[field] for field in VEHICLE_FIELDS}},
        brief={field: clean[field] for field in ("owner", "wants", "hours_left", "waits_for")},
        supply={field: clean[field] for field in ("rest_v", "alternator_v")},
    )


@require_POST
def channel_add(request: HttpRequest, job: int) -> HttpResponse:
    """One more thing to show."""
    measurand = request.POST.get("measurand", "")

    return act(request, job, lambda before: channels.show_more(before, measurand), "jobs:brief")


@require_POST
def channel_remove(request: HttpRequest, job: int) -> HttpResponse:
    """One thing less."""
    channel = request.POST.get("channel", "")
    return act(request, job, lambda before: channels.remove_channel(before, channel), "jobs:brief")


@require_POST
def key_switch(request: HttpRequest, job: int) -> HttpResponse:
    """Turn the key, the lamps or the engine, then show the page again."""
    record_for(request, job)
    changes = {word: request.POST[word] for word in ("key", "lamps", "engine") if word in request.POST}
    try:
        set_state(request, job, changes)
    except BadInput as fault:
        return HttpResponseBadRequest(fault.message, content_type="text/plain; charset=utf-8")
    return back_to(request, "jobs:board", job)


@require_POST
def override(request: HttpRequest, job: int) -> HttpResponse:
    """Go past a stop, in writing."""
    record = record_for(request, job)
    form = OverrideForm(request.POST)
    if form.is_valid():
        clean = form.cleaned_data
        by = request.user.get_full_name() or request.user.get_username()
        services.change(
            record,
            lambda before: overrides.override_finding(
                before, clean["code"], clean["subject"], clean["reason"], by
            ),
        )
    else:
        messages.error(request, "Write down why before going past a stop: the reason is printed in the book.")
    return back_to(request, "jobs:board", job)


@require_POST
def override_remove(request: HttpRequest, job: int) -> HttpResponse:
    """Let a finding stand again."""
    record = record_for(request, job)
    code, subject = request.POST.get("code", ""), request.POST.get("subject", "")
    services.change(record, lambda before: overrides.remove_override(before, code, subject))
    return back_to(request, "jobs:board", job)
