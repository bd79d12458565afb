"""What is changed at a display: which channel is read at which input, and what its maker says of it."""

from __future__ import annotations

from dataclasses import replace

from metrolex.errors import BadInput
from metrolex.job import Channel, Conductor, Display, End, Input, Job
from workbench.jobs.services import channel_called, display_called, replaced, without_idle

__all__ = ["describe_as", "inputs_for", "read_at", "with_input"]


def with_input(job: Job, display_id: str, stage: Input) -> Job:
    """The job with an input of a display as it was described anew."""
    display = display_called(job, display_id)
    inputs = tuple(stage if i.id == stage.id else i for i in display.inputs)
    return replace(job, displays=replaced(job.displays, replace(display, inputs=inputs)))


def inputs_for(job: Job, channel: Channel) -> list[tuple[Display, Input]]:
    """The inputs a channel may be read at: free ones, its own, and for what rides on pulses the one that counts them."""
    sender = job.sender(channel.sender)
    rides = sender is not None and sender.rides
    held = {
        (c.display, c.input) for c in job.channels
        if c.id != channel.id and not rides and not ((s := job.sender(c.sender)) and s.rides)
    }  # fmt: skip
    return [(d, i) for d in job.displays for i in d.inputs if i.kind == "data" or (d.id, i.id) not in held]


def read_at(job: Job, channel_id: str, display_id: str, input_id: str) -> Job:
    """A channel read at another input; wires straight from its sender to the old pin go along, and what rides on its pulses.

    Raises BadInput.
    """
    channel = channel_called(job, channel_id)
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
    for each in (channel, *_riders(job, channel)):
        moved = moved.with_channel(replace(each, display=display_id, input=input_id))
    if before is not None and before.pin and stage.pin:
        old, fresh = End("display", channel.display or "", before.pin), End("display", display_id, stage.pin)
        moved = replace(
            moved, conductors=tuple(_led_to(wire, channel.sender, old, fresh) for wire in job.conductors)
        )
    return without_idle(moved, channel.display)


def _riders(job: Job, carrier: Channel) -> list[Channel]:
    return [
        c for c in job.channels
        if c.id != carrier.id and (c.display, c.input) == (carrier.display, carrier.input) and (s := job.sender(c.sender)) and s.rides
    ]  # fmt: skip


def _led_to(wire: Conductor, sender_id: str | None, old: End, fresh: End) -> Conductor:
    for here, there in (("a", "b"), ("b", "a")):
        far = getattr(wire, there)
        if getattr(wire, here) == old and (far.kind, far.id) == ("sender", sender_id):
            return replace(wire, **{here: fresh})
    return wire


def describe_as(job: Job, display_id: str, name: str, other: Display) -> Job:
    """A display of the library described onto one of the job, which keeps its name. Raises BadInput where what is in use would be lost."""
    display = display_called(job, display_id)
    used = {c.input for c in job.channels if c.display == display_id}
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
    fresh = replace(
        other, id=display.id, name=display.name, firmware=display.firmware, set_up_on=display.set_up_on
    )
    return replace(job, displays=replaced(job.displays, fresh))
