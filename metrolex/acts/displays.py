"""What is changed at a display: its pins and inputs, one more or one less, what its maker says of each, or of the whole of it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import is_dataclass, replace
from types import MappingProxyType
from typing import Any

from metrolex.acts.edit import display_called, free_id, replaced
from metrolex.errors import BadInput
from metrolex.intake import dump, read
from metrolex.job import Display, End, Input, Job, Output, Pin, Setting, SetUp
from metrolex.job.display import OUTPUT_ROLES
from metrolex.job.record import TestRef
from metrolex.job.references import without
from metrolex.job.within import placed, replaced_within
from metrolex.scaling.menu import entry_name, entry_named

__all__ = [
    "add_display",
    "describe_as",
    "set_display",
    "set_input",
    "set_output",
    "set_pin",
    "take_display",
    "take_input",
    "take_output",
    "take_pin",
]


def add_display(job: Job, name: str, library: Mapping[str, Display], title: str = "") -> Job:
    """One more display, like one of the library; without anything on it where ``name`` is empty. Raises BadInput."""
    like = library.get(name) if name else Display("new", title.strip() or "none")
    if like is None:
        raise BadInput("name", name, "a display of the library")
    if not name and not title.strip():
        raise BadInput("title", title, "a name", "Give the empty display a name to know it by.")
    stem = "box 1" if not like.face else "dash" if len(like.inputs) > 1 else "gauge 1"
    key = free_id(stem, (display.id for display in job.displays))
    fresh = replace(like, id=key, name=title.strip() or like.name, set_up=SetUp())
    return replace(job, displays=(*job.displays, fresh))


def take_display(job: Job, display_id: str) -> Job:
    """The job without a display, its plugs' pins free and the wires that end on it gone. Raises BadInput while something is shown on it."""
    display = display_called(job, display_id)
    shown = [chain.name for chain in job.chains if chain.display == display_id]
    heard = [chain.name for chain in job.chains if chain.box == display_id]
    if heard:
        raise BadInput(
            "display",
            display_id,
            "a box nothing is read by",
            f"{_listed(heard)} {'is' if len(heard) == 1 else 'are'} read by {display.name}: take it out from between first.",
        )
    if shown:
        raise BadInput(
            "display",
            display_id,
            "a display nothing is shown on",
            f"{_listed(shown)} {'is' if len(shown) == 1 else 'are'} shown on {display.name}: read {'it' if len(shown) == 1 else 'them'} elsewhere first.",
        )
    return without(job, "displays", display_id)


def set_display(job: Job, display_id: str, facts: Mapping[str, Any]) -> Job:
    """The named facts of a display; every other as it stands. Raises BadInput."""
    return _with(job, replaced_within(display_called(job, display_id), facts))


def set_pin(job: Job, display_id: str, pin_id: str, facts: Mapping[str, Any]) -> Job:
    """The named facts of a pin, a new one for ''. Wires, its input and what was seen there follow a pin to its new number. Raises BadInput."""
    display = display_called(job, display_id)
    pin = display.pin_called(pin_id)
    if pin is None and pin_id:
        raise BadInput("pin", pin_id, ", ".join(one.id for one in display.pins))
    fresh = read(Pin, (dump(pin) if pin else {"name": ""}) | dict(facts))
    _refuse_twice("id", fresh.id, pin_id, (one.id for one in display.pins), f"pin of {display.name}")
    if pin is None:
        return _with(job, replace(display, pins=(*display.pins, fresh)))
    reads = next((stage for stage in display.inputs if stage.pin == pin_id), None)
    if reads is not None and fresh.role != "signal":
        raise BadInput(
            "role",
            fresh.role,
            "signal, while an input reads there",
            f"Input {reads.id} reads at this pin: take the input off, or let it read at another.",
        )
    gives = next((output for output in display.outputs if output.pin == pin_id), None)
    if gives is not None and fresh.role not in OUTPUT_ROLES:
        raise BadInput(
            "role",
            fresh.role,
            "signal out or data, while an output gives there",
            f"Output {gives.id} gives at this pin: take the output off, or let it give at another.",
        )
    pins = tuple(
        fresh if one.id == pin_id else replace(one, passes=fresh.id) if one.passes == pin_id else one
        for one in display.pins
    )
    inputs = tuple(replace(one, pin=fresh.id) if one.pin == pin_id else one for one in display.inputs)
    outputs = tuple(replace(one, pin=fresh.id) if one.pin == pin_id else one for one in display.outputs)
    job = _with(job, replace(display, pins=pins, inputs=inputs, outputs=outputs))
    return job if fresh.id == pin_id else _renumbered(job, display_id, pin_id, fresh.id)


def take_pin(job: Job, display_id: str, pin_id: str) -> Job:
    """The job without a pin, without the wires that end there and what was seen there. Raises BadInput while an input reads at it."""
    display = display_called(job, display_id)
    if display.pin_called(pin_id) is None:
        raise BadInput("pin", pin_id, ", ".join(pin.id for pin in display.pins))
    reads = next((stage for stage in display.inputs if stage.pin == pin_id), None)
    if reads is not None:
        raise BadInput(
            "pin",
            pin_id,
            "a pin no input reads at",
            f"Input {reads.id} reads at this pin: take the input off first, or let it read at another.",
        )
    gives = next((output for output in display.outputs if output.pin == pin_id), None)
    if gives is not None:
        raise BadInput(
            "pin",
            pin_id,
            "a pin no output gives at",
            f"Output {gives.id} gives at this pin: take the output off first, or let it give at another.",
        )
    here = End("display", display_id, pin_id)
    job = without(job, "conductors", *(wire.id for wire in job.conductors if here in (wire.a, wire.b)))
    seen = [one.id for one in job.observations if _at_pin(one.test, display_id, pin_id)]
    job = without(job, "observations", *seen)
    left = (pin for pin in display.pins if pin.id != pin_id)
    pins = tuple(replace(pin, passes="") if pin.passes == pin_id else pin for pin in left)
    return _with(job, replace(display, pins=pins))


def set_input(job: Job, display_id: str, input_id: str, facts: Mapping[str, Any]) -> Job:
    """The named facts of an input of a display, a new one for ''; what is read there follows it to its new name. Raises BadInput."""
    display = display_called(job, display_id)
    stage = display.input_called(input_id)
    if stage is None and input_id:
        raise BadInput("input", input_id, ", ".join(one.id for one in display.inputs))
    fresh = replaced_within(stage, facts) if stage else read(Input, placed(Input, facts))
    _refuse_twice("id", fresh.id, input_id, (one.id for one in display.inputs), f"input of {display.name}")
    _refuse_pin(display, fresh, input_id)
    if stage is None:
        return _with_inputs(job, display, (*display.inputs, fresh))
    inputs = tuple(fresh if one.id == input_id else one for one in display.inputs)
    job = _with_inputs(job, display, inputs, {input_id: fresh.id})
    readouts = tuple(
        replace(one, input=fresh.id) if (one.display, one.input) == (display_id, input_id) else one
        for one in job.readouts
    )
    sources = tuple(
        replaced_within(one, {"box_input": fresh.id})
        if (one.through.box, one.through.box_input) == (display_id, input_id)
        else one
        for one in job.sources
    )
    return job if fresh.id == input_id else replace(job, readouts=readouts, sources=sources)


def take_input(job: Job, display_id: str, input_id: str) -> Job:
    """The job without an input of a display. Raises BadInput while a channel is read there."""
    display = display_called(job, display_id)
    if display.input_called(input_id) is None:
        raise BadInput("input", input_id, ", ".join(one.id for one in display.inputs))
    places = {c.name: ((c.display, c.input), (c.box, c.box_input)) for c in job.chains}
    read_here = [name for name, both in places.items() if (display_id, input_id) in both]
    if read_here:
        raise BadInput(
            "input",
            input_id,
            "an input nothing is read at",
            f"{_listed(read_here)} {'is' if len(read_here) == 1 else 'are'} read here: move {'it' if len(read_here) == 1 else 'them'} to another input first.",
        )
    return _with_inputs(job, display, tuple(one for one in display.inputs if one.id != input_id))


def set_output(job: Job, display_id: str, output_id: str, facts: Mapping[str, Any]) -> Job:
    """The named facts of an output of a box, a new one for ''; what is read from it follows it to its new name. Raises BadInput."""
    display = display_called(job, display_id)
    output = display.output_called(output_id)
    if output is None and output_id:
        raise BadInput("output", output_id, ", ".join(one.id for one in display.outputs))
    plain = {name: dump(fact) if is_dataclass(fact) else fact for name, fact in facts.items()}
    fresh = read(Output, (dump(output) if output else {}) | plain)
    _refuse_twice("id", fresh.id, output_id, (one.id for one in display.outputs), f"output of {display.name}")
    pin = display.pin_called(fresh.pin)
    if pin is None or pin.role not in OUTPUT_ROLES:
        raise BadInput("pin", fresh.pin, "a pin of this box that gives a signal or data out")
    others = display.outputs if pin.role == "signal_out" else ()  # many numbers go over one pair
    other = next((one for one in others if one.pin == fresh.pin and one.id != output_id), None)
    if other is not None:
        raise BadInput(
            "pin",
            fresh.pin,
            "a pin no other output gives at",
            f"Output {other.id} gives at pin {fresh.pin} already.",
        )
    if output is None:
        return _with(job, replace(display, outputs=(*display.outputs, fresh)))
    outputs = tuple(fresh if one.id == output_id else one for one in display.outputs)
    sources = tuple(
        replaced_within(one, {"output": fresh.id})
        if (one.through.box, one.through.output) == (display_id, output_id)
        else one
        for one in job.sources
    )
    return replace(_with(job, replace(display, outputs=outputs)), sources=sources)


def take_output(job: Job, display_id: str, output_id: str) -> Job:
    """The job without an output of a box. Raises BadInput while a channel is read from it."""
    display = display_called(job, display_id)
    if display.output_called(output_id) is None:
        raise BadInput("output", output_id, ", ".join(one.id for one in display.outputs))
    heard = [c.name for c in job.chains if (c.box, c.output) == (display_id, output_id)]
    if heard:
        raise BadInput(
            "output",
            output_id,
            "an output nothing is read from",
            f"{_listed(heard)} {'is' if len(heard) == 1 else 'are'} read from it: take the box out from between first.",
        )
    return _with(job, replace(display, outputs=tuple(one for one in display.outputs if one.id != output_id)))


def _with_inputs(
    job: Job, before: Display, inputs: tuple[Input, ...], renamed: Mapping[str, str] = MappingProxyType({})
) -> Job:
    """What was typed in its set-up stays with its input: an entry is called after it where a display has several."""
    display = replace(before, inputs=inputs)

    def moved(setting: Setting) -> Setting:
        found = entry_named(before, setting.name) if setting.display == display.id else None
        if found is None:
            return setting
        key, entry = found
        return replace(setting, name=entry_name(display, renamed.get(key, key), entry))

    return replace(_with(job, display), settings=tuple(map(moved, job.settings)))


def _with(job: Job, display: Display) -> Job:
    return replace(job, displays=replaced(job.displays, display))


def _refuse_twice(field: str, key: str, before: str, taken: Iterable[str], what: str) -> None:
    if key != before and key in set(taken):
        raise BadInput(
            field,
            key,
            "each once",
            f"There is a{'n' if what[0] in 'aio' else ''} {what} called {key} already.",
        )


def _refuse_pin(display: Display, stage: Input, before: str) -> None:
    """An input reads at a signal pin of its own."""
    if stage.pin is None:
        return
    pin = display.pin_called(stage.pin)
    if pin is None or pin.role != "signal":
        raise BadInput("pin", stage.pin, "a signal pin of this display")
    other = next((one for one in display.inputs if one.pin == stage.pin and one.id != before), None)
    if other is not None:
        raise BadInput(
            "pin",
            stage.pin,
            "a pin no other input reads at",
            f"Input {other.id} reads at pin {stage.pin} already.",
        )


def _renumbered(job: Job, display_id: str, before: str, after: str) -> Job:
    old, new = End("display", display_id, before), End("display", display_id, after)
    wires = tuple(
        replace(wire, a=new if wire.a == old else wire.a, b=new if wire.b == old else wire.b)
        for wire in job.conductors
    )
    seen = tuple(
        replace(one, test=replace(one.test, pin=after)) if _at_pin(one.test, display_id, before) else one
        for one in job.observations
    )
    return replace(job, conductors=wires, observations=seen)


def _at_pin(test: TestRef, display_id: str, pin_id: str) -> bool:
    return (test.kind, test.id, test.what, test.pin) == ("display", display_id, "pin", pin_id)


def _listed(names: list[str]) -> str:
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def describe_as(job: Job, display_id: str, name: str, library: Mapping[str, Display]) -> Job:
    """A display of the library described onto one of the job, which keeps its name. Raises BadInput where what is in use would be lost."""
    display = display_called(job, display_id)
    other = library.get(name)
    if other is None:
        raise BadInput("name", name, "a display of the library")
    used = {c.input for c in job.chains if c.display == display_id}
    missing = used - {i.id for i in other.inputs} - {None}
    if missing:
        raise BadInput(
            "name",
            name,
            "a display with the inputs in use",
            f"'{name}' has no input {', '.join(sorted(map(str, missing)))}, which this job uses.",
        )
    ends = (end for wire in job.conductors for end in (wire.a, wire.b))
    wired = {end.terminal for end in ends if (end.kind, end.id) == ("display", display_id)}
    lost = wired - {p.id for p in other.pins}
    if lost:
        raise BadInput(
            "name",
            name,
            "a display with the pins in use",
            f"'{name}' has no pin {', '.join(sorted(lost))}, which is wired here.",
        )
    fresh = replace(other, id=display.id, name=display.name, set_up=display.set_up)
    return replace(job, displays=replaced(job.displays, fresh))
