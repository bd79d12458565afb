"""How far the number on the face is from the curve: table, converter and rounding, by the nominal parts."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.inputs.stage import ohm_from_volts, quantised, volts_from_ohm
from metrolex.job import Channel, Input, Sender
from metrolex.quantities import in_unit, rounded
from metrolex.scaling.reading import ends
from metrolex.scaling.table import look_up
from metrolex.senders import is_monotonic, x_at, y_range

__all__ = ["ErrorStrip", "table_error"]

SAMPLES = 241


@dataclass(frozen=True, slots=True)
class ErrorStrip:
    """Error over the range both sender and face cover: true values and shown less true, in the channel's unit.

    Both arrays have shape (241,); empty where the two ranges do not meet.
    """

    true: NDArray[np.float64]
    error: NDArray[np.float64]

    @property
    def largest(self) -> float:
        return float(np.abs(self.error).max()) if self.error.size else float("nan")


def table_error(channel: Channel, sender: Sender, stage: Input) -> ErrorStrip | None:
    """The error strip of a channel, None while there is no table or the curve cannot be inverted."""
    table = channel.scaling.table
    if not table or not is_monotonic(sender.curve):
        return None
    low, high = ends(channel.scaling)
    reach = sorted(in_unit(y, sender.curve.y_unit, channel.unit) for y in y_range(sender.curve))
    start, stop = (
        max(reach[0], low if low is not None else reach[0]),
        min(reach[1], high if high is not None else reach[1]),
    )
    if start >= stop:
        return ErrorStrip(np.empty(0), np.empty(0))
    true = np.linspace(start, stop, SAMPLES)
    inner = np.array([in_unit(value, channel.unit, sender.curve.y_unit) for value in true])
    x = x_at(sender.curve, np.clip(inner, *y_range(sender.curve)))
    shown = look_up(table, _seen(x, channel, stage))
    shown = np.array([rounded(value, channel.scaling.decimals) for value in shown])
    return ErrorStrip(true, shown - true)


def _seen(x: NDArray[np.float64], channel: Channel, stage: Input) -> NDArray[np.float64]:
    """The table's x for sender outputs ``x`` through an ideal input of nominal parts."""
    volts = x
    if stage.kind == "pull_up" and stage.pull_up_ohm and stage.reference_v:
        volts = volts_from_ohm(x, stage.pull_up_ohm, stage.reference_v)
    if stage.adc_bits and stage.reference_v:
        volts = quantised(volts, stage.reference_v, stage.adc_bits)
    if channel.scaling.x_unit == "ohm" and stage.pull_up_ohm and stage.reference_v:
        return ohm_from_volts(volts, stage.pull_up_ohm, stage.reference_v)
    return volts
