"""Outputs of a box: one more, one less, what each gives; which channel is read by it."""

from __future__ import annotations

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import boxes
from metrolex.acts import displays as acts
from workbench.displays.forms import OutputForm
from workbench.displays.page import display_named, show_display
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, kept, look_for, page_at, page_of_job, record_for
from workbench.request import Request


@require_safe
@page_of_job
def form(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The form of one output, fetched when it is opened."""
    display = display_named(look.job, request.GET.get("display", ""))
    output = display.output_called(request.GET.get("output", ""))
    if output is None:
        raise Http404
    opened = OutputForm.of(display, output)
    if not request.htmx:
        return show_display(request, record, look, display, opened=opened)
    context = {"record": record, "display": display, "output": output, "form": opened}
    return render(request, "displays/_output_form.html", context)


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """An output as its maker describes it; one more where it names none."""
    record = record_for(request, job)
    look = look_for(request, record)
    display = display_named(look.job, request.POST.get("display", ""))
    sent, key = OutputForm.typed(display, request.POST), request.POST.get("output", "")
    if kept(
        request,
        record,
        sent,
        lambda before: acts.set_output(before, display.id, key, sent.facts()),
        sent.names(),
    ):
        return redirect(page_at("displays:show", job, display=display.id) + "#outputs")
    return show_display(request, record, look, display, sent)


@require_POST
def remove(request: Request, job: int) -> HttpResponse:
    """An output less."""
    display, key = request.POST.get("display", ""), request.POST.get("output", "")
    return act(
        request, job, lambda before: acts.take_output(before, display, key), "displays:show", display=display
    )


@require_POST
def read_by(request: Request, job: int) -> HttpResponse:
    """A channel read by this box: its sender at an input, its reading from an output."""
    posted = request.POST
    display, key = posted.get("display", ""), posted.get("channel", "")
    at, output = posted.get("box_input", ""), posted.get("output", "")
    return act(
        request,
        job,
        lambda before: boxes.read_by(before, key, display, at, output),
        "displays:show",
        display=display,
    )


@require_POST
def read_without(request: Request, job: int) -> HttpResponse:
    """A channel without its box: the sender straight to the display."""
    key = request.POST.get("channel", "")
    return act(request, job, lambda before: boxes.take_between(before, key), "displays:show")
