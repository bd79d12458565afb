"""Plugs of the vehicle, their wires translated to the displays' pins; pin-outs; the data bus."""

from __future__ import annotations

from typing import TypedDict

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils.safestring import SafeString
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import plugs as acts
from metrolex.apart import done_apart
from metrolex.bus.pair import PairVerdict, judge_pair, longest_stub_m, signals_for
from metrolex.errors import BadInput
from metrolex.harness.colours import colour_words
from metrolex.harness.cut_list import end_words
from metrolex.harness.translate import Row, function_of, function_words, mirrored, translation, unused_pins
from metrolex.job import BusSignal, Conductor, Connector, Display, End, Job, MeasuringChain, Pin
from metrolex.topology import topology_of
from workbench.gate import takes_files
from workbench.harness.plug_drawing import plug_drawing
from workbench.harness.plug_forms import MOST_BYTES, BusForm, PinForm, PlugForm
from workbench.jobs.fields import field_ids, refuse
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, carry_out, kept, look_for, page_at, page_of_job, record_for, show_page
from workbench.request import Request
from workbench.sheets import csv_answer


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The whole place."""
    return show_page(
        request,
        "harness/plugs.html",
        record,
        look,
        "harness",
        **_context(look, request.GET.get("turned", "")),
    )


class PlugRow(TypedDict):
    """A plug as drawn from one view, with its form."""

    connector: Connector
    drawing: SafeString
    view: str
    turned: bool
    form: PlugForm
    open: bool


class LampPin(TypedDict):
    """A lamp input or output of a display, with its form."""

    display: Display
    pin: Pin
    form: PinForm | None


class Translated(TypedDict):
    """An old wire and the new terminal it goes to, in words."""

    row: Row
    old: str
    function: str
    new: str


class PinoutRow(TypedDict):
    """A pin with the wires on it and where each goes."""

    pin: Pin
    function: str
    wires: list[tuple[Conductor, str]]


class Pinout(TypedDict):
    """A display's pins."""

    display: Display
    rows: list[PinoutRow]


class BusRow(TypedDict):
    """A channel the vehicle sends, and the signals it may be."""

    channel: MeasuringChain
    likely: tuple[BusSignal, ...]
    others: tuple[BusSignal, ...]


class PlugsPage(TypedDict):
    """Plugs and pins, and the data pair."""

    tab: str
    plugs: list[PlugRow]
    new: PlugForm
    lamp_pins: list[LampPin]
    rows: list[Translated]
    pinouts: list[Pinout]
    unused: tuple[tuple[Display, Pin, str], ...]
    bus_form: BusForm
    pair: PairVerdict | None
    longest_stub: float
    bus_channels: list[BusRow]


def _context(
    look: Look,
    turned: str = "",
    plug: PlugForm | None = None,
    bus: BusForm | None = None,
    pin_form: PinForm | None = None,
) -> PlugsPage:
    job = look.job
    pair = job.bus.pair_ohm
    return {
        "tab": "plugs",
        "plugs": [_plug(job, i, turned, plug) for i in range(len(job.connectors))],
        "new": plug if plug is not None and not plug.data.get("id") else PlugForm(job),
        "lamp_pins": [
            {
                "display": d,
                "pin": p,
                "form": pin_form
                if _asks_for(pin_form, d, p)
                else PinForm(p, initial=PinForm.of(d, p), auto_id=field_ids("pin", f"{d.id} {p.id}")),
            }
            for d in job.displays
            for p in d.pins
            if p.role in ("lamp_input", "output")
        ],
        "rows": [_row(row) for row in translation(job)],
        "pinouts": _pinouts(job),
        "unused": unused_pins(job),
        "bus_form": bus or BusForm(initial=BusForm.of(job.bus)),
        "pair": None if pair is None else judge_pair(pair),
        "longest_stub": longest_stub_m(job.bus.bitrate_kbit),
        "bus_channels": [
            {"channel": c, "likely": signals_for(c, job.bus), "others": job.bus.signals}
            for c in job.measured
            if c.source == "ecu"
        ],
    }


def _plug(job: Job, index: int, turned: str, refused: PlugForm | None) -> PlugRow:
    """A plug as drawn from its view, or from the other where it is turned; with its form."""
    connector = job.connectors[index]
    view = mirrored(connector.view) if connector.id == turned else connector.view
    mine = refused if refused is not None and refused.data.get("id") == connector.id else None
    return {
        "connector": connector,
        "drawing": plug_drawing(connector, view, job.display(connector.display)).safe(),
        "view": view,
        "turned": connector.id == turned,
        "form": mine or PlugForm(job, initial=PlugForm.of(connector), auto_id=f"plug-{index}-%s"),
        "open": mine is not None,
    }


def _asks_for(form: PinForm | None, display: Display, pin: Pin) -> bool:
    return form is not None and (form.data.get("display"), form.data.get("pin")) == (display.id, pin.id)


def _row(row: Row) -> Translated:
    return {
        "row": row,
        "old": colour_words(row.cavity.colour, row.cavity.stripe, row.cavity.stripe_2),
        "function": function_words(row.cavity.function),
        "new": colour_words(row.pin.colour) if row.pin else "",
    }


def _pinouts(job: Job) -> list[Pinout]:
    """Each display's pins with the wire on each and where it goes."""
    found: list[Pinout] = []
    for display in job.displays:
        rows: list[PinoutRow] = []
        for pin in display.pins:
            here = End("display", display.id, pin.id)
            wires = topology_of(job).wires_at(here)
            rows.append(
                {
                    "pin": pin,
                    "function": function_words(function_of(pin)),
                    "wires": [(w, end_words(job, w.b if w.a == here else w.a)) for w in wires],
                }
            )
        found.append({"display": display, "rows": rows})
    return found


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """A plug: one more, or what is known of one."""
    record, form = (
        record_for(request, job),
        PlugForm(
            look_for(request, record_for(request, job)).job,
            request.POST,
            auto_id=field_ids("plug", request.POST.get("id", "")),
        ),
    )
    if kept(
        request,
        record,
        form,
        lambda before: acts.set_plug(before, dict(form.cleaned_data)),
        {"pin": "cavities", "column": "cavities", "row": "cavities"},
    ):
        return redirect("harness:plugs", job)
    look = look_for(request, record)
    return show_page(request, "harness/plugs.html", record, look, "harness", 422, **_context(look, plug=form))


@require_POST
def remove(request: Request, job: int) -> HttpResponse:
    """Take a plug off, with the wires that end on it."""
    key = request.POST.get("plug", "")
    return act(request, job, lambda before: acts.remove_plug(before, key), "harness:plugs")


@require_POST
def pin_save(request: Request, job: int) -> HttpResponse:
    """What a lamp input waits for, or what an output drives."""
    record = record_for(request, job)
    look = look_for(request, record)
    display = look.job.display(request.POST.get("display", ""))
    pin = next((p for p in display.pins if p.id == request.POST.get("pin")), None) if display else None
    if display is None or pin is None or pin.role not in ("lamp_input", "output"):
        messages.error(request, "There is no such lamp input or output.")
        return redirect("harness:plugs", job)
    form = PinForm(pin, request.POST, initial=PinForm.of(display, pin))
    if kept(
        request, record, form, lambda before: acts.describe_pin(before, display.id, pin, form.cleaned_data)
    ):
        return redirect(page_at("harness:plugs", job) + "#lamps")
    return show_page(
        request, "harness/plugs.html", record, look, "harness", 422, **_context(look, pin_form=form)
    )


@takes_files(MOST_BYTES / 1e6)
@require_POST
def bus_save(request: Request, job: int) -> HttpResponse:
    """What was measured on the pair; the signals of a description."""
    record, form = record_for(request, job), BusForm(request.POST, request.FILES)
    if form.is_valid():
        clean = form.cleaned_data
        try:
            signals = None
            if clean["file"]:
                name, text = clean["file"]
                signals = done_apart("description", text)
            facts = {field: clean[field] for field in ("pair_ohm", "tapped_at", "stub_m", "bitrate_kbit")}
            if signals is not None:
                facts |= {"signals": signals, "description": name[:120]}
            carry_out(request, record, lambda before: acts.set_bus(before, facts))
            if signals is not None:
                messages.success(request, f"{len(signals)} signals read.")
            return redirect(page_at("harness:plugs", job) + "#bus")
        except BadInput as fault:
            refuse(form, fault, {"description": "file"})
    look = look_for(request, record)
    return show_page(request, "harness/plugs.html", record, look, "harness", 422, **_context(look, bus=form))


@require_POST
def signal(request: Request, job: int) -> HttpResponse:
    """Which signal of the bus brings a channel."""
    key, name = request.POST.get("channel", ""), request.POST.get("signal", "")
    return act(request, job, lambda before: acts.choose_signal(before, key, name), "harness:plugs")


@require_safe
@page_of_job
def pins_file(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The pin-out of every display as CSV."""
    rows = [
        [
            table["display"].id,
            row["pin"].id,
            row["pin"].name,
            row["function"],
            row["pin"].colour,
            wire.id if wire else "",
            to,
        ]
        for table in _pinouts(look.job)
        for row in table["rows"]
        for wire, to in (*row["wires"], *([] if row["wires"] else [(None, "")]))
    ]
    return csv_answer(
        f"{record.name or 'job'} pin-outs",
        ["display", "pin", "name", "function", "colour", "wire", "to"],
        rows,
    )
