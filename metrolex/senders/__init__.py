"""A sender's law: what it measures against what it gives.

``curves`` holds the laws as data, ``law`` evaluates them both ways.
"""

from metrolex.senders.curves import (
    PULSED,
    BetaCurve,
    Curve,
    LinearCurve,
    SteinhartHartCurve,
    TableCurve,
    ThermocoupleCurve,
)
from metrolex.senders.law import branches, is_monotonic, x_at, x_range, y_at, y_range

__all__ = [
    "PULSED",
    "BetaCurve",
    "Curve",
    "LinearCurve",
    "SteinhartHartCurve",
    "TableCurve",
    "ThermocoupleCurve",
    "branches",
    "is_monotonic",
    "x_at",
    "x_range",
    "y_at",
    "y_range",
]
