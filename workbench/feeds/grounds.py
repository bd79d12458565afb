"""Ground points, and what star or chain makes of the readings."""

from __future__ import annotations

from typing import TypedDict

from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import feeds as acts
from metrolex.feeds.check import proved_for_meter
from metrolex.job import GroundPoint, Job
from metrolex.twin.addresses import ground_node
from metrolex.twin.build import ground_ohm
from metrolex.twin.grounds import GroundLayout, ground_layouts
from workbench.feeds.forms import GroundForm
from workbench.jobs.fields import field_ids
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, kept, look_for, page_of_job, record_for, show_page
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The ground points and the ground plan of the senders."""
    return show_page(request, "feeds/grounds.html", record, look, "feeds", **_context(look))


class GroundRow(TypedDict):
    """A ground point as measured, with its form."""

    point: GroundPoint
    volts: float | None
    proved: bool
    ohm: float
    form: GroundForm
    open: bool


class GroundsPage(TypedDict):
    """The ground points, and the layouts of them tried."""

    tab: str
    rows: list[GroundRow]
    layouts: tuple[GroundLayout, ...]
    new: GroundForm


def _context(look: Look, refused: GroundForm | None = None, key: str = "") -> GroundsPage:
    job = look.job
    rows: list[GroundRow] = []
    for i, point in enumerate(job.grounds):
        form = (
            refused
            if refused is not None and key == point.id
            else GroundForm(job, initial=GroundForm.of(point), auto_id=f"ground-{i}-%s")
        )
        rows.append(
            {
                "point": point,
                "volts": look.solved.volts(ground_node(point.id)),
                "proved": proved_for_meter(job, point),
                "ohm": ground_ohm(job, point),
                "form": form,
                "open": form is refused,
            }
        )
    return {
        "tab": "grounds",
        "rows": rows,
        "layouts": ground_layouts(look.network),
        "new": refused if refused is not None and not key else GroundForm(job, initial=_like_the_last(job)),
    }


def _like_the_last(job: Job) -> dict[str, str]:
    """What the next ground point has in common with the last one, as most have."""
    if not job.grounds:
        return {}
    last = job.grounds[-1]
    return {"where": last.where, "surface": last.surface, "terminal": last.terminal}


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """A ground point: one more, or as measured."""
    record, key = record_for(request, job), request.POST.get("ground", "")
    look = look_for(request, record)
    form = GroundForm(look.job, request.POST, auto_id=field_ids("ground", key))
    if kept(request, record, form, lambda before: acts.save_ground(before, form.values(), key)):
        return redirect("feeds:grounds", job)
    return show_page(request, "feeds/grounds.html", record, look, "feeds", 422, **_context(look, form, key))


@require_POST
def remove(request: Request, job: int) -> HttpResponse:
    return act(
        request,
        job,
        lambda before: acts.remove_ground(before, request.POST.get("ground", "")),
        "feeds:grounds",
    )
