"""Whose reference a reading stands on: whether the display's reference may be off without the reading being so."""

from __future__ import annotations

from metrolex.job import Channel, Display, End, Job

__all__ = ["cancels", "fed_by_its_display"]


def cancels(job: Job, channel: Channel) -> bool:
    """Whether an error of the display's reference leaves the reading as it is: what it gives and what it counts by move together."""
    sender, stage = job.sender(channel.sender), job.input_of(channel)
    if sender is None or stage is None or not stage.ratiometric:
        return False
    return stage.kind == "pull_up" or (sender.ratiometric and fed_by_its_display(job, channel))


def fed_by_its_display(job: Job, channel: Channel) -> bool:
    """Whether a three-wire sender hangs on the sensor supply of the display that reads it, or will, none being wired yet."""
    sender, display = job.sender(channel.sender), job.display(channel.display)
    if sender is None or display is None or sender.wires != 3 or display.pin_for("sensor_supply") is None:
        return False
    joined = _joined_to(job, End("sender", sender.id, "supply"))
    return len(joined) == 1 or any(_is_supply_of(display, end) for end in joined)


def _is_supply_of(display: Display, end: End) -> bool:
    return (
        end.kind == "display"
        and end.id == display.id
        and any(pin.id == end.terminal and pin.role == "sensor_supply" for pin in display.pins)
    )


def _joined_to(job: Job, start: End) -> set[End]:
    """Every end that wires join to one, itself included."""
    found, new = {start}, {start}
    while new:
        ends = [(wire.a, wire.b) for wire in job.conductors]
        new = {b if a in new else a for a, b in ends if (a in new) != (b in new)} - found
        found |= new
    return found
