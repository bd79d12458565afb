"""A sender the vehicle has already: who reads it, and where the display's wire joins."""

from __future__ import annotations

from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from metrolex.acts import shared as acts
from metrolex.errors import BadInput
from metrolex.job import Job, MeasuringChain
from metrolex.quantities import RESISTANCE, VOLTAGE
from workbench.jobs.fields import QuantityField
from workbench.jobs.pages import act, carry_out, page_at, record_for, tell_refused
from workbench.request import Request

__all__ = ["ReaderForm", "joints_of"]


class ReaderForm(forms.Form):
    """Who reads a sender already, as its line is seen."""

    name = forms.CharField(label="Who reads it", max_length=120, help_text="Engine control, old gauge")
    control = forms.ChoiceField(
        label="It is", choices=[("yes", "a control that acts on it"), ("no", "a gauge or lamp")]
    )
    pull_up = QuantityField(
        RESISTANCE,
        "ohm",
        label="Its pull-up, or coil",
        low=1,
        high=1e7,
        help_text="2.2 kΩ is common in engine controls",
    )
    reference = QuantityField(
        VOLTAGE,
        "V",
        label="From",
        low=0.1,
        high=60,
        help_text="Read with the sender unplugged: 5 V, or battery",
    )

    def facts(self) -> dict[str, Any]:
        """What was said, by the core's names."""
        data = self.cleaned_data
        return {
            "name": data["name"],
            "control": data["control"] == "yes",
            "pull_up_ohm": data["pull_up"],
            "reference_v": data["reference"],
        }


def joints_of(job: Job, channel: MeasuringChain) -> list[dict[str, Any]]:
    """Where the display's wire can join the vehicle's: at the sender, or at a pin of a plug."""
    pins = [
        {
            "value": f"{plug.id}|{cavity.pin}",
            "words": f"{plug.name}, pin {cavity.pin}{f', {cavity.function}' if cavity.function else ''}",
            "here": (channel.plug, channel.pin) == (plug.id, cavity.pin),
        }
        for plug in job.connectors
        if plug.display is None
        for cavity in plug.cavities
    ]
    return [{"value": "", "words": "at the sender itself", "here": channel.plug is None}, *pins]


@require_POST
def add(request: Request, job: int) -> HttpResponse:
    """One more that reads it."""
    record, key = record_for(request, job), request.POST.get("channel", "")
    form = ReaderForm(request.POST)
    here = page_at("ports:show", job, channel=key, pin=request.POST.get("pin", "")) + "#readers"
    if not form.is_valid():
        for field, errors in form.errors.items():
            label = form.fields[field].label if field in form.fields else ""
            tell_refused(request, f"{label}: {errors[0]}", request.POST.get(field, ""))
        return redirect(here)
    try:
        carry_out(request, record, lambda before: acts.add_reader(before, key, form.facts()))
        messages.success(request, f"{form.cleaned_data['name']} reads it already: its loom is left as it is.")
    except BadInput as fault:
        tell_refused(request, fault.message, form.cleaned_data["name"])
    return redirect(here)


@require_POST
def remove(request: Request, job: int) -> HttpResponse:
    """One less that reads it."""
    key, reader = request.POST.get("channel", ""), request.POST.get("reader", "")
    return act(request, job, lambda before: acts.take_reader(before, key, reader), "ports:show")


@require_POST
def join(request: Request, job: int) -> HttpResponse:
    """Where the display's wire joins."""
    key = request.POST.get("channel", "")
    plug, _, pin = request.POST.get("at", "").rpartition("|")
    return act(request, job, lambda before: acts.join_at(before, key, plug, pin), "ports:show")
