"""Thermocouples: millivolts and temperature by ITS-90, and what copper in the lead does to the reading.

NIST Monograph 175; the coefficients stand in ``data/thermocouples.toml``.
"""

from __future__ import annotations

import functools
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from metrolex.errors import BadInput
from metrolex.tables import load_table

__all__ = ["COLD_DEGC", "copper_error_degc", "degc_array", "degc_at", "emf_array", "emf_mv", "range_degc"]

Array = NDArray[np.float64]
COLD_DEGC = 25.0  # cold junctions are taken to be as warm as a cabin (common practice, no source)
_GRID_STEP_DEGC = 0.25


@functools.lru_cache(maxsize=4096)
def emf_mv(kind: str, degc: float) -> float:
    """Millivolts of a thermocouple against a reference junction at 0 degC. Raises BadInput outside its range.

    >>> round(emf_mv('K', 100.0), 3), round(emf_mv('K', 1000.0), 3)
    (4.096, 41.276)
    """
    low, high = range_degc(kind)
    if not low <= degc <= high:
        raise BadInput("degc", degc, f"{low:g} to {high:g} degC for type {kind}")
    return float(emf_array(kind, np.array([degc]))[0])


def degc_at(kind: str, millivolt: float) -> float:
    """Temperature at which a thermocouple gives ``millivolt`` against 0 degC. Raises BadInput outside its range."""
    low, high = (emf_mv(kind, end) for end in range_degc(kind))
    if not low <= millivolt <= high:
        raise BadInput("millivolt", millivolt, f"{low:.3f} to {high:.3f} mV for type {kind}")
    return float(degc_array(kind, np.array([millivolt]))[0])


def range_degc(kind: str) -> tuple[float, float]:
    """Lowest and highest temperature of the standard's polynomials. Raises BadInput for an unknown type.

    >>> range_degc('J')
    (-210.0, 1200.0)
    """
    table = _table(kind)
    return table["low_degc"], table["ranges"][-1]["to_degc"]


def emf_array(kind: str, degc: ArrayLike) -> Array:
    """Millivolts at temperatures within the type's range (the caller sees to that); same shape."""
    given = np.asarray(degc, dtype=np.float64)
    found = np.empty_like(given)
    low = -np.inf
    for piece in _table(kind)["ranges"]:
        here = (given > low) & (given <= piece["to_degc"])
        at = given[here]
        value = np.polynomial.polynomial.polyval(at, piece["terms"])
        if "hump" in piece:
            a0, a1, a2 = piece["hump"]
            value = value + a0 * np.exp(a1 * (at - a2) ** 2)
        found[here] = value
        low = piece["to_degc"]
    return found


def degc_array(kind: str, millivolt: ArrayLike) -> Array:
    """Temperatures at millivolts within the type's range (the caller sees to that); the polynomials solved, same shape.

    A table read backwards starts, secants within its step finish: to 1e-6 degC where the couple is not flat.
    """
    given = np.asarray(millivolt, dtype=np.float64)
    if given.size == 1:  # asked again and again for the same probe in another network
        return np.full(given.shape, _one_degc(kind, given.item()))
    return _solved(kind, given)


@functools.lru_cache(maxsize=4096)
def _one_degc(kind: str, millivolt: float) -> float:
    return float(_solved(kind, np.array([millivolt]))[0])


def _solved(kind: str, given: Array) -> Array:
    degc, emf = _grid(kind)
    piece = np.clip(np.searchsorted(emf, given) - 1, 0, len(emf) - 2)
    low, high = degc[piece], degc[piece + 1]
    emf_low, emf_high = emf[piece], emf[piece + 1]
    found = low
    for _ in range(6):  # regula falsi within the step: the curve rises and hardly bends there
        found = np.clip(
            low + (given - emf_low) * (high - low) / np.maximum(emf_high - emf_low, 1e-300), low, high
        )
        value = emf_array(kind, found)
        under = value < given
        low, emf_low = np.where(under, found, low), np.where(under, value, emf_low)
        high, emf_high = np.where(under, high, found), np.where(under, emf_high, value)
    return found


def copper_error_degc(kind: str, hot_degc: float, joint_degc: float, gauge_degc: float) -> float:
    """What is shown less what is true where the last stretch, from a joint to the gauge, is copper.

    The couple ends at the joint; the gauge adds its own cold junction as if it ended there.
    """
    seen = emf_mv(kind, hot_degc) - emf_mv(kind, joint_degc) + emf_mv(kind, gauge_degc)
    return degc_at(kind, seen) - hot_degc


@functools.cache
def _grid(kind: str) -> tuple[Array, Array]:
    low, high = range_degc(kind)
    degc = np.linspace(low, high, round((high - low) / _GRID_STEP_DEGC) + 1)
    return degc, emf_array(kind, degc)


def _table(kind: str) -> dict[str, Any]:
    tables = load_table("thermocouples")
    if kind not in tables:
        raise BadInput("type", kind, ", ".join(tables))
    return tables[kind]  # type: ignore[no-any-return]
