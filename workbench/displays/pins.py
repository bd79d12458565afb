"""Pins of a display: one more, one less, what each is for and draws."""

from __future__ import annotations

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import displays as acts
from metrolex.job import Pin
from workbench.displays.forms import PinForm
from workbench.displays.page import display_named, show_display
from workbench.jobs.fields import field_ids
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, kept, look_for, page_at, page_of_job, record_for
from workbench.request import Request

_FIELDS = {"id": "number"}


@require_safe
@page_of_job
def form(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The form of one pin, fetched when it is opened."""
    display = display_named(look.job, request.GET.get("display", ""))
    pin = display.pin_called(request.GET.get("pin", ""))
    if pin is None:
        raise Http404
    if not request.htmx:
        return show_display(request, record, look, display, opened=_form_of(pin))
    context = {"record": record, "display": display, "pin": pin, "form": _form_of(pin)}
    return render(request, "displays/_pin_form.html", context)


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """A pin as it is; one more where it names none."""
    record = record_for(request, job)
    look = look_for(request, record)
    display = display_named(look.job, request.POST.get("display", ""))
    key = request.POST.get("pin", "")
    pin = display.pin_called(key)
    sent = PinForm(
        request.POST,
        initial=PinForm.of(pin) if pin else None,
        auto_id=field_ids("pin", key if pin else ""),
    )
    if kept(
        request,
        record,
        sent,
        lambda before: acts.set_pin(before, display.id, key, sent.facts()),
        _FIELDS,
    ):
        return redirect(page_at("displays:show", job, display=display.id) + "#pins")
    return show_display(request, record, look, display, sent)


@require_POST
def remove(request: Request, job: int) -> HttpResponse:
    """A pin less, with the wires that end there."""
    display, pin = request.POST.get("display", ""), request.POST.get("pin", "")
    return act(
        request, job, lambda before: acts.take_pin(before, display, pin), "displays:show", display=display
    )


def _form_of(pin: Pin) -> PinForm:
    return PinForm(initial=PinForm.of(pin), auto_id=field_ids("pin", pin.id))
