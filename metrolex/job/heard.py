"""What a display hears of a chain: its sender, or the output of the box between."""

from __future__ import annotations

from metrolex.job.display import Display, Output
from metrolex.job.sender import Sender, SenderOutput

__all__ = ["as_sender"]


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
