"""Inputs of a display: what its maker says of each, and which channel is read where."""

from __future__ import annotations

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import displays
from metrolex.acts.inputs import read_at as read_at_input
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import kept, look_for, page_at, page_of_job, record_for, show_page
from workbench.request import Request
from workbench.scaling.menu.forms import InputForm
from workbench.scaling.menu.views import display_or_404, sheet_after, sheet_context


@require_safe
@page_of_job
def input_form(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The form of one input, fetched when it is opened."""
    display = display_or_404(look.job, request.GET.get("display", ""))
    stage = display.input_called(request.GET.get("input", "")) if display else None
    if display is None or stage is None:
        raise Http404
    form = InputForm.of(stage)
    return render(
        request,
        "scaling/_input_form.html",
        {"record": record, "display": display, "stage": stage, "form": form},
    )


@require_POST
def input_save(request: Request, job: int) -> HttpResponse:
    """An input of the display as its maker describes it."""
    record = record_for(request, job)
    look = look_for(request, record)
    display = display_or_404(look.job, request.POST.get("display", ""))
    stage = display.input_called(request.POST.get("input", "")) if display else None
    if display is None or stage is None:
        raise Http404
    form = InputForm(request.POST, auto_id=f"in-{stage.id}-%s".replace(" ", "-"))

    if kept(
        request,
        record,
        form,
        lambda before: displays.set_input(before, display.id, stage.id, form.facts()),
        form.names(),
    ):
        return redirect(page_at("scaling:menu", job, display=display.id))
    return show_page(
        request,
        "scaling/menu.html",
        record,
        look,
        "scaling",
        422,
        **sheet_context(request, look, display, opened={stage.id: form}),
    )


@require_POST
def read_at(request: Request, job: int) -> HttpResponse:
    """A channel read at another input, of this display or another."""
    display_id, _, input_id = request.POST.get("at", "").partition("|")
    key = request.POST.get("channel", "")
    return sheet_after(
        request, job, lambda before: read_at_input(before, key, display_id, input_id), display_id
    )
