"""Whose reference a reading stands on: whether the display's reference may be off without the reading being so."""

from __future__ import annotations

from metrolex.job import Display, End, Job, MeasuringChain
from metrolex.topology import at_pin, at_terminal, topology_of

__all__ = ["cancels", "fed_by_its_display"]


def cancels(job: Job, channel: MeasuringChain) -> bool:
    """Whether an error of the display's reference leaves the reading as it is: what it gives and what it counts by move together."""
    sender, stage = job.heard(channel), job.input_of(channel)
    if sender is None or stage is None or not stage.converter.ratiometric:
        return False
    return stage.kind == "pull_up" or (sender.output.ratiometric and fed_by_its_display(job, channel))


def fed_by_its_display(job: Job, channel: MeasuringChain) -> bool:
    """Whether a three-wire sender hangs on the sensor supply of the display that reads it, or will, none being wired yet."""
    sender, display = job.sender(channel.sender), job.display(channel.display)
    if channel.box is not None:
        return False  # a box has a reference of its own
    if sender is None or display is None or sender.wires != 3 or display.pin_for("sensor_supply") is None:
        return False
    joined = topology_of(job).joined(at_terminal(sender, "supply"))
    return len(joined) == 1 or any(_is_supply_of(display, end) for end in joined)


def _is_supply_of(display: Display, end: End) -> bool:
    return any(at_pin(display, pin) == end for pin in display.pins if pin.role == "sensor_supply")
