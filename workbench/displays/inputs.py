"""Inputs of a display: one more, one less, what its maker says of each, and which channel is read where."""

from __future__ import annotations

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import displays as acts
from metrolex.acts.inputs import read_at as read_at_input
from workbench.displays.forms import InputForm
from workbench.displays.page import display_named, show_display
from workbench.jobs.cache import JOBS
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, kept, look_for, page_at, page_of_job, record_for
from workbench.request import Request


@require_safe
@page_of_job
def form(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The form of one input, fetched when it is opened."""
    display = display_named(look.job, request.GET.get("display", ""))
    stage = display.input_called(request.GET.get("input", ""))
    if stage is None:
        raise Http404
    opened = InputForm.of(display, stage)
    if not request.htmx:
        return show_display(request, record, look, display, opened=opened)
    context = {"record": record, "display": display, "stage": stage, "form": opened}
    return render(request, "displays/_input_form.html", context)


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """An input of the display as its maker describes it; one more where it names none."""
    record = record_for(request, job)
    look = look_for(request, record)
    display = display_named(look.job, request.POST.get("display", ""))
    sent, key = InputForm.typed(display, request.POST), request.POST.get("input", "")
    if kept(
        request,
        record,
        sent,
        lambda before: acts.set_input(before, display.id, key, sent.facts()),
        sent.names(),
    ):
        return redirect(page_at("displays:show", job, display=display.id) + "#inputs")
    return show_display(request, record, look, display, sent)


@require_POST
def remove(request: Request, job: int) -> HttpResponse:
    """An input less."""
    display, key = request.POST.get("display", ""), request.POST.get("input", "")
    return act(
        request, job, lambda before: acts.take_input(before, display, key), "displays:show", display=display
    )


@require_POST
def read_at(request: Request, job: int) -> HttpResponse:
    """A channel read at another input, of this display or another."""
    display_id, _, input_id = request.POST.get("at", "").partition("|")
    key = request.POST.get("channel", "")
    known = JOBS.job_of(record_for(request, job)).display(display_id) is not None
    return act(
        request,
        job,
        lambda before: read_at_input(before, key, display_id, input_id),
        "displays:show",
        display=display_id if known else "",
    )
