"""Fit and hold: each display in the hand, the hole it goes into, what holds it."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import displays as display_acts
from metrolex.acts import mount as acts
from metrolex.job import Display, Job, Mounting
from metrolex.mount.fitted import hole_wanted
from metrolex.mount.held import cure_of, heed_of, ways_of
from metrolex.mount.stencil import KINDS
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import kept, look_for, page_at, page_of_job, record_for, show_page
from workbench.mount.forms import HoleForm, HousingForm
from workbench.mount.page import in_hand
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """One display: how it sits, with the forms of it."""
    return _page(request, record, look, request.GET.get("display", ""))


def _page(
    request: Request, record: JobRecord, look: Look, key: str, status: int = 200, **refused: Any
) -> HttpResponse:
    job = look.job
    faces = [display for display in job.displays if display.face]
    display = job.display(key) if key else next(iter(faces), None)
    if key and display is None:
        raise Http404
    context: dict[str, Any] = {"tab": "fit", "display": display, "displays": faces}
    if display is not None:
        mounting = _mounting_of(job, display)
        context |= {
            "mounting": mounting,
            "hand": in_hand(job, mounting, drawn=False) if mounting else None,
            "housing_form": refused.get("housing")
            or HousingForm(initial=HousingForm.of(display), auto_id="housing-%s"),
            "hole_form": refused.get("hole")
            or (HoleForm(initial=HoleForm.of(mounting), auto_id="hole-%s") if mounting else None),
            "stencils": list(KINDS.items()),
            "wanted": hole_wanted(display, mounting) if mounting else None,
            "heed": heed_of(site) if mounting and (site := job.site(mounting.site)) else "",
            "ways": ways_of(mounting) if mounting else (),
            "cure_h": cure_of(mounting) / 60 if mounting else 0.0,
        }
    return show_page(request, "mount/fit.html", record, look, "mount", status, **context)


def _mounting_of(job: Job, display: Display) -> Mounting | None:
    return next((one for one in job.mountings if one.display == display.id), None)


def _named(job: Job, key: str) -> Display:
    found = job.display(key)
    if found is None:
        raise Http404
    return found


@require_POST
def housing(request: Request, job: int) -> HttpResponse:
    """A display as it lies in the hand."""
    record = record_for(request, job)
    look = look_for(request, record)
    display = _named(look.job, request.POST.get("display", ""))
    form = HousingForm(request.POST, initial=HousingForm.of(display), auto_id="housing-%s")
    if kept(request, record, form, lambda before: display_acts.set_display(before, display.id, form.facts())):
        return redirect(page_at("mount:fit", job, display=display.id))
    return _page(request, record, look, display.id, 422, housing=form)


@require_POST
def hole(request: Request, job: int) -> HttpResponse:
    """Where it goes and how it is held."""
    record = record_for(request, job)
    look = look_for(request, record)
    mounting = look.job.mounting(request.POST.get("mounting", ""))
    if mounting is None:
        raise Http404
    form = HoleForm(request.POST, initial=HoleForm.of(mounting), auto_id="hole-%s")
    if kept(request, record, form, lambda before: acts.set_mounting(before, mounting.id, form.facts())):
        return redirect(page_at("mount:fit", job, display=mounting.display))
    return _page(request, record, look, mounting.display, 422, hole=form)
