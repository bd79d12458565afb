"""A sender's law evaluated both ways, never beyond its range.

Every function takes and returns float64 arrays; outside the range the answer is NaN, which callers turn
into a finding (nothing extrapolates silently). A table or line ends at its points unless it carries an
``x_range``; a thermistor law holds from -60 to 400 degC unless it does (common practice, no source), a thermocouple over
the range of its standard.
PCHIP: Fritsch and Carlson (1980) as in scipy.interpolate.PchipInterpolator.
"""

from __future__ import annotations

import functools
import itertools
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from metrolex.errors import BadInput
from metrolex.senders.curves import (
    BetaCurve,
    Curve,
    LinearCurve,
    SteinhartHartCurve,
    TableCurve,
    ThermocoupleCurve,
)
from metrolex.senders.thermocouple import degc_array, emf_array, emf_mv, range_degc

__all__ = ["LAW_RANGE_DEGC", "branches", "is_monotonic", "x_at", "x_range", "y_at", "y_range"]

Array = NDArray[np.float64]
KEPT = 512  # curves of which what is asked for again and again is remembered
LAW_RANGE_DEGC = (-60.0, 400.0)
_KELVIN = 273.15


def y_at(curve: Curve, x: ArrayLike) -> Array:
    """Measured quantity at sender output ``x``; NaN outside the curve's range."""
    given = np.asarray(x, dtype=np.float64)
    low, high = x_range(curve)
    slack = 1e-12 * max(abs(low), abs(high), 1e-300)
    inside = (given >= low - slack) & (given <= high + slack)
    safe = np.clip(np.where(inside, given, low), low, high)
    return np.where(inside, _evaluate(curve, safe), np.nan)


def x_at(curve: Curve, y: ArrayLike) -> Array:
    """Sender output at measured quantity ``y``; NaN outside the curve's range.

    Raises BadInput (field ``curve``) when the curve turns back, so that one y has several x.
    """
    if not is_monotonic(curve):
        raise BadInput(
            "curve",
            curve.kind,
            "a curve that always rises or always falls",
            "The curve turns back, so one reading has several sender values.",
        )
    given = np.asarray(y, dtype=np.float64)
    low, high = y_range(curve)
    slack = 1e-12 * max(abs(low), abs(high), 1e-300)
    inside = (given >= low - slack) & (given <= high + slack)
    safe = np.clip(np.where(inside, given, low), low, high)
    return np.where(inside, _invert(curve, safe), np.nan)


def x_range(curve: Curve) -> tuple[float, float]:
    """Lowest and highest sender output the law holds for."""
    if curve.x_range is not None:
        return curve.x_range
    if isinstance(curve, (TableCurve, LinearCurve)):
        return curve.points[0][0], curve.points[-1][0]
    if isinstance(curve, ThermocoupleCurve):
        low, high = range_degc(curve.type)
        return emf_mv(curve.type, low), emf_mv(curve.type, high)
    ends = _thermistor_ohm(curve, np.array(LAW_RANGE_DEGC))
    return float(ends.min()), float(ends.max())


@functools.lru_cache(KEPT)
def y_range(curve: Curve) -> tuple[float, float]:
    """Lowest and highest measured quantity within ``x_range``."""
    low, high = x_range(curve)
    stops = [low, high]
    if isinstance(curve, TableCurve):
        stops += [x for x, _ in curve.points if low < x < high]
    values = _evaluate(curve, np.array(stops))
    return float(values.min()), float(values.max())


@functools.lru_cache(KEPT)
def is_monotonic(curve: Curve) -> bool:
    """Whether each measured value belongs to one sender output."""
    if isinstance(curve, (TableCurve, LinearCurve)):
        steps = np.diff([y for _, y in curve.points])
        return bool((steps > 0).all() or (steps < 0).all())
    return True


def branches(curve: Curve) -> tuple[tuple[float, float], ...]:
    """The stretches of x over which a curve only rises or only falls, longest stretch of y first.

    One stretch for a curve that does not turn back; flat steps belong to none.

    >>> branches(TableCurve(((0.0, 0.0), (1.0, 10.0), (2.0, 4.0))))
    ((0.0, 1.0), (1.0, 2.0))
    """
    if is_monotonic(curve) or not isinstance(curve, TableCurve):
        return (x_range(curve),)
    xs, ys = np.array(curve.points).T
    way = np.sign(np.diff(ys))
    cuts = [0, *(np.flatnonzero(np.diff(way)) + 1).tolist(), len(way)]
    pieces = [(a, b) for a, b in itertools.pairwise(cuts) if way[a] != 0]
    pieces.sort(key=lambda piece: -abs(ys[piece[1]] - ys[piece[0]]))
    return tuple((float(xs[a]), float(xs[b])) for a, b in pieces)


def _evaluate(curve: Curve, x: Array) -> Array:
    if isinstance(curve, LinearCurve):
        (x0, y0), (x1, y1) = curve.points
        return y0 + (x - x0) * (y1 - y0) / (x1 - x0)
    if isinstance(curve, TableCurve):
        if curve.interpolation == "pchip":
            return np.asarray(_pchip(curve.points)(x), dtype=np.float64)
        xs, ys = np.array(curve.points).T
        if curve.interpolation == "log_x":
            return np.asarray(np.interp(np.log(x), np.log(xs), ys), dtype=np.float64)
        return np.asarray(np.interp(x, xs, ys), dtype=np.float64)
    if isinstance(curve, ThermocoupleCurve):
        return degc_array(curve.type, x)
    if isinstance(curve, BetaCurve):
        return 1 / (1 / (curve.t0_degc + _KELVIN) + np.log(x / curve.r0_ohm) / curve.beta_k) - _KELVIN
    log_r = np.log(x)
    inverse = curve.a + curve.b * log_r + curve.c * log_r**3
    with np.errstate(divide="ignore"):
        return 1 / inverse - _KELVIN


def _invert(curve: Curve, y: Array) -> Array:
    if isinstance(curve, LinearCurve):
        (x0, y0), (x1, y1) = curve.points
        return x0 + (y - y0) * (x1 - x0) / (y1 - y0)
    if isinstance(curve, TableCurve):
        if curve.interpolation == "pchip":
            return _invert_pchip(curve, y)
        xs, ys = np.array(curve.points).T
        over = np.log(xs) if curve.interpolation == "log_x" else xs
        turn = slice(None) if ys[0] < ys[-1] else slice(None, None, -1)
        found = np.asarray(np.interp(y, ys[turn], over[turn]), dtype=np.float64)
        return np.exp(found) if curve.interpolation == "log_x" else found
    if isinstance(curve, ThermocoupleCurve):
        return emf_array(curve.type, y)
    return _thermistor_ohm(curve, y)


def _thermistor_ohm(curve: BetaCurve | SteinhartHartCurve, degc: Array) -> Array:
    inverse = 1 / (degc + _KELVIN)
    if isinstance(curve, BetaCurve):
        return np.asarray(
            curve.r0_ohm * np.exp(curve.beta_k * (inverse - 1 / (curve.t0_degc + _KELVIN))), dtype=np.float64
        )
    if curve.c == 0:
        return np.asarray(np.exp((inverse - curve.a) / curve.b), dtype=np.float64)
    # The one real root of c u^3 + b u + (a - 1/T) = 0 with b, c > 0 (Cardano, textbook).
    half = (curve.a - inverse) / (2 * curve.c)
    root = np.sqrt((curve.b / (3 * curve.c)) ** 3 + half**2)
    return np.asarray(np.exp(np.cbrt(root - half) - np.cbrt(root + half)), dtype=np.float64)


def _invert_pchip(curve: TableCurve, y: Array) -> Array:
    xs, ys = np.array(curve.points).T
    spline = _pchip(curve.points)
    rising = ys[0] < ys[-1]
    order = ys if rising else ys[::-1]
    piece = np.clip(np.searchsorted(order, y) - 1, 0, len(xs) - 2)
    piece = piece if rising else len(xs) - 2 - piece
    low, high = xs[piece].copy(), xs[piece + 1].copy()
    for _ in range(80):  # bisection: each piece is monotonic, so it cannot fail
        middle = (low + high) / 2
        below = (np.asarray(spline(middle)) < y) == rising
        low, high = np.where(below, middle, low), np.where(below, high, middle)
    return np.asarray((low + high) / 2, dtype=np.float64)


@functools.lru_cache(maxsize=256)
def _pchip(points: tuple[tuple[float, float], ...]) -> Any:
    # Imported late: scipy costs half a second that the other laws need not pay.
    from scipy.interpolate import PchipInterpolator

    xs, ys = np.array(points).T
    return PchipInterpolator(xs, ys)
