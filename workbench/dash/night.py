"""The faces of all displays beside one another by day, at dusk and at night, as bright as their lamp wires make them."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.views.decorators.http import require_safe

from metrolex.dash.faces import pages_of
from metrolex.dash.lit import lit_now
from metrolex.errors import BadInput
from metrolex.job import Display, Job
from metrolex.mount.reflect import Pictured, pictured_of
from metrolex.twin import readings
from metrolex.twin.backlight import SCENES, backlights
from workbench.dash.face_drawing import light_of
from workbench.dash.page_drawing import Showing, page_drawing
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import page_of_job, show_page
from workbench.request import Request

WORDS = {"day": "By day", "dusk": "At dusk, park lamps on", "night": "At night, headlamps on"}
LEVELS = {
    "bright": "bright",
    "dim": "dimmed",
    "dark": "dark",
    "unknown": "nobody said what its lamp wire does",
}


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """Three scenes, every display in each."""
    shown = readings(look.solved)
    levels = {light.display.id: light for light in backlights(look.network)}
    scenes: list[dict[str, Any]] = []
    for i, scene in enumerate(SCENES):
        faces = []
        for display in look.job.displays:
            pages = pages_of(look.job, display.id)
            if not display.face or not pages:
                continue
            light = levels.get(display.id)
            level = light.levels[i] if light else "unknown"
            faces.append(
                {
                    "display": display,
                    "level": LEVELS[level],
                    "wrong": light is not None and scene in light.wrong,
                    "drawing": page_drawing(
                        display,
                        pages[0],
                        Showing(shown, lit_now(look.solved), light_of(display, level)),
                    ).safe(),
                    "picture": _picture(look.job, display) if scene == "night" and level != "dark" else None,
                    "round": display.housing.shape != "square",
                }
            )
        scenes.append({"key": scene, "words": WORDS[scene], "faces": faces})
    return show_page(
        request,
        "dash/night.html",
        record,
        look,
        "dash",
        tab="night",
        scenes=scenes,
        colours=_colours(look.job),
    )


def _picture(job: Job, display: Display) -> Pictured | None:
    """Where the windscreen shows a display; None where it does not, or its place is not known."""
    mounting = next((one for one in job.mountings if one.display == display.id), None)
    site = job.site(mounting.site) if mounting else None
    if mounting is None or site is None:
        return None
    try:
        return pictured_of(site, mounting)
    except BadInput:
        return None


def _colours(job: Job) -> str:
    """In words, where displays glow in different colours; '' where they do not, or nobody said."""
    said = {
        display.name: display.screen.light
        for display in job.displays
        if display.face and display.screen.light
    }
    if len(set(said.values())) < 2:
        return ""
    return "; ".join(f"{name} {colour}" for name, colour in said.items())
