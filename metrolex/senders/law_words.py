"""The law of a sender in words, short enough for a line of the book."""

from __future__ import annotations

from typing import assert_never

from metrolex.quantities import unit_words
from metrolex.senders.curves import (
    BetaCurve,
    Curve,
    LinearCurve,
    SteinhartHartCurve,
    TableCurve,
    ThermocoupleCurve,
)

__all__ = ["law_words"]


def law_words(curve: Curve) -> str:
    """What the sender follows, with its figures.

    >>> law_words(BetaCurve(2500.0, 3500.0)), law_words(ThermocoupleCurve("K"))
    ('2500 Ω at 25 °C, beta 3500 K', 'thermocouple, type K')
    """
    match curve:
        case LinearCurve():
            (x0, y0), (x1, y1) = curve.points
            x, y = unit_words(curve.x_unit), unit_words(curve.y_unit)
            return f"straight line, {x0:g} {x} is {y0:g} {y}, {x1:g} {x} is {y1:g} {y}"
        case TableCurve():
            x, y = unit_words(curve.x_unit), unit_words(curve.y_unit)
            (x0, y0), (x1, y1) = curve.points[0], curve.points[-1]
            return (
                f"table of {len(curve.points)} points, {x0:g} {x} at {y0:g} {y} to {x1:g} {x} at {y1:g} {y}"
            )
        case BetaCurve():
            return f"{curve.r0_ohm:g} Ω at {curve.t0_degc:g} °C, beta {curve.beta_k:g} K"
        case SteinhartHartCurve():
            return f"Steinhart-Hart, a {curve.a:.4g}, b {curve.b:.4g}, c {curve.c:.4g}"
        case ThermocoupleCurve():
            return f"thermocouple, type {curve.type}"
    assert_never(curve)
