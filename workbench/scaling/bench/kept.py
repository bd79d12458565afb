"""What a bench's own form says, kept; and the curve taken out of a tank."""

from __future__ import annotations

from typing import Any

from django.forms import Form
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from metrolex.acts.tank import take_tank_curve
from metrolex.job import MeasuringChain
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, channel_or_404, kept, look_for, page_at, record_for
from workbench.request import Request
from workbench.scaling.bench import bench_of, boost, engine, gear, mixture, road, tank
from workbench.scaling.bench.page import refused

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
    _record, look, channel = at_bench(request, job)
    form = _FORMS[bench_of(channel, look.job.input_of(channel)) or "boost"](request.POST)
    return _kept(request, job, channel, form)


@require_POST
def shift(request: Request, job: int) -> HttpResponse:
    """Shift lamps."""
    _, _, channel = at_bench(request, job)
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
def tank_curve(request: Request, job: int) -> HttpResponse:
    """The sender's curve out of the tank."""
    key = request.POST.get("channel", "")
    return act(request, job, lambda before: take_tank_curve(before, key), "scaling:show")


def at_bench(request: Request, job: int) -> tuple[JobRecord, Look, MeasuringChain]:
    record = record_for(request, job)
    look = look_for(request, record)
    return record, look, channel_or_404(look, request.POST.get("channel", ""))
