"""Which inputs a channel may be read at, and what rides on its pulses."""

from __future__ import annotations

from typing import cast, get_args

from metrolex.job import Display, Input, Job, MeasuringChain, Sender
from metrolex.job.readout import XUnit

__all__ = ["inputs_for", "riders", "x_unit_of"]


def inputs_for(job: Job, channel: MeasuringChain) -> list[tuple[Display, Input]]:
    """The inputs a channel may be read at: free ones, its own, and for what rides on pulses the one that counts them."""
    sender = job.heard(channel)
    rides = sender is not None and sender.rides
    held = {
        (c.display, c.input)
        for c in job.chains
        if c.id != channel.id
        and not rides
        and not job.by_turns(channel, c)
        and not ((s := job.heard(c)) and s.rides)
    }
    return [
        (d, i)
        for d in job.displays
        for i in d.inputs
        if d.face and (i.kind == "data" or (d.id, i.id) not in held)
    ]


def x_unit_of(sender: Sender) -> XUnit:
    """The unit of a table's x for what a sender gives."""
    unit = sender.curve.x_unit
    return cast(XUnit, unit) if unit in get_args(XUnit) else "ohm"


def riders(job: Job, carrier: MeasuringChain) -> list[MeasuringChain]:
    """The channels read off the pulses of another."""
    return [
        c
        for c in job.chains
        if c.id != carrier.id
        and (c.display, c.input) == (carrier.display, carrier.input)
        and (s := job.heard(c))
        and s.rides
    ]
