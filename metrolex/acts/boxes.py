"""What stands between a sender and its display: a box put there, taken away, and its other outputs read."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from metrolex.acts.edit import channel_called, free_id
from metrolex.acts.inputs import assigned
from metrolex.errors import BadInput
from metrolex.job import Display, Input, Job, MeasuringChain, Output, Sender
from metrolex.job.references import without
from metrolex.quantities import in_unit
from metrolex.scaling.check import INPUT_FOR
from metrolex.scaling.fitted import refitted
from metrolex.topology import comes_from, topology_of

__all__ = ["free_outputs", "put_between", "read_by", "read_output", "take_between"]


def put_between(job: Job, channel_id: str, box: Display) -> Job:
    """A box between a channel's sender and its display, by the input that takes the sender and the output that tells what is shown.

    One that is there already goes first. Raises BadInput for a box that takes no such sender or tells something else.
    """
    channel = channel_called(job, channel_id)
    sender = job.sender(channel.sender)
    if sender is None:
        raise BadInput("box", box.name, "a chosen sender", "Choose the sender first.")
    stage, output = _input_for(box, sender), _output_for(box, channel)
    if stage is None:
        raise BadInput(
            "box", box.name, "a box that takes this sender", f"{box.name} has no input for '{sender.name}'."
        )
    if output is None:
        raise BadInput(
            "box",
            box.name,
            "a box that tells what is shown",
            f"{box.name} has no output for {channel.name.lower()}.",
        )
    job = take_between(job, channel_id)
    key = free_id("box 1", (display.id for display in job.displays))
    called = {display.name for display in job.displays}
    name = free_id(f"{box.name} 2", called) if box.name in called else box.name
    job = replace(job, displays=(*job.displays, replace(box, id=key, name=name)))
    channel = channel_called(job, channel_id)
    job = _without_wires_between(job, channel)
    job = job.with_chain(replace(channel, box=key, box_input=stage.id, output=output.id))
    runs = tuple(
        replace(run, name=f"{channel.name} sender to {name}")
        if run.id == channel.run and run.name == f"{channel.name} sender to its gauge"
        else run
        for run in job.runs
    )
    job = replace(job, runs=runs)
    return refitted(assigned(job, channel_id), channel_id)


def read_by(job: Job, channel_id: str, box_id: str, input_id: str, output_id: str) -> Job:
    """A channel's sender at an input of a box of the job, its reading from one of the outputs. Raises BadInput."""
    channel = channel_called(job, channel_id)
    if not input_id:
        return read_output(job, channel_id, box_id, output_id)
    box, sender = job.display(box_id), job.sender(channel.sender)
    stage = box.input_called(input_id) if box else None
    if box is None or stage is None:
        raise BadInput("box_input", input_id, "an input of the box")
    if sender is None:
        raise BadInput("channel", channel_id, "a channel with a sender", "Choose its sender first.")
    if stage.kind not in (*INPUT_FOR.get(sender.curve.x_unit, ()), "own_lead"):
        raise BadInput(
            "box_input",
            input_id,
            "an input that takes this sender",
            f"Input {input_id} of {box.name} does not read what '{sender.name}' gives.",
        )
    other = next(
        (
            c
            for c in job.chains
            if (c.box, c.box_input) == (box_id, input_id) and c.channel != channel.channel
        ),
        None,
    )
    if other is not None:
        raise BadInput("box_input", input_id, "a free input", f"{other.name} has its sender there already.")
    if not any((b.id, o.id) == (box_id, output_id) for b, o in free_outputs(job, channel)):
        raise BadInput("output", output_id, "a free output that tells what is shown")
    if (box_id, input_id, output_id) == (channel.box, channel.box_input, channel.output):
        return job
    if channel.box != box_id:
        job = take_between(job, channel_id)
    channel = channel_called(job, channel_id)
    job = _without_wires_between(job, channel)
    job = job.with_chain(replace(channel, box=box_id, box_input=input_id, output=output_id))
    return refitted(assigned(job, channel_id), channel_id)


def take_between(job: Job, channel_id: str) -> Job:
    """A channel without its box, the wires from and to it gone; the box goes too where no other channel is read by it."""
    channel = channel_called(job, channel_id)
    if channel.box is None:
        return job
    job = _without_wires_between(job, channel)
    job = job.with_chain(replace(channel, box=None, box_input=None, output=None))
    used = {chain.box for chain in job.chains}
    return job if channel.box in used else without(job, "displays", channel.box)


def free_outputs(job: Job, channel: MeasuringChain) -> Iterator[tuple[Display, Output]]:
    """Outputs of the job's boxes that tell what a channel shows and that no other channel is read from."""
    taken = {(chain.box, chain.output) for chain in job.chains if chain.channel != channel.channel}
    for box in job.displays:
        for output in box.outputs:
            if (box.id, output.id) not in taken and _tells(output, channel):
                yield box, output


def read_output(job: Job, channel_id: str, box_id: str, output_id: str) -> Job:
    """A channel read from an output of a box that is there, by the sensor another channel has. Raises BadInput."""
    channel = channel_called(job, channel_id)
    if (box_id, output_id) == (channel.box, channel.output):
        return job
    if not any((box.id, output.id) == (box_id, output_id) for box, output in free_outputs(job, channel)):
        raise BadInput("box", f"{box_id} {output_id}", "a free output that tells what is shown")
    job = take_between(job, channel_id)
    before = channel_called(job, channel_id)
    job = _without_wires_between(job, before)
    job = job.with_chain(
        replace(before, sender=None, port=None, run=None, box=box_id, box_input=None, output=output_id)
    )
    for field, kind in (("sender", "senders"), ("run", "runs")):
        key = getattr(before, field)
        if key is not None and key not in {getattr(chain, field) for chain in job.chains}:
            job = without(job, kind, key)
    return refitted(assigned(job, channel_id), channel_id)


def _without_wires_between(job: Job, channel: MeasuringChain) -> Job:
    """Without the wires from what the display hears to its input, and from the sender to its box."""
    display, stage = job.display(channel.display), job.input_of(channel)
    gone: list[str] = []
    leaves = comes_from(job, channel)
    if leaves is not None and display is not None and stage is not None:
        for wire in topology_of(job).wires_at(leaves):
            far = topology_of(job).far_end(wire, leaves)
            if (far.kind, far.id, far.terminal) == ("display", display.id, stage.pin):
                gone.append(wire.id)
    ends = {("sender", channel.sender or ""), ("display", channel.box or channel.display or "")}
    gone += [
        wire.id
        for wire in job.conductors
        if channel.sender and {(wire.a.kind, wire.a.id), (wire.b.kind, wire.b.id)} == ends
    ]
    return without(job, "conductors", *gone)


def _input_for(box: Display, sender: Sender) -> Input | None:
    takes = INPUT_FOR.get(sender.curve.x_unit, ())
    fitting = (stage for stage in box.inputs if stage.kind in takes or stage.kind == "own_lead")
    return next(fitting, None)


def _output_for(box: Display, channel: MeasuringChain) -> Output | None:
    return next((output for output in box.outputs if _tells(output, channel)), None)


def _tells(output: Output, channel: MeasuringChain) -> bool:
    if output.measurand is not None:
        return output.measurand == channel.measurand
    try:
        in_unit(0.0, output.curve.y_unit, channel.unit)
    except BadInput:
        return False
    return True
