"""Axes of drawings: values to places, and round figures along them."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

__all__ = ["axis", "decades", "round_step", "ticks"]


def axis(low: float, high: float, at_low: float, at_high: float) -> Callable[[float], float]:
    """The place of a value on a straight axis."""
    width = (high - low) or 1.0
    return lambda value: at_low + (value - low) / width * (at_high - at_low)


def round_step(span: float, most: int, of: Sequence[float] = (1, 2, 5, 10)) -> float:
    """The least round figure that goes into a span at most so often; round are those of ``of``, the last of them 10, and their tens.

    >>> round_step(33.0, 14), round_step(90_000.0, 14)
    (5.0, 10000.0)
    """
    power = 10.0 ** math.floor(math.log10(span / most))
    return next((power * one for one in of if span / (power * one) <= most * (1 + 1e-9)), power * of[-1])


def ticks(low: float, high: float, most: int, of: Sequence[float] = (1, 2, 5, 10)) -> list[float]:
    """Round figures from ``low`` to ``high``, at most ``most`` steps apart; ``of`` as in ``round_step``.

    >>> ticks(0, 10, 5)
    [0.0, 2.0, 4.0, 6.0, 8.0, 10.0]
    """
    step = round_step((high - low) or 1.0, most, of)
    return [
        round(i * step, 10) for i in range(math.ceil(low / step - 1e-9), math.floor(high / step + 1e-9) + 1)
    ]


def decades(low: float, high: float) -> list[float]:
    """1, 2 and 5 of each decade between two values above 0."""
    found = [
        m * 10.0**d
        for d in range(math.floor(math.log10(low)), math.ceil(math.log10(high)) + 1)
        for m in (1, 2, 5)
    ]
    return [value for value in found if low <= value <= high]
