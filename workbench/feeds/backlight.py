"""Backlights together: day, dusk and night, and the ways out of a mix."""

from __future__ import annotations

from typing import TypedDict

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import feeds as acts
from metrolex.errors import BadInput
from metrolex.twin.backlight import SCENES, Backlight, backlights, remedies
from workbench.feeds.backlight_drawing import faces_drawing
from workbench.feeds.forms import LightingForm
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import carry_out, page_of_job, record_for, show_page
from workbench.request import Request


class LightRow(TypedDict):
    """A display's light through the scenes, and the form of what its lamp wire does."""

    light: Backlight
    faces: list[tuple[str, str, float | None]]
    form: LightingForm


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """Every display through the scenes, and the remedies tried on them."""
    lights = [light for light in backlights(look.network) if light.display.pin_for("lamps")]
    tried = remedies(look.network) if lights else ()
    return show_page(
        request,
        "feeds/backlight.html",
        record,
        look,
        "feeds",
        tab="backlight",
        rows=[_row(i, light) for i, light in enumerate(lights)],
        ways=[{"remedy": way, "drawing": faces_drawing(way.words, way.levels)} for way in tried],
        scenes=list(SCENES),
        drawing=faces_drawing("As wired now", {light.display.id: light.levels for light in lights})
        if lights
        else "",
    )


def _row(index: int, light: Backlight) -> LightRow:
    display = light.display
    start = {"display": display.id, "lighting": display.lamps.lighting, "no_dimmer": display.lamps.no_dimmer}
    return {
        "light": light,
        "faces": list(zip(SCENES, light.levels, light.ratios, strict=True)),
        "form": LightingForm(initial=start, auto_id=f"light-{index}-%s"),
    }


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
