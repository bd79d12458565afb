"""The brief: vehicle, owner, wants, electrical supply, what is shown."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_http_methods, require_POST

from metrolex.acts import brief as acts
from metrolex.acts import channels
from metrolex.errors import BadInput
from metrolex.job import Job
from metrolex.kit import measurands
from workbench.brief.vehicle_forms import VEHICLE_FIELDS, BriefForm, SupplyForm
from workbench.jobs.fields import as_typed, refuse
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, carry_out, kept, look_for, record_for, show_page


@require_http_methods(["GET", "POST"])
def show(request: HttpRequest, job: int) -> HttpResponse:
    """Vehicle, owner, wants, electrical supply, what is shown."""
    record = record_for(request, job)
    look = look_for(request, record)
    form = BriefForm(request.POST or None, initial=_brief_initial(look.job))
    if request.method == "POST" and form.is_valid():
        clean = form.cleaned_data
        try:
            carry_out(request, record, lambda before: _with_brief(before, clean))
            messages.success(request, "Brief saved.")
            return redirect("brief:show", job)
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
        "brief/show.html",
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
    if kept(request, record, form, lambda before: acts.set_supply(before, form.cleaned_data)):
        messages.success(request, "Supply saved.")
        return redirect("brief:show", job)
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
    return acts.set_brief(
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

    return act(request, job, lambda before: channels.show_more(before, measurand), "brief:show")


@require_POST
def channel_remove(request: HttpRequest, job: int) -> HttpResponse:
    """One thing less."""
    channel = request.POST.get("channel", "")
    return act(request, job, lambda before: channels.remove_channel(before, channel), "brief:show")
