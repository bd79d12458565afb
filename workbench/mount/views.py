"""The front view: displays put, moved, aimed, ordered; the verdict that follows a hand."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import mount as acts
from metrolex.errors import BadInput
from metrolex.job import Job
from metrolex.quantities import parse_number
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import (
    act,
    act_in_place,
    look_for,
    page_of_job,
    record_for,
    show_page,
)
from workbench.mount.page import in_hand, show_context
from workbench.request import Request

MOST_MM = 3000.0


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """A site from the seat."""
    context = show_context(look, request.GET.get("site", ""), request.GET.get("mounting", ""))
    return show_page(request, "mount/show.html", record, look, "mount", **context)


@require_safe
def verdict(request: Request, job: int) -> HttpResponse:
    """What a display would be like at a point: asked while it is dragged."""
    look = look_for(request, record_for(request, job))
    mounting = look.job.mounting(request.GET.get("mounting", ""))
    if mounting is None:
        raise Http404
    try:
        x, y = (_within(parse_number(request.GET.get(name, ""))) for name in ("x", "y"))
    except BadInput as fault:
        return HttpResponse(fault.message, status=422, content_type="text/plain")
    moved = replace(mounting, x=x, y=y)
    job_there = replace(
        look.job, mountings=tuple(moved if one.id == moved.id else one for one in look.job.mountings)
    )
    return render(
        request, "mount/_verdict.html", {"hand": in_hand(job_there, moved, drawn=False), "moving": True}
    )


@require_POST
def move(request: Request, job: int) -> HttpResponse:
    """A display let go at a point."""
    key = request.POST.get("mounting", "")

    def moved(before: Job) -> Job:
        x, y = (_within(parse_number(request.POST.get(name, ""))) for name in ("x", "y"))
        return acts.move_mounting(before, key, round(x, 1), round(y, 1))

    return _changed(request, job, moved, key)


@require_POST
def aim(request: Request, job: int) -> HttpResponse:
    """A face aimed so that no sun stands in it, or a needle turned so that normal is up."""
    key = request.POST.get("mounting", "")
    if request.POST.get("normal"):
        return _changed(request, job, lambda before: acts.turn_normal_up(before, key), key)

    def aimed(before: Job) -> Job:
        up, right = (parse_number(request.POST.get(name, "")) for name in ("up", "right"))
        return acts.aim_mounting(before, key, up, right)

    return _changed(request, job, aimed, key)


@require_POST
def put(request: Request, job: int) -> HttpResponse:
    """A display that has no place yet put into a site."""
    display, site = request.POST.get("display", ""), request.POST.get("site", "")
    return act(
        request, job, lambda before: acts.place_display(before, display, site), "mount:show", site=site
    )


@require_POST
def out(request: Request, job: int) -> HttpResponse:
    """A display's place forgotten; the display stays."""
    key = request.POST.get("mounting", "")
    return act(
        request,
        job,
        lambda before: acts.remove_mounting(before, key),
        "mount:show",
        site=request.POST.get("site", ""),
    )


@require_POST
def pod(request: Request, job: int) -> HttpResponse:
    """Displays put into a pod, one after another."""
    site, name = request.POST.get("site", ""), request.POST.get("pod", "")
    chosen = request.POST.getlist("displays")
    return act(
        request,
        job,
        lambda before: acts.place_in_pod(before, site, name, chosen),
        "mount:show",
        typed=name,
        site=site,
    )


@require_POST
def order(request: Request, job: int) -> HttpResponse:
    """A pod's gauges in the order that suits them best."""
    site, name = request.POST.get("site", ""), request.POST.get("pod", "")
    return act(request, job, lambda before: acts.order_pod(before, site, name), "mount:show", site=site)


def _changed(request: Request, job: int, edit: Callable[[Job], Job], key: str) -> HttpResponse:
    """One act on a display in its place; the drawing, the verdict and the findings follow."""
    return act_in_place(
        request,
        job,
        edit,
        page="mount:show",
        place="mount",
        template="mount/_moved.html",
        context=lambda look: show_context(look, "", key),
        mounting=key,
    )


def _within(mm: float) -> float:
    return min(max(mm, -MOST_MM), MOST_MM)
