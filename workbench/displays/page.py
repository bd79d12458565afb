"""What the page of a display shows."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, TypedDict

from django.http import Http404, HttpResponse

from metrolex.acts.boxes import free_outputs
from metrolex.harness.cut_list import end_words
from metrolex.job import Conductor, Display, End, Input, Job, MeasuringChain, Output, Pin
from metrolex.kit import all_box_kits, all_display_kits, measurand_facts
from metrolex.scaling.inputs import inputs_for
from metrolex.senders import x_range, y_at
from metrolex.topology import topology_of
from metrolex.twin.moments import Moment, moments
from workbench.displays.forms import GIVES, KINDS, ROLES, DisplayForm, InputForm, OutputForm, PinForm
from workbench.jobs.fields import field_ids
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import page_at, show_page
from workbench.library.parts import own_displays
from workbench.request import Request

__all__ = ["display_named", "display_or_404", "show_display"]


AnyForm = DisplayForm | PinForm | InputForm | OutputForm


class PinRow(TypedDict):
    """A pin, the wires on it with where each goes, the input that reads there; its form where it is open, else its address."""

    pin: Pin
    role: str
    wires: list[tuple[Conductor, str]]
    reads: Input | None
    form: PinForm | None
    form_at: str


class InputRow(TypedDict):
    """An input and what is read there; its form where it is open, else its address."""

    stage: Input
    reads: str
    pin: Pin | None
    channels: list[MeasuringChain]
    form: InputForm | None
    form_at: str


class OutputRow(TypedDict):
    """An output, what it tells, its law at both ends, who reads it; its form where it is open, else its address."""

    output: Output
    tells: str
    gives: str
    law: tuple[tuple[float, float], tuple[float, float]]
    pin: Pin | None
    channels: list[MeasuringChain]
    form: OutputForm | None
    form_at: str


class ReadBy(TypedDict):
    """A channel that is read by this box, or could be: the inputs its sender may sit at, the outputs it may be read from."""

    channel: MeasuringChain
    now: bool
    inputs: list[Input]
    outputs: list[Output]


class Assignment(TypedDict):
    """Where a channel is read, and where else it may be."""

    channel: MeasuringChain
    options: list[dict[str, Any]]
    free: bool


class DisplayPage(TypedDict, total=False):
    """One display."""

    tab: str
    display: Display | None
    head: DisplayForm
    pins: list[PinRow]
    new_pin: PinForm
    inputs: list[InputRow]
    new_input: InputForm
    outputs: list[OutputRow]
    new_output: OutputForm
    read_by: list[ReadBy]
    moments: list[tuple[MeasuringChain, tuple[Moment, ...]]]
    assignments: list[Assignment]
    library: list[str]


def show_display(
    request: Request,
    record: JobRecord,
    look: Look,
    display: Display | None,
    refused: AnyForm | None = None,
    opened: AnyForm | None = None,
) -> HttpResponse:
    """The page of one display; a form that was ``refused`` stands on it as it was typed, one that was ``opened`` is open."""
    context: DisplayPage = {
        "tab": "displays",
        "display": display,
        "library": [*own_displays(request.workshop), *all_display_kits(), *all_box_kits()],
    }
    if display is not None:
        context |= _of(record, look, display, refused or opened)
    return show_page(
        request, "displays/show.html", record, look, "harness", 422 if refused else 200, **context
    )


def display_or_404(job: Job, key: str) -> Display | None:
    """A display of the job, the first for '', None where there is none yet; 404 for any other."""
    if not key:
        return job.displays[0] if job.displays else None
    return display_named(job, key)


def display_named(job: Job, key: str) -> Display:
    """A display of the job; 404 for any other."""
    found = job.display(key)
    if found is None:
        raise Http404
    return found


def _of(record: JobRecord, look: Look, display: Display, form: AnyForm | None) -> DisplayPage:
    job = look.job
    pin_form = form if isinstance(form, PinForm) else None
    input_form = form if isinstance(form, InputForm) else None
    output_form = form if isinstance(form, OutputForm) else None
    at_pin, at_input, at_output = (
        _key(pin_form, "pin"),
        _key(input_form, "input"),
        _key(output_form, "output"),
    )
    pins = {pin.id for pin in display.pins}
    inputs = {stage.id for stage in display.inputs}
    return {
        "head": form if isinstance(form, DisplayForm) else DisplayForm(initial=DisplayForm.of(display)),
        "pins": [
            _pin(record, job, display, pin, pin_form if at_pin == pin.id else None) for pin in display.pins
        ],
        "new_pin": pin_form if pin_form and at_pin not in pins else PinForm(auto_id=field_ids("pin")),
        "inputs": [
            _input(record, job, display, stage, input_form if at_input == stage.id else None)
            for stage in display.inputs
        ],
        "new_input": input_form if input_form and at_input not in inputs else InputForm.new(display),
        "outputs": [
            _output(record, job, display, output, output_form if at_output == output.id else None)
            for output in display.outputs
        ],
        "new_output": output_form
        if output_form and display.output_called(at_output) is None
        else OutputForm.new(display),
        "read_by": list(_read_by(job, display)) if display.outputs else [],
        "moments": [
            (chain, found)
            for chain in job.measured
            if chain.box == display.id and (found := moments(look.network, chain))
        ],
        "assignments": [_assignment(job, chain) for chain in job.chains if chain.display == display.id],
    }


def _key(form: PinForm | InputForm | OutputForm | None, name: str) -> str:
    return str(form[name].value() or "") if form is not None else ""


def _pin(record: JobRecord, job: Job, display: Display, pin: Pin, form: PinForm | None) -> PinRow:
    here = End("display", display.id, pin.id)
    wires = topology_of(job).wires_at(here)
    return {
        "pin": pin,
        "role": ROLES[pin.role],
        "wires": [(wire, end_words(job, wire.b if wire.a == here else wire.a)) for wire in wires],
        "reads": next((stage for stage in display.inputs if stage.pin == pin.id), None),
        "form": form,
        "form_at": page_at("displays:pin_form", record.pk, display=display.id, pin=pin.id),
    }


def _input(record: JobRecord, job: Job, display: Display, stage: Input, form: InputForm | None) -> InputRow:
    return {
        "stage": stage,
        "reads": KINDS[stage.kind],
        "pin": display.pin_called(stage.pin),
        "channels": [c for c in job.chains if (c.display, c.input) == (display.id, stage.id)],
        "form": form,
        "form_at": page_at("displays:input_form", record.pk, display=display.id, input=stage.id),
    }


def _output(
    record: JobRecord, job: Job, display: Display, output: Output, form: OutputForm | None
) -> OutputRow:
    low, high = x_range(output.curve)
    at = y_at(output.curve, [low, high])
    return {
        "output": output,
        "tells": measurand_facts(output.measurand).name if output.measurand else "",
        "gives": GIVES[output.curve.x_unit],
        "law": ((low, float(at[0])), (high, float(at[1]))),
        "pin": display.pin_called(output.pin),
        "channels": [c for c in job.measured if (c.box, c.output) == (display.id, output.id)],
        "form": form,
        "form_at": page_at("displays:output_form", record.pk, display=display.id, output=output.id),
    }


def _read_by(job: Job, box: Display) -> Iterator[ReadBy]:
    for chain in job.measured:
        outputs = [output for one, output in free_outputs(job, chain) if one.id == box.id]
        now = chain.box == box.id
        if now or outputs:
            taken = {c.box_input for c in job.chains if c.box == box.id and c.channel != chain.channel}
            inputs = [stage for stage in box.inputs if stage.id not in taken] if chain.sender else []
            yield {"channel": chain, "now": now, "inputs": inputs, "outputs": outputs}


def _assignment(job: Job, channel: MeasuringChain) -> Assignment:
    """Where a channel is read, and where else it may be."""
    options = [
        {
            "value": f"{d.id}|{i.id}",
            "here": (d.id, i.id) == (channel.display, channel.input),
            "words": f"{d.name}, input {i.id}{f', pin {i.pin}' if i.pin else ''}: {KINDS[i.kind]}",
        }
        for d, i in inputs_for(job, channel)
    ]
    return {"channel": channel, "options": options, "free": not any(o["here"] for o in options)}
