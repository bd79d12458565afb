"""Rows for a display's table, placed so that its greatest error over the range is least."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from metrolex.errors import BadInput
from metrolex.inputs.loop import ohm_from_volts, volts_from_ohm
from metrolex.job import Input, MeasuringChain, Sender
from metrolex.quantities import in_unit
from metrolex.scaling.best_rows import Rows, best_rows
from metrolex.scaling.reading import ends
from metrolex.senders import TableCurve, is_monotonic, x_at, x_range, y_at, y_range

__all__ = ["NEAR_WEIGHT", "suggest_rows", "typeable_steps"]

Array = NDArray[np.float64]
#: How much more the error counts at the point that matters than far from it.
NEAR_WEIGHT = 4.0
_NEAR_SHARE = 0.08
#: What menus commonly take of each unit (common practice, no source); ohms by how many there are.
_X_STEPS = {"volt": 0.01, "millivolt": 0.01, "milliampere": 0.01, "hertz": 0.1, "millisecond": 0.01}
_FEWEST_STEPS = 200


@lru_cache(maxsize=256)  # what a search of a second finds stays true of the same curve, face and question
def suggest_rows(
    channel: MeasuringChain,
    sender: Sender,
    stage: Input,
    count: int,
    *,
    x_step: float = 0.0,
    y_step: float = 0.0,
    near: float | None = None,
) -> Rows:
    """At most ``count`` rows for a channel, beside equally spaced ones, over the range that face and sender share.

    x is in the unit of the channel's table (volts behind a pull-up where it says so), y in the channel's. ``near`` is a reading
    where the error counts four times as much. No row asks for a reading that face or sender do not have. Raises BadInput when the curve turns back, when sender and face do not
    meet, and as ``best_rows`` does.
    """
    curve = sender.curve
    if not is_monotonic(curve):
        raise BadInput("count", count, "a curve that always rises or always falls")
    span = shared_span(channel, sender)
    volts = (
        channel.scaling.x_unit == "volt"
        and stage.circuit.pull_up_ohm is not None
        and stage.circuit.reference_v is not None
    )
    zero, one = (in_unit(value, curve.y_unit, channel.unit) for value in (0.0, 1.0))
    reach = x_range(curve)

    def as_x(ohm: Array) -> Array:
        if volts and stage.circuit.reference_v is not None and stage.circuit.pull_up_ohm is not None:
            return volts_from_ohm(ohm, stage.circuit.pull_up_ohm, stage.circuit.reference_v)
        return ohm

    def law(x: Array) -> Array:
        at = (
            ohm_from_volts(x, stage.circuit.pull_up_ohm, stage.circuit.reference_v)
            if volts and stage.circuit.pull_up_ohm and stage.circuit.reference_v
            else x
        )
        return zero + y_at(curve, np.clip(at, *reach)) * (one - zero)

    inner = [
        min(max(in_unit(v, channel.unit, curve.y_unit), y_range(curve)[0]), y_range(curve)[1]) for v in span
    ]
    low, high = sorted(as_x(x_at(curve, inner)).tolist())
    knots = as_x(np.array([x for x, _ in curve.points])) if isinstance(curve, TableCurve) else np.empty(0)
    width = _NEAR_SHARE * (span[1] - span[0])

    def weight(x: Array) -> Array:
        return 1 + (NEAR_WEIGHT - 1) * np.exp(-(((law(x) - (near or 0.0)) / width) ** 2))

    first, last = as_x(np.array(reach)).tolist()
    return best_rows(
        law,
        (low, high),
        count,
        x_step=x_step,
        y_step=y_step,
        reach=(first, last),
        knots=tuple(knots.tolist()),
        weight=None if near is None else weight,
        limits=span,
    )


def typeable_steps(channel: MeasuringChain, sender: Sender, stage: Input) -> tuple[float, float]:
    """Steps of x and y in which a table can be typed: what the display is known to take, else what menus commonly take.

    y goes in the digits the face shows. x goes in a step of its unit, finer tenfold until its range has some hundred steps.
    """
    unit = channel.scaling.x_unit if sender.curve.x_unit == "ohm" else sender.curve.x_unit
    y_step = stage.table.y_step or 10.0**-channel.scaling.decimals
    if stage.table.x_step:
        return stage.table.x_step, y_step
    low, high = x_range(sender.curve)
    if unit != "ohm":
        return _X_STEPS.get(unit, 0.01), y_step
    step = 1.0
    while step > 0.01 and high - low < _FEWEST_STEPS * step:
        step /= 10
    return step, y_step


def shared_span(channel: MeasuringChain, sender: Sender) -> tuple[float, float]:
    """Lowest and highest reading that both face and sender cover, in the channel's unit. Raises BadInput where they do not meet."""
    reach = sorted(in_unit(y, sender.curve.y_unit, channel.unit) for y in y_range(sender.curve))
    low, high = ends(channel.scaling)
    start = max(reach[0], low if low is not None else reach[0])
    stop = min(reach[1], high if high is not None else reach[1])
    if start >= stop:
        raise BadInput(
            "count",
            None,
            "a range that sender and face share",
            "The sender's curve and the gauge's range do not meet.",
        )
    return start, stop
