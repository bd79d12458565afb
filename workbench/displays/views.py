"""A display of the job: one more, one less, what belongs to the whole of it, its description from the library."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import displays as acts
from metrolex.errors import BadInput
from metrolex.job import Display
from metrolex.kit import all_box_kits, all_display_kits
from workbench.displays.forms import DisplayForm
from workbench.displays.page import display_named, display_or_404, show_display
from workbench.jobs.cache import JOBS
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import (
    act,
    carry_out,
    kept,
    look_for,
    page_at,
    page_of_job,
    record_for,
    tell_refused,
)
from workbench.library.parts import own_displays
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """One display with its pins and inputs."""
    return show_display(request, record, look, display_or_404(look.job, request.GET.get("display", "")))


@require_POST
def add(request: Request, job: int) -> HttpResponse:
    """One display more, like one of the library or without anything on it."""
    record = record_for(request, job)
    name, title = request.POST.get("like", ""), request.POST.get("name", "")
    try:
        after = carry_out(
            request, record, lambda before: acts.add_display(before, name, _library(request), title)
        )
    except BadInput as fault:
        tell_refused(request, fault.message, title)
        return redirect(page_at("displays:show", job))
    return redirect(page_at("displays:show", job, display=after.displays[-1].id))


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """What belongs to the whole display."""
    record = record_for(request, job)
    look = look_for(request, record)
    display = display_named(look.job, request.POST.get("display", ""))
    form = DisplayForm(request.POST)
    if kept(request, record, form, lambda before: acts.set_display(before, display.id, form.facts())):
        return redirect(page_at("displays:show", job, display=display.id))
    return show_display(request, record, look, display, form)


@require_POST
def remove(request: Request, job: int) -> HttpResponse:
    """One display less."""
    key = request.POST.get("display", "")
    before = JOBS.job_of(record_for(request, job)).display(key)
    answer = act(request, job, lambda job: acts.take_display(job, key), "displays:show")
    if before is not None and JOBS.job_of(record_for(request, job)).display(key) is None:
        messages.success(request, f"{before.name} is taken out.")
    return answer


@require_POST
def describe(request: Request, job: int) -> HttpResponse:
    """A display of the library described onto this one: its menu, its pins and inputs where those in use are the same."""
    key, name = request.POST.get("display", ""), request.POST.get("name", "")
    known = JOBS.job_of(record_for(request, job)).display(key) is not None
    library = _library(request)
    return act(
        request,
        job,
        lambda before: acts.describe_as(before, key, name, library),
        "displays:show",
        display=key if known else "",
    )


def _library(request: Request) -> dict[str, Display]:
    return all_display_kits() | all_box_kits() | own_displays(request.workshop)
