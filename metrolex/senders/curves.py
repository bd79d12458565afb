"""The laws a sender can follow, as data.

x is what the sender gives (ohm, volt, millivolt, milliampere; hertz, or the millisecond its line is low), y what it measures (degC, bar, percent...). Points may
come in any order; they are kept sorted by x. Sources: beta and Steinhart-Hart equations, Steinhart and
Hart, 'Calibration curves for thermistors', Deep-Sea Research 15 (1968).
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.intake import AnyNumber, Limits, Text
from metrolex.senders.thermocouple import emf_mv, range_degc

__all__ = [
    "PULSED",
    "BetaCurve",
    "Curve",
    "LinearCurve",
    "Point",
    "SteinhartHartCurve",
    "TableCurve",
    "ThermocoupleCurve",
    "sort_points",
]

#: Units of what is read off a train of pulses: how many a second, and how long the line is low in each.
PULSED = ("hertz", "millisecond")

Point = tuple[AnyNumber, AnyNumber]
Unit = Annotated[str, Text(20, blank=False)]


@dataclass(frozen=True, slots=True)
class TableCurve:
    """Measured points; straight lines, shape-preserving cubics (PCHIP) or straight lines over ln x between."""

    points: tuple[Point, ...]
    x_unit: Unit = "ohm"
    y_unit: Unit = "degC"
    interpolation: Literal["linear", "pchip", "log_x"] = "linear"
    x_range: tuple[AnyNumber, AnyNumber] | None = None
    kind: Literal["table"] = "table"

    def __post_init__(self) -> None:
        object.__setattr__(self, "points", sort_points(self.points, at_least=2))
        _check_physical(self.points, self.x_unit, above_zero=self.interpolation == "log_x")
        _check_range(self.x_range, self.points[0][0], self.points[-1][0])


@dataclass(frozen=True, slots=True)
class LinearCurve:
    """A straight line through two points."""

    points: tuple[Point, ...]
    x_unit: Unit = "volt"
    y_unit: Unit = "bar"
    x_range: tuple[AnyNumber, AnyNumber] | None = None
    kind: Literal["linear"] = "linear"

    def __post_init__(self) -> None:
        object.__setattr__(self, "points", sort_points(self.points, at_least=2))
        if len(self.points) != 2:
            raise BadInput("points", len(self.points), "two points")
        _check_physical(self.points, self.x_unit, above_zero=False)
        _check_range(self.x_range, None, None)


class _Thermistor:
    """What both thermistor laws say of their units."""

    __slots__ = ()

    @property
    def x_unit(self) -> str:
        return "ohm"

    @property
    def y_unit(self) -> str:
        return "degC"


@dataclass(frozen=True, slots=True)
class BetaCurve(_Thermistor):
    """A thermistor by one resistance and its beta: R = R0 exp(beta (1/T - 1/T0)), T in kelvin."""

    r0_ohm: Annotated[float, Limits(low=1e-3, high=1e9)]
    beta_k: Annotated[float, Limits(low=100, high=20_000)]
    t0_degc: Annotated[float, Limits(low=-60, high=400)] = 25.0
    x_range: tuple[AnyNumber, AnyNumber] | None = None
    kind: Literal["beta"] = "beta"

    def __post_init__(self) -> None:
        if self.t0_degc <= -273.15:
            raise BadInput("t0_degc", self.t0_degc, "a temperature above -273.15 degC")
        _check_range(self.x_range, None, None, above_zero=True)


@dataclass(frozen=True, slots=True)
class SteinhartHartCurve(_Thermistor):
    """A thermistor by 1/T = a + b ln R + c (ln R)^3, T in kelvin, R in ohm."""

    a: Annotated[float, Limits(low=-1, high=1)]
    b: Annotated[float, Limits(low=1e-6, high=1)]
    c: Annotated[float, Limits(low=0, high=1)]
    x_range: tuple[AnyNumber, AnyNumber] | None = None
    kind: Literal["steinhart_hart"] = "steinhart_hart"

    def __post_init__(self) -> None:
        if self.b <= 0:
            raise BadInput("b", self.b, "a number above 0 (resistance falls as it gets hotter)")
        if self.c < 0:
            raise BadInput("c", self.c, "a number of 0 or more (else one resistance has two temperatures)")
        _check_range(self.x_range, None, None, above_zero=True)


@dataclass(frozen=True, slots=True)
class ThermocoupleCurve:
    """A thermocouple by ITS-90: x is its millivolt against a reference junction at 0 degC."""

    type: Literal["K", "J", "N", "T"]
    x_range: tuple[AnyNumber, AnyNumber] | None = None
    kind: Literal["thermocouple"] = "thermocouple"

    def __post_init__(self) -> None:
        low, high = (emf_mv(self.type, end) for end in range_degc(self.type))
        _check_range(self.x_range, low, high)

    @property
    def x_unit(self) -> str:
        return "millivolt"

    @property
    def y_unit(self) -> str:
        return "degC"


Curve = TableCurve | LinearCurve | BetaCurve | SteinhartHartCurve | ThermocoupleCurve


def sort_points(points: tuple[Point, ...], at_least: int) -> tuple[Point, ...]:
    """Points by rising x. Raises BadInput for too few of them or for one x given twice."""
    if len(points) < at_least:
        raise BadInput(
            "points",
            len(points),
            f"at least {at_least} points",
            f"Expected at least {at_least} points, but got {len(points)}.",
        )
    ordered = tuple(sorted(points))
    for low, high in itertools.pairwise(ordered):
        if low[0] == high[0]:
            raise BadInput(
                "points",
                low[0],
                "each x once",
                f"Two points stand at x = {low[0]:g}: {low[1]:g} and {high[1]:g}.",
            )
    return ordered


def _check_physical(points: tuple[Point, ...], x_unit: str, *, above_zero: bool) -> None:
    lowest = points[0][0]
    if above_zero and lowest <= 0:
        raise BadInput("points", lowest, "x above 0 (ln x)")
    if x_unit in ("ohm", *PULSED) and lowest < 0:  # a pumped cell gives milliampere of both signs
        raise BadInput("points", lowest, f"{x_unit} of 0 or more")


def _check_range(
    given: tuple[float, float] | None, low: float | None, high: float | None, above_zero: bool = False
) -> None:
    if given is None:
        return
    if not given[0] < given[1]:
        raise BadInput("x_range", list(given), "two rising numbers")
    if above_zero and given[0] <= 0:
        raise BadInput("x_range", list(given), "ohms above 0")
    slack = 1e-9 * max(abs(given[0]), abs(given[1]))
    if low is not None and high is not None and not (low - slack <= given[0] and given[1] <= high + slack):
        raise BadInput("x_range", list(given), f"within the curve, {low:g} to {high:g}")
    if not all(math.isfinite(value) for value in given):
        raise BadInput("x_range", list(given), "two numbers")
