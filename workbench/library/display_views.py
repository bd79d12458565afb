"""A display or box of the workshop's own, changed in the library itself: by the forms and acts of a job, on a job that holds nothing else."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import displays as acts
from metrolex.errors import BadInput
from metrolex.job import Display, Identity, Job, Vehicle
from metrolex.kit import all_box_kits, all_display_kits
from workbench.accounts.roles import workshop_to_change
from workbench.displays.forms import DisplayForm, InputForm, OutputForm, PinForm
from workbench.jobs.fields import field_ids, refuse
from workbench.jobs.pages import tell_refused
from workbench.library import parts
from workbench.mount.forms import HousingForm
from workbench.request import Request

__all__ = ["change", "new", "show", "take"]

_PIN_FIELDS = {"id": "number"}


@dataclass(frozen=True, slots=True)
class _Kind:
    """One kind of thing a display is made of: its form, and the acts that save and take one."""

    form: Callable[[Display, Any, str], Any]
    save: Callable[[Job, str, str, dict[str, Any]], Job]
    take: Callable[[Job, str, str], Job]
    fields: Callable[[Any], dict[str, str]]


def _pin_form(display: Display, data: Any, key: str) -> PinForm:
    pin = display.pin_called(key)
    return PinForm(
        data, initial=PinForm.of(pin) if pin else None, auto_id=field_ids("pin", key if pin else "")
    )


KINDS = {
    "pin": _Kind(_pin_form, acts.set_pin, acts.take_pin, lambda _: _PIN_FIELDS),
    "input": _Kind(
        lambda display, data, _: InputForm.typed(display, data),
        acts.set_input,
        acts.take_input,
        lambda form: form.names(),
    ),
    "output": _Kind(
        lambda display, data, _: OutputForm.typed(display, data),
        acts.set_output,
        acts.take_output,
        lambda form: form.names(),
    ),
}


def _called(request: Request, name: str) -> Display:
    found = parts.own_displays(request.workshop).get(name)
    if found is None:
        raise Http404
    return found


def _alone(display: Display) -> Job:
    return Job("library", Vehicle(Identity("library")), displays=(display,))


def _at(name: str) -> str:
    return f"{reverse('library:display')}?{urlencode({'name': name})}"


def _page(
    request: Request, display: Display, refused: Any = None, key: tuple[str, str] = ("", "")
) -> HttpResponse:
    """The display with a form for each of its things; the refused one as it was typed."""

    def form(kind: str, at: str, fresh: Any) -> Any:
        return refused if refused is not None and key == (kind, at) else fresh

    context = {
        "display": display,
        "kind": "display",
        "head": form("head", "", DisplayForm(initial=DisplayForm.of(display), auto_id=field_ids("head"))),
        "housing": form(
            "housing", "", HousingForm(initial=HousingForm.of(display), auto_id=field_ids("housing"))
        ),
        "groups": [
            (
                "pin",
                "Pins",
                [
                    (
                        pin.id,
                        f"{pin.name or pin.role.replace('_', ' ')}",
                        form("pin", pin.id, _pin_form(display, None, pin.id)),
                    )
                    for pin in display.pins
                ],
                form("pin", "", PinForm(auto_id=field_ids("pin"))),
            ),
            (
                "input",
                "Inputs",
                [
                    (
                        stage.id,
                        stage.kind.replace("_", " "),
                        form("input", stage.id, InputForm.of(display, stage)),
                    )
                    for stage in display.inputs
                ],
                form("input", "", InputForm.new(display)),
            ),
            (
                "output",
                "Outputs",
                [
                    (output.id, output.name, form("output", output.id, OutputForm.of(display, output)))
                    for output in display.outputs
                ],
                form("output", "", OutputForm.new(display)),
            ),
        ],
        "opened": key if refused is not None else ("", ""),
    }
    return render(request, "library/display.html", context, status=200 if refused is None else 422)


@require_safe
def show(request: Request) -> HttpResponse:
    """One display of the workshop's own, every thing of it to be changed."""
    return _page(request, _called(request, request.GET.get("name", "")))


@require_POST
def new(request: Request) -> HttpResponse:
    """One more display of the workshop's own: like a generic one or another of its own, or with nothing on it yet."""
    like, name = request.POST.get("like", ""), request.POST.get("name", "").strip()
    known = {**all_display_kits(), **all_box_kits(), **parts.own_displays(request.workshop)}
    try:
        workshop = workshop_to_change(request)
        if name in parts.own_displays(workshop):
            raise BadInput("name", name, "a name not used yet", f"There is a display called {name} already.")
        fresh = acts.add_display(Job("library", Vehicle(Identity("library"))), like, known, name).displays[0]
        return redirect(_at(parts.keep(workshop, fresh, name)))
    except BadInput as fault:
        tell_refused(request, fault.message, name)
        return redirect("library:displays")


@require_POST
def change(request: Request) -> HttpResponse:
    """Its own facts, or one of its pins, inputs or outputs, changed or added."""
    display = _called(request, request.POST.get("name_before", ""))
    what, key = request.POST.get("what", ""), request.POST.get("key", "")
    if what == "head":
        form: Any = DisplayForm(request.POST, auto_id=field_ids("head"))
        fields: dict[str, str] = {}
    elif what == "housing":
        form, fields = (
            HousingForm(request.POST, initial=HousingForm.of(display), auto_id=field_ids("housing")),
            {},
        )
    elif what in KINDS:
        form, fields = KINDS[what].form(display, request.POST, key), {}
    else:
        raise Http404
    if form.is_valid():
        try:
            workshop, job = workshop_to_change(request), _alone(display)
            if what in ("head", "housing"):
                after = acts.set_display(job, display.id, form.facts())
            else:
                fields = KINDS[what].fields(form)
                after = KINDS[what].save(job, display.id, key, form.facts())
            name = _renamed(workshop, display.name, after.displays[0])
            return redirect(_at(name))
        except BadInput as fault:
            refuse(form, fault, fields)
    return _page(request, display, form, (what, key))


def _renamed(workshop: Any, before: str, display: Display) -> str:
    """Kept under its name; under a new one the old one goes, if no other has that."""
    if display.name != before and display.name in parts.own_displays(workshop):
        raise BadInput("name", display.name, "a name no other display has")
    name = parts.keep(workshop, display, display.name)
    if name != before:
        parts.remove(workshop, "display", before)
    return name


@require_POST
def take(request: Request) -> HttpResponse:
    """A pin, an input or an output less."""
    display = _called(request, request.POST.get("name_before", ""))
    kind = KINDS.get(request.POST.get("what", ""))
    if kind is None:
        raise Http404
    try:
        after = kind.take(_alone(display), display.id, request.POST.get("key", ""))
        parts.keep(workshop_to_change(request), after.displays[0], display.name)
    except BadInput as fault:
        messages.error(request, fault.message)
    return redirect(_at(display.name))
