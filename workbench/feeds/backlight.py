"""Backlights together: day, dusk and night, and the ways out of a mix."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_GET, require_POST

from metrolex.acts import feeds as acts
from metrolex.errors import BadInput
from metrolex.twin.backlight import SCENES, backlights, remedies
from workbench.feeds.backlight_drawing import faces_drawing
from workbench.feeds.forms import LightingForm
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import carry_out, page_of_job, record_for, show_page
from workbench.request import Request


@require_GET
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """Every display through the scenes, and the remedies tried on them."""
    lights = [light for light in backlights(look.network) if light.display.pin_for("lamps")]
    rows = [
        {
            "light": light,
            "faces": list(zip(SCENES, light.levels, light.ratios, strict=True)),
            "form": LightingForm(
                initial={
                    "display": light.display.id,
                    "lighting": light.display.lighting,
                    "no_dimmer": light.display.no_dimmer,
                },
                auto_id=f"light-{i}-%s",
            ),
        }
        for i, light in enumerate(lights)
    ]
    ways = (
        [
            {"remedy": remedy, "drawing": faces_drawing(remedy.words, remedy.levels)}
            for remedy in remedies(look.network)
        ]
        if rows
        else []
    )
    drawing = (
        faces_drawing("As wired now", {light.display.id: light.levels for light in lights}) if rows else ""
    )
    return show_page(
        request,
        "feeds/backlight.html",
        record,
        look,
        "feeds",
        tab="backlight",
        rows=rows,
        ways=ways,
        scenes=list(SCENES),
        drawing=drawing,
    )


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """What a display's lamp wire does."""
    record = record_for(request, job)
    form = LightingForm(request.POST)
    if form.is_valid():
        clean = form.cleaned_data
        try:
            carry_out(
                request,
                record,
                lambda before: acts.set_lighting(
                    before, clean["display"], clean["lighting"], clean["no_dimmer"]
                ),
            )
        except BadInput as fault:
            messages.error(request, fault.message)
    else:
        messages.error(request, "Choose one of the behaviours in the list.")
    return redirect("feeds:backlight", job)
