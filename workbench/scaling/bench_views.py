"""What the benches do: keep what was typed, take runs in, take a setting or a curve."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.forms import Form
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from metrolex.acts import counting as acts
from metrolex.acts.tank import take_tank_curve
from metrolex.errors import BadInput
from metrolex.job import MeasuringChain
from metrolex.speed.recording import drive_of
from workbench.jobs.fields import refuse
from workbench.jobs.pages import act, carry_out, channel_or_404, kept, look_for, page_at, record_for
from workbench.request import Request
from workbench.scaling.benches import bench_of, boost, engine, gear, mixture, road, tank
from workbench.scaling.views import refused

_FORMS: dict[str, type[Form]] = {
    "road": road.RoadForm,
    "engine": engine.EngineForm,
    "gear": gear.GearForm,
    "tank": tank.TankForm,
    "mixture": mixture.TrimForm,
    "boost": boost.AirForm,
}
#: Names of the core's keys where a form calls them otherwise.
_FIELDS = {
    "circumference_m": "distance",
    "distance_m": "distance",
    "pulses_per_rev": "pulses_per_rev",
    "tyre_wear_mm": "wear",
    "points": "fillings",
    "reserve_l": "reserve",
    "full_ohm": "full",
    "gear_ratios": "ratios",
    "reaction_s": "reaction",
    "redline_rpm": "redline",
    "table": "pairs",
    "shift_rpm": "redline",
    "litres": "fillings",
}


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """The bench's own form."""
    _record, look, channel = _at(request, job)
    form = _FORMS[bench_of(channel, look.job.input_of(channel)) or "boost"](request.POST)
    return _kept(request, job, channel, form)


@require_POST
def shift(request: Request, job: int) -> HttpResponse:
    """Shift lamps."""
    _, _, channel = _at(request, job)
    return _kept(request, job, channel, engine.ShiftForm(request.POST))


def _kept(request: Request, job: int, channel: MeasuringChain, form: Any) -> HttpResponse:
    record = record_for(request, job)

    fields = {
        **_FIELDS,
        "points": next(
            (name for name in ("fillings", "pairs", "power", "taught") if name in form.fields), "points"
        ),
    }
    if kept(request, record, form, lambda before: form.put(before, channel.id), fields):
        return redirect(page_at("scaling:show", job, channel=channel.id))
    look = look_for(request, record)
    return refused(request, record, look, channel, bench_form=form)


@require_POST
def run_add(request: Request, job: int) -> HttpResponse:
    """A run read by a passenger."""
    record, look, channel = _at(request, job)
    form = road.RunForm(request.POST)
    if kept(
        request,
        record,
        form,
        lambda before: acts.add_run(before, channel.id, form.run()),
    ):
        return redirect(page_at("scaling:show", job, channel=channel.id))
    return refused(request, record, look, channel, bench_form=form)


@require_POST
def run_record(request: Request, job: int) -> HttpResponse:
    """Runs out of a recorded drive."""
    record, look, channel = _at(request, job)
    form = road.RecordingForm(request.POST, request.FILES)
    if form.is_valid():
        try:
            drive = drive_of(*form.texts())
            carry_out(request, record, lambda before: acts.add_runs(before, channel.id, drive.runs))
            messages.success(request, drive.words)
            return redirect(page_at("scaling:show", job, channel=channel.id))
        except BadInput as fault:
            refuse(form, fault, {"gps": "recording"})
    return refused(request, record, look, channel, bench_form=form)


@require_POST
def run_remove(request: Request, job: int) -> HttpResponse:
    """A run less."""
    key, number = request.POST.get("channel", ""), request.POST.get("run", "")
    return act(
        request,
        job,
        lambda before: acts.remove_run(before, key, int(number) if number.isdigit() else -1),
        "scaling:show",
    )


@require_POST
def setting_take(request: Request, job: int) -> HttpResponse:
    """The new speed setting."""
    key = request.POST.get("channel", "")
    return act(request, job, lambda before: acts.take_setting(before, key), "scaling:show")


@require_POST
def tank_curve(request: Request, job: int) -> HttpResponse:
    """The sender's curve out of the tank."""
    key = request.POST.get("channel", "")
    return act(request, job, lambda before: take_tank_curve(before, key), "scaling:show")


@require_GET
def gap(request: Request, job: int) -> HttpResponse:
    """The card of magnets and gap."""
    look = look_for(request, record_for(request, job))
    channel = channel_or_404(look, request.GET.get("channel", ""))
    return _worked(
        request,
        "scaling/_gap.html",
        road.GapForm(request.GET),
        lambda data: road.gap_steps(look.job, channel, data),
    )


@require_GET
def tyres(request: Request, job: int) -> HttpResponse:
    """What other tyres would do to speed and odometer."""
    look = look_for(request, record_for(request, job))
    channel = channel_or_404(look, request.GET.get("channel", ""))
    form = road.TyreForm(request.GET)
    return _worked(
        request,
        "scaling/_tyres.html",
        form,
        lambda data: road.with_tyres(look.job, channel, data["other"]),
        {"tyre": "other"},
    )


@require_GET
def boost_of(request: Request, job: int) -> HttpResponse:
    """Boost of one absolute reading."""
    look = look_for(request, record_for(request, job))
    return _worked(
        request,
        "scaling/_boost.html",
        boost.BoostForm(request.GET),
        lambda data: boost.worked_out(look.job, data),
    )


def _worked(
    request: Request,
    template: str,
    form: Form,
    work: Callable[[dict[str, Any]], dict[str, Any]],
    fields: dict[str, str] | None = None,
) -> HttpResponse:
    """A small answer to a small form: figures, or what is wrong with it."""
    if form.is_valid():
        try:
            return render(request, template, work(form.cleaned_data))
        except BadInput as fault:
            refuse(form, fault, fields)
    return render(
        request,
        template,
        {
            "errors": [
                f"{form.fields[name].label if name in form.fields else ''}: {words[0]}".lstrip(": ")
                for name, words in form.errors.items()
            ]
        },
    )


def _at(request: Request, job: int) -> Any:
    record = record_for(request, job)
    look = look_for(request, record)
    return record, look, channel_or_404(look, request.POST.get("channel", ""))
