"""What a display hears of a chain: its sender, the output of the box between, or the volts on a line somebody else reads."""

from __future__ import annotations

import functools

import numpy as np

from metrolex.job.display import Display, Output
from metrolex.job.sender import Reader, Sender, SenderOutput
from metrolex.senders import TableCurve, is_monotonic, x_at, y_range

__all__ = ["as_sender", "on_the_line_of"]

ROWS = 33  # of a law turned from ohms to volts


def as_sender(box: Display, output: Output) -> Sender:
    """An output of a box as the display takes it: a fed sender with the output's curve and tolerance, and a reference of its own."""
    ignition = box.pin_for("ignition")
    return Sender(
        f"{box.id} {output.id}",
        f"{box.name}, {output.name or output.id}",
        output.curve,
        output.tolerance,
        2 if output.curve.x_unit == "ohm" else 3,
        SenderOutput(box.supply.nominal_v, ignition.load_a if ignition else 0.0, output.output_ohm, False),
    )


@functools.lru_cache(maxsize=64)
def on_the_line_of(sender: Sender, reader: Reader) -> Sender:
    """A resistance as whoever reads volts beside its reader takes it: the volts the reader's pull-up makes of it.

    The sender itself where it is none, or where its curve turns back.
    """
    if sender.curve.x_unit != "ohm" or not is_monotonic(sender.curve):
        return sender
    y = np.linspace(*y_range(sender.curve), ROWS)
    ohm = x_at(sender.curve, y)
    volts = reader.reference_v * ohm / (ohm + reader.pull_up_ohm)
    points = tuple(sorted(zip(map(float, volts), map(float, y), strict=True)))
    curve = TableCurve(points, "volt", sender.curve.y_unit, "pchip")
    return Sender(
        sender.id,
        sender.name,
        curve,
        sender.tolerance,
        3,
        SenderOutput(reader.reference_v, 0.0, ratiometric=False),
    )
