"""Which channel is read at which input of which display: moved to another, or to one that takes its sender."""

from __future__ import annotations

from dataclasses import replace
from itertools import count

from metrolex.errors import BadInput
from metrolex.job import Conductor, Display, End, Job, MeasuringChain, Sender
from metrolex.kit import all_display_kits
from metrolex.scaling.check import INPUT_FOR
from metrolex.scaling.counting import carrier_of
from metrolex.scaling.inputs import inputs_for, riders, x_unit_of
from metrolex.senders import ThermocoupleCurve
from metrolex.topology import comes_from, topology_of

__all__ = ["assigned", "read_at"]


def read_at(job: Job, channel_id: str, display_id: str, input_id: str) -> Job:
    """A channel read at another input; wires straight from its sender to the old pin go along, and what rides on its pulses.

    A gauge nothing is shown on any more goes, unless it is wired. Raises BadInput for a channel or an input that is not
    there or not free.
    """
    channel = job.chain(channel_id)
    if channel is None:
        raise BadInput("channel", channel_id, ", ".join(c.id for c in job.chains))
    offered = {(d.id, i.id): i for d, i in inputs_for(job, channel)}
    stage, before = offered.get((display_id, input_id)), job.input_of(channel)
    if stage is None:
        raise BadInput(
            "input",
            f"{display_id} {input_id}",
            "a free input",
            f"Input {input_id} of {display_id} is not free, or not there.",
        )
    moved = job
    for each in (channel, *riders(job, channel)):
        moved = moved.with_chain(replace(each, display=display_id, input=input_id))
    if before is not None and before.pin and stage.pin:
        old, fresh = End("display", channel.display or "", before.pin), End("display", display_id, stage.pin)
        wires = tuple(_led_to(wire, comes_from(job, channel), old, fresh) for wire in job.conductors)
        moved = replace(moved, conductors=wires)
    return _without_idle(moved, channel.display)


def assigned(job: Job, channel_id: str) -> Job:
    """The job with a channel at an input that takes its sender, as far as one can be had without cutting a wire.

    A free input of its display, else of another with several; else a single gauge of its own that is not wired becomes one
    that takes it. What rides on pulses goes to the sender that sends them, whichever of the two was chosen first. A channel that
    finds none stays where it is: that is a finding. A table still empty is in what the sender gives.
    """
    channel = job.chain(channel_id)
    sender = job.heard(channel) if channel else None
    if channel is None or sender is None:
        return job
    if not channel.scaling.table:
        channel = replace(channel, scaling=replace(channel.scaling, x_unit=x_unit_of(sender)))
        job = job.with_chain(channel)
    job = _onto_carrier(job, channel) if sender.rides else _onto_fitting(job, channel, sender)
    if sender.curve.x_unit == "hertz":
        for other in job.chains:
            if (s := job.heard(other)) and s.rides and carrier_of(job, other) is None:
                job = _onto_carrier(job, other)
    return job


def _onto_carrier(job: Job, rider: MeasuringChain) -> Job:
    carrier = next((c for c in job.chains if (s := job.heard(c)) and s.curve.x_unit == "hertz"), None)
    if carrier is None or carrier.display is None or carrier.input is None:
        return job
    return read_at(job, rider.id, carrier.display, carrier.input)


def _onto_fitting(job: Job, channel: MeasuringChain, sender: Sender) -> Job:
    takes, stage = INPUT_FOR.get(sender.curve.x_unit, ()), job.input_of(channel)
    if stage is None:
        return job
    box = job.display(channel.box)
    if box is not None and box.by_data(box.output_called(channel.output)):
        takes = ("data",)
    free = [(d, i) for d, i in inputs_for(job, channel) if i.kind in takes and _open_to(job, channel, d)]
    if any((d.id, i.id) == (channel.display, channel.input) for d, i in free):
        return job
    free.sort(key=lambda place: place[0].id != channel.display)
    if free:
        display, fitting = free[0]
        return read_at(job, channel.id, display.id, fitting.id)
    return _other_gauge(job, channel, sender, takes)


def _open_to(job: Job, channel: MeasuringChain, display: Display) -> bool:
    """A dash takes any channel; a single gauge only its own."""
    return len(display.inputs) > 1 or display.id == channel.display


def _other_gauge(job: Job, channel: MeasuringChain, sender: Sender, takes: tuple[str, ...]) -> Job:
    """A generic gauge that takes the sender: in place of the channel's own, or one more where that shows another channel too."""
    display = job.display(channel.display)
    single = (d for d in all_display_kits().values() if len(d.inputs) == 1)
    kit = next((d for d in single if d.inputs[0].kind in takes), None)
    if display is None or kit is None or len(display.inputs) > 1 or display.id in _wired(job):
        return job
    stage = kit.inputs[0]
    if isinstance(sender.curve, ThermocoupleCurve):
        stage = replace(stage, thermocouple_type=sender.curve.type)
    riding = {rider.id for rider in riders(job, channel)}
    if any(c.display == display.id for c in job.chains if c.id != channel.id and c.id not in riding):
        key = next(name for n in count(1) if job.display(name := f"gauge {n}") is None)
        gauge = replace(kit, id=key, name=f"{channel.name} gauge", inputs=(stage,))
        job = replace(job, displays=(*job.displays, gauge))
    else:
        gauge = replace(kit, id=display.id, name=display.name, inputs=(stage,))
        job = replace(job, displays=tuple(gauge if d.id == display.id else d for d in job.displays))
    return job.with_chain(replace(channel, display=gauge.id, input=stage.id))


def _led_to(wire: Conductor, source: End | None, old: End, fresh: End) -> Conductor:
    """A wire from where a signal comes from to the pin it was read at, led to another pin."""
    if (wire.a, wire.b) == (old, source):
        return replace(wire, a=fresh)
    if (wire.b, wire.a) == (old, source):
        return replace(wire, b=fresh)
    return wire


def _wired(job: Job) -> set[str]:
    return {end.id for end in topology_of(job).ends if end.kind == "display"}


def _without_idle(job: Job, display_id: str | None) -> Job:
    if display_id in _wired(job) or any(channel.display == display_id for channel in job.chains):
        return job
    return replace(job, displays=tuple(d for d in job.displays if d.id != display_id))
