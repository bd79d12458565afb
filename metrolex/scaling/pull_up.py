"""The best pull-up for a sender: the one that leaves the coarsest converter step of the reading finest over the range.

A divider is most sensitive where the pull-up equals the sender (textbook); over a whole range the best is a compromise.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.errors import BadInput
from metrolex.inputs.loop import ohm_per_volt, sender_watt, volts_from_ohm
from metrolex.scaling.resistors import preferred
from metrolex.senders import Curve, x_at, y_range

__all__ = ["PullUp", "best_pull_up", "judge_pull_up"]

Array = NDArray[np.float64]
_SAMPLES = 400


@dataclass(frozen=True, slots=True)
class PullUp:
    """A pull-up over a range: its coarsest converter step in y and where, volts at both ends, most heat in the sender."""

    ohm: float
    coarsest: float
    coarsest_at: float
    low_v: float
    high_v: float
    sender_mw: float


def judge_pull_up(
    curve: Curve, y_span: tuple[float, float], ohm: float, reference_v: float, bits: int
) -> PullUp:
    """What one pull-up does over a range of readings. Raises BadInput outside the curve or for a curve not in ohms."""
    y, x, slope = _law(curve, y_span)
    return _judged(y, x, slope, ohm, reference_v, bits)


def best_pull_up(
    curve: Curve,
    y_span: tuple[float, float],
    reference_v: float,
    bits: int,
    series: str = "E24",
    most_mw: float = 5.0,
) -> tuple[PullUp, ...]:
    """Preferred pull-ups, best first: least coarsest step of those that heat the sender by no more than ``most_mw``.

    5 mW in the sender is harmless in oil or water (common practice, no source). Raises BadInput as ``judge_pull_up`` and
    when every pull-up heats the sender by more.
    """
    y, x, slope = _law(curve, y_span)
    values = preferred(series, max(float(x.min()) / 10, 1.0), float(x.max()) * 10)
    found = [_judged(y, x, slope, float(ohm), reference_v, bits) for ohm in values]
    cool = [one for one in found if one.sender_mw <= most_mw]
    if not cool:
        raise BadInput(
            "most_mw", most_mw, f"{min(one.sender_mw for one in found):.3g} mW or more for this sender"
        )
    return tuple(sorted(cool, key=lambda one: one.coarsest))


def _law(curve: Curve, y_span: tuple[float, float]) -> tuple[Array, Array, Array]:
    if curve.x_unit != "ohm":
        raise BadInput("curve", curve.x_unit, "a curve in ohm: only a resistance has a pull-up")
    low, high = y_range(curve)
    if not (low - 1e-9 <= y_span[0] < y_span[1] <= high + 1e-9):
        raise BadInput("y_range", list(y_span), f"two rising readings within the curve, {low:g} to {high:g}")
    y = np.linspace(*y_span, _SAMPLES)
    x = x_at(curve, y)
    return y, x, np.abs(np.gradient(y, x))


def _judged(y: Array, x: Array, slope: Array, ohm: float, reference_v: float, bits: int) -> PullUp:
    coarse = slope * ohm_per_volt(x, ohm, reference_v) * reference_v / 2.0**bits
    volts = volts_from_ohm(x, ohm, reference_v)
    at = int(coarse.argmax())
    heat = 1000 * sender_watt(x, ohm, reference_v).max()
    return PullUp(ohm, float(coarse[at]), float(y[at]), float(volts.min()), float(volts.max()), float(heat))
