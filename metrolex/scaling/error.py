"""How far the number on the face is from the curve: table, converter and rounding, by the nominal parts."""

from __future__ import annotations

import functools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.errors import BadInput
from metrolex.job import Input, MeasuringChain, Sender
from metrolex.quantities import in_unit, rounded
from metrolex.scaling.chain import Chain
from metrolex.scaling.suggest import shared_span
from metrolex.scaling.table import look_up
from metrolex.senders import is_monotonic, x_at, y_range
from metrolex.senders.thermocouple import emf_array, range_degc

__all__ = ["ErrorStrip", "chain_of", "in_curve_unit", "table_error"]

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


def table_error(channel: MeasuringChain, sender: Sender, stage: Input) -> ErrorStrip | None:
    """The error strip of a channel, None while there is no table or the curve cannot be inverted."""
    table = channel.scaling.table
    if not table or not is_monotonic(sender.curve):
        return None
    try:
        start, stop = shared_span(channel, sender)
    except BadInput:
        return ErrorStrip(np.empty(0), np.empty(0))
    true = np.linspace(start, stop, SAMPLES)
    chain = chain_of(channel, sender, stage)
    inner = np.clip(in_curve_unit(true, channel, sender), *y_range(sender.curve))
    shown = look_up(table, chain.seen(x_at(sender.curve, inner)))
    shown = np.array([rounded(value, channel.scaling.decimals) for value in shown])
    return ErrorStrip(true, shown - true)


def chain_of(
    channel: MeasuringChain,
    sender: Sender,
    stage: Input,
    wire_ohm: float = 0.0,
    ground_offset_v: float = 0.0,
    ratiometric: bool = False,
) -> Chain:
    """A channel's chain as plain numbers, its table in the unit of the sender's curve; a couple's input knows its law by itself."""
    unit = sender.curve.y_unit
    if stage.kind == "thermocouple" and stage.thermocouple_type is not None:
        table = _law_of(stage.thermocouple_type)
    else:
        table = tuple((x, in_unit(y, channel.unit, unit)) for x, y in channel.scaling.table)
    pulled = stage.kind == "pull_up"
    return Chain(
        sender.curve,
        table,
        stage.circuit.pull_up_ohm if pulled else None,
        stage.circuit.reference_v if stage.kind in ("pull_up", "volts") else None,
        stage.converter.adc_bits,
        wire_ohm,
        ground_offset_v,
        table_in_ohm=pulled and channel.scaling.x_unit == "ohm",
        ratiometric=ratiometric,
        dissipation_mw_per_k=sender.body.dissipation_mw_per_k,
    )


@functools.cache
def _law_of(couple: str) -> tuple[tuple[float, float], ...]:
    """What a couple's input shows, in degC every degree, over millivolts against a cold junction at 0 degC."""
    low, high = range_degc(couple)
    degc = np.arange(low + 60, high + 1)  # at its very cold end a couple gives next to nothing for a degree
    return tuple(zip(emf_array(couple, degc).tolist(), degc.tolist(), strict=True))


def in_curve_unit(true: NDArray[np.float64], channel: MeasuringChain, sender: Sender) -> NDArray[np.float64]:
    """Readings in the channel's unit as the sender's curve counts them."""
    zero, one = (in_unit(value, channel.unit, sender.curve.y_unit) for value in (0.0, 1.0))
    return zero + true * (one - zero)
