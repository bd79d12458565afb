"""The brief: vehicle, owner, wants, electrical supply, what is shown."""

from __future__ import annotations

from typing import Any, TypedDict

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from metrolex.acts import brief as acts
from metrolex.acts import channels
from metrolex.errors import BadInput
from metrolex.job import Job
from metrolex.job.within import value_within
from metrolex.kit import MeasurandFacts, measurands
from workbench.brief.vehicle_forms import VEHICLE_FIELDS, BriefForm, SupplyForm
from workbench.jobs.fields import as_typed, refuse
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.name_ends import NAME_ENDS
from workbench.jobs.pages import act, carry_out, kept, look_for, page_of_job, record_for, show_page
from workbench.request import Request

BRIEF_FIELDS = ("owner", "wants", "hours_left", "waits_for")
STATE_FIELDS = ("rest_v", "charging_v", "cranking_v")


@require_http_methods(["GET", "HEAD", "POST"])
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """Vehicle, owner, wants, electrical supply, what is shown."""
    form = BriefForm(request.POST or None, initial=_brief_initial(look.job))
    if request.method == "POST" and form.is_valid():
        clean, day = form.cleaned_data, timezone.localdate().isoformat()
        try:
            carry_out(request, record, lambda before: _with_brief(before, clean, day))
            messages.success(request, "Brief saved.")
            return redirect("brief:show", record.pk)
        except BadInput as fault:
            refuse(form, fault)
    return _brief_page(
        request,
        record,
        look,
        form,
        SupplyForm(initial=SupplyForm.of(look.job.vehicle.electrics), prefix="supply"),
    )


class BriefPage(TypedDict):
    """All of the page inside its frame."""

    form: BriefForm
    supply_form: SupplyForm
    offered: tuple[MeasurandFacts, ...]
    name_ends: tuple[str, ...]


def _brief_page(
    request: Request, record: JobRecord, look: Look, form: BriefForm, supply: SupplyForm
) -> HttpResponse:
    context: BriefPage = {
        "form": form,
        "supply_form": supply,
        "offered": measurands(),
        "name_ends": NAME_ENDS,
    }
    refused = form.is_bound or supply.is_bound
    return show_page(request, "brief/show.html", record, look, "brief", 422 if refused else 200, **context)


@require_POST
def supply(request: Request, job: int) -> HttpResponse:
    """Battery, charging, starter, straps and loads, with their tolerances."""
    record = record_for(request, job)
    form = SupplyForm(request.POST, prefix="supply")
    if kept(request, record, form, lambda before: acts.set_electrics(before, form.cleaned_data)):
        messages.success(request, "Supply saved.")
        return redirect("brief:show", record.pk)
    look = look_for(request, record)
    return _brief_page(request, record, look, BriefForm(initial=_brief_initial(look.job)), form)


def _brief_initial(job: Job) -> dict[str, Any]:
    vehicle, brief = job.vehicle, job.brief
    state = vehicle.electrics.state
    return {
        **{field: value_within(vehicle, field) for field in VEHICLE_FIELDS},
        "length_m": as_typed(vehicle.identity.length_m, "m"),
        "system_v": str(vehicle.electrics.system_v or ""),
        "fuel_line_bar": as_typed(vehicle.fuel.fuel_line_bar, "bar"),
        "vehicle": vehicle.name,
        "name": job.name,
        **{field: getattr(brief, field) for field in BRIEF_FIELDS},
        "hours_left": as_typed(brief.hours_left),
        **{field: as_typed(getattr(state, field), "V") for field in STATE_FIELDS},
    }


def _with_brief(job: Job, clean: dict[str, Any], day: str) -> Job:
    vehicle = {"name": clean["vehicle"], **{field: clean[field] for field in VEHICLE_FIELDS}}
    after = acts.set_brief(job, clean["name"], vehicle, {field: clean[field] for field in BRIEF_FIELDS})
    return acts.measure_vehicle(after, {field: clean[field] for field in STATE_FIELDS}, day)


@require_POST
def channel_add(request: Request, job: int) -> HttpResponse:
    """One more thing to show."""
    measurand = request.POST.get("measurand", "")

    return act(request, job, lambda before: channels.show_more(before, measurand), "brief:show")


@require_POST
def channel_name(request: Request, job: int) -> HttpResponse:
    """What a channel is called."""
    channel, name = request.POST.get("channel", ""), request.POST.get("name", "")
    return act(
        request, job, lambda before: channels.name_channel(before, channel, name), "brief:show", typed=name
    )


@require_POST
def channel_remove(request: Request, job: int) -> HttpResponse:
    """One thing less."""
    channel = request.POST.get("channel", "")
    return act(request, job, lambda before: channels.remove_channel(before, channel), "brief:show")
