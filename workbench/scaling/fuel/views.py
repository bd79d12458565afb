"""Fuel: blends in the tank, and the content sensor's pulses."""

from __future__ import annotations

from typing import Any, TypedDict

from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts.brief import set_ceiling
from metrolex.errors import BadInput
from metrolex.fuel.blend import Blend, content_after, plan_blend
from metrolex.fuel.consumption import Consumption, consumption_of
from metrolex.fuel.mixture import PETROL_RATIO, blend_ratio
from metrolex.job import Job
from metrolex.quantities import PRESSURE, VOLUME
from metrolex.senders.frequency import ContentReading, read_content
from metrolex.tables import load_table
from workbench.jobs.fields import NumberField, QuantityField, as_typed, refuse
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import kept, look_for, page_of_job, record_for, show_page
from workbench.request import Request


class BlendForm(forms.Form):
    """What is in the tank, what the pump has, what is wanted."""

    tank = QuantityField(VOLUME, "L", label="Tank holds", low=0.5, high=5000)
    inside = QuantityField(VOLUME, "L", label="In it now", low=0, high=5000)
    content = NumberField(
        unit="%", label="of ethanol, %", low=0, high=100, help_text="as the display or a test tube says"
    )
    pump = forms.ChoiceField(
        label="At the pump", choices=[(name, name) for name in ("E5", "E10", "E85", "E100")]
    )
    measured = NumberField(unit="%", label="or as measured, %", required=False, low=0, high=100)
    target = NumberField(unit="%", label="Wanted, %", low=0, high=100)


class ContentForm(forms.Form):
    """A content sensor's pulse train, as a meter reads it."""

    hertz = NumberField(unit="Hz", label="Frequency, Hz", low=0.001, high=100000)
    duty = NumberField(unit="%", label="High for, %", low=0.1, high=99.9, help_text="the meter's duty cycle")


class InjectorForm(forms.Form):
    """How long an injector stands open, and what it flows."""

    open_ms = NumberField(
        unit="ms", label="Injector open, ms", low=0.01, high=200, help_text="At one injector's wire"
    )
    rpm = NumberField(label="at engine speed, rpm", low=1, high=30000)
    injectors = forms.IntegerField(label="Injectors", min_value=1, max_value=48)
    flow_cc_min = NumberField(label="One flows, cc/min", low=1, high=20000, help_text="Held open")
    dead_ms = NumberField(unit="ms", label="takes to open, ms", required=False, low=0, high=20)
    rated_bar = QuantityField(
        PRESSURE, "bar", into="bar", label="at a pressure of", required=False, low=0.1, high=500
    )
    rail_bar = QuantityField(PRESSURE, "bar", into="bar", label="Rail has", required=False, low=0.1, high=500)
    kmh = NumberField(label="Road speed, km/h", required=False, low=0.1, high=600)


class CeilingForm(forms.Form):
    """What the engine's tune allows."""

    ceiling = NumberField(unit="%", label="The tune goes up to, % ethanol", required=False, low=0, high=100)


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The planner; figures typed go into the address, so that a plan can be sent on."""
    return show_page(request, "scaling/fuel.html", record, look, "scaling", **_context(request, look))


class Step(TypedDict):
    """The tank with a quarter more of what is missing: litres put in, ethanol and mixture then."""

    litres: float
    pct: float
    ratio: float


class Planned(TypedDict, total=False):
    """A blend worked out."""

    plan: Blend
    shown_at_one: float
    steps: list[Step]
    after_l: float
    tank_l: float


class FuelPage(Planned, total=False):
    """All of the page inside its frame."""

    tab: str
    channel: None
    form: BlendForm
    content_form: ContentForm
    petrol: float
    ceiling_form: CeilingForm
    content: ContentReading
    injector_form: InjectorForm
    burnt: Consumption


def _context(request: Request, look: Look, ceiling: CeilingForm | None = None) -> FuelPage:
    vehicle = look.job.vehicle
    blend_form = BlendForm(request.GET) if "target" in request.GET else BlendForm(initial=_start(look.job))
    content_form = ContentForm(request.GET) if "hertz" in request.GET else ContentForm()
    injector_form = (
        InjectorForm(request.GET)
        if "open_ms" in request.GET
        else InjectorForm(initial={"injectors": vehicle.engine.cylinders})
    )
    found: FuelPage = {
        "tab": "fuel",
        "channel": None,
        "form": blend_form,
        "content_form": content_form,
        "injector_form": injector_form,
        "petrol": PETROL_RATIO,
        "ceiling_form": ceiling
        or CeilingForm(initial={"ceiling": as_typed(vehicle.fuel.ethanol_ceiling_pct)}),
    }
    if blend_form.is_bound and blend_form.is_valid():
        try:
            found.update(_planned(blend_form.cleaned_data, look.job))  # type: ignore[typeddict-item]
        except BadInput as fault:
            refuse(
                blend_form,
                fault,
                {
                    "tank_l": "tank",
                    "in_tank_l": "inside",
                    "in_tank_ethanol_pct": "content",
                    "added_ethanol_pct": "measured",
                    "target_pct": "target",
                },
            )
    if injector_form.is_bound and injector_form.is_valid():
        clean = injector_form.cleaned_data
        try:
            found["burnt"] = consumption_of(
                clean["open_ms"],
                clean["rpm"],
                clean["injectors"],
                clean["flow_cc_min"],
                dead_ms=clean["dead_ms"] or 0.0,
                strokes=vehicle.engine.strokes,
                rated_bar=clean["rated_bar"],
                rail_bar=clean["rail_bar"],
                kmh=clean["kmh"],
            )
        except BadInput as fault:
            refuse(injector_form, fault)
    if content_form.is_bound and content_form.is_valid():
        found["content"] = read_content(content_form.cleaned_data["hertz"], content_form.cleaned_data["duty"])
    return found


def _start(job: Job) -> dict[str, Any]:
    return {"tank": as_typed(job.vehicle.fuel.tank_l, "L") if job.vehicle.fuel.tank_l else "", "pump": "E85"}


def _planned(data: dict[str, Any], job: Job) -> Planned:
    pump = load_table("fuels")["blend"][data["pump"]]
    measured = data["measured"]
    added = measured if measured is not None else pump["ethanol_pct"]
    span = None if measured is not None else tuple(pump["pump_range"])
    plan = plan_blend(
        data["tank"],
        data["inside"],
        data["content"],
        added,
        data["target"],
        pump_range=span,
        ceiling_pct=job.vehicle.fuel.ethanol_ceiling_pct,
    )
    room = data["tank"] - data["inside"]
    steps: list[Step] = [
        {
            "litres": room * k / 4,
            "pct": (pct := content_after(data["inside"], data["content"], room * k / 4, added)),
            "ratio": blend_ratio(pct),
        }
        for k in range(5)
    ]
    return {
        "plan": plan,
        "shown_at_one": PETROL_RATIO,
        "steps": steps,
        "after_l": data["inside"] + plan.add_l,
        "tank_l": data["tank"],
    }


@require_POST
def ceiling(request: Request, job: int) -> HttpResponse:
    """What the tune allows, kept with the vehicle."""
    record = record_for(request, job)
    form = CeilingForm(request.POST)
    if kept(
        request,
        record,
        form,
        lambda before: set_ceiling(before, form.cleaned_data["ceiling"]),
    ):
        return redirect("scaling:fuel", job)
    look = look_for(request, record)
    return show_page(
        request, "scaling/fuel.html", record, look, "scaling", 422, **_context(request, look, form)
    )
