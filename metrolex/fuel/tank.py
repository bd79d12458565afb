"""The fuel tank: litres against ohms, by adding known litres or by the tank's shape, on the level and on a slope.

Measured points become a curve that only rises or falls by isotonic regression (pool adjacent violators; Barlow and others,
Statistical Inference under Order Restrictions, 1972). Volumes of a lying cylinder by the circular segment (textbook).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.senders.curves import TableCurve

__all__ = ["Needle", "Shape", "Strapping", "litres_at_height", "needle_on_slope", "shape_curve", "strapping"]

Array = NDArray[np.float64]
Shape = Literal["box", "lying cylinder", "saddle"]
_STEPS = 21


@dataclass(frozen=True, slots=True)
class Strapping:
    """Litres over ohms as measured: a curve that never turns back, residuals of the points in litres, and findings."""

    curve: TableCurve
    residuals: tuple[float, ...]
    findings: tuple[Finding, ...]


def strapping(points: tuple[tuple[float, float], ...], capacity_l: float | None = None) -> Strapping:
    """A tank curve from (litres in the tank, ohms read). Raises BadInput for fewer than three points or more than it holds.

    Points that go against the others are pooled with their neighbours; equal ohms are one point, the mean of their litres.
    """
    from scipy.optimize import isotonic_regression  # heavy to load, and seldom needed

    if len(points) < 3:
        raise BadInput(
            "points",
            len(points),
            "three points or more",
            f"Expected three points or more, but got {len(points)}.",
        )
    for litres, ohm in points:
        if litres < 0 or ohm < 0:
            raise BadInput("points", [litres, ohm], "litres and ohms of 0 or more")
        if capacity_l is not None and litres > capacity_l * 1.0001:
            raise BadInput("points", litres, f"no more than the tank holds, {capacity_l:g} l")
    litres, ohm = np.array(sorted(points)).T
    if litres[-1] == litres[0]:
        raise BadInput("points", float(litres[0]), "points at different fillings")
    rises = bool(np.polyfit(litres, ohm, 1)[0] > 0)
    smooth = np.asarray(isotonic_regression(ohm, increasing=rises).x, dtype=np.float64)
    off = smooth - ohm
    merged: dict[float, list[float]] = {}
    for level, value in zip(smooth.round(6).tolist(), litres.tolist(), strict=True):
        merged.setdefault(level, []).append(value)
    rows = tuple((level, float(np.mean(values))) for level, values in merged.items())
    if len(rows) < 2:
        raise BadInput(
            "points",
            ohm.tolist(),
            "ohms that change with the filling",
            "The sender reads the same at every filling: is its float free?",
        )
    curve = TableCurve(rows, "ohm", "L", "pchip" if len(rows) > 2 else "linear")
    findings = [
        Finding(
            "caution",
            "point_turns_back",
            f"{litres[i]:g} l",
            f"At {litres[i]:g} l the sender read {ohm[i]:g} ohm: against the others. It is pooled with its neighbours.",
            f"{ohm[i]:g} ohm",
            "Let the fuel settle and read again; a float may hang.",
        )
        for i in np.flatnonzero(np.abs(off) > 0.01 * max(float(np.ptp(ohm)), 1e-9))
    ]
    flat = [
        key
        for key, values in merged.items()
        if len(values) > 1 and max(values) - min(values) > 0.08 * float(np.ptp(litres))
    ]
    for level in flat:
        findings.append(
            Finding(
                "note",
                "flat_stretch",
                f"{level:g} ohm",
                f"Between {min(merged[level]):g} and {max(merged[level]):g} l the sender does not move: the needle cannot tell these apart.",
                f"{max(merged[level]) - min(merged[level]):g} l",
                "Set the reserve warning outside of this stretch, or bend the float's arm.",
            )
        )
    residuals = np.interp(ohm, *np.array(sorted(rows)).T) - litres
    return Strapping(curve, tuple(residuals.tolist()), tuple(findings))


def litres_at_height(shape: Shape, share: ArrayLike, capacity_l: float, hump_share: float = 0.35) -> Array:
    """Litres at a level, as a share (0 to 1) of the inner height. Raises BadInput for another shape.

    ``saddle``: two equal halves that part below ``hump_share`` of the height, one as full as the other.

    >>> litres_at_height('lying cylinder', [0.0, 0.5, 1.0], 60).round(6).tolist()
    [0.0, 30.0, 60.0]
    """
    h = np.clip(np.asarray(share, dtype=np.float64), 0.0, 1.0)
    if shape == "box":
        return np.asarray(capacity_l * h)
    if shape == "lying cylinder":
        r = 1 - 2 * h
        segment = (np.arccos(np.clip(r, -1, 1)) - r * np.sqrt(np.maximum(1 - r * r, 0.0))) / math.pi
        return np.asarray(capacity_l * segment)
    if shape != "saddle":
        raise BadInput("shape", shape, "box | lying cylinder | saddle")
    # The hump takes a third of the floor away below its top (common practice, no source).
    below = np.minimum(h, hump_share) * (2 / 3)
    above = np.maximum(h - hump_share, 0.0)
    whole = hump_share * (2 / 3) + (1 - hump_share)
    return np.asarray(capacity_l * (below + above) / whole)


def shape_curve(shape: Shape, capacity_l: float, empty_ohm: float, full_ohm: float) -> TableCurve:
    """Litres over ohms for a tank of a shape whose float's ohms go evenly with the level. Either end may be the higher.

    Raises BadInput for equal ohms at both ends or no capacity.
    """
    if not capacity_l > 0:
        raise BadInput("capacity_l", capacity_l, "litres above 0")
    if empty_ohm < 0 or full_ohm < 0 or empty_ohm == full_ohm:
        raise BadInput(
            "full_ohm", full_ohm, f"ohms of 0 or more, other than the {empty_ohm:g} of an empty tank"
        )
    share = np.linspace(0, 1, _STEPS)
    litres = litres_at_height(shape, share, capacity_l)
    ohm = empty_ohm + (full_ohm - empty_ohm) * share
    return TableCurve(tuple(zip(ohm.tolist(), litres.tolist(), strict=True)), "ohm", "L", "linear")


@dataclass(frozen=True, slots=True)
class Needle:
    """What a gauge shows of ``litres`` on a slope: the level at the float as a share of the height, litres shown."""

    litres: float
    level: float
    shown_l: float


def needle_on_slope(
    litres: float,
    capacity_l: float,
    slope_pct: float,
    float_ahead_m: float,
    tank_length_m: float,
    tank_height_m: float,
) -> Needle:
    """A box-shaped tank on a slope: the fuel lies level, the float stands where it does.

    ``slope_pct`` is positive uphill (the fuel runs to the back), ``float_ahead_m`` the float ahead of the tank's middle. Raises
    BadInput for a size of 0 and a float outside the tank.
    """
    for field, value in (
        ("capacity_l", capacity_l),
        ("tank_length_m", tank_length_m),
        ("tank_height_m", tank_height_m),
    ):
        if not value > 0:
            raise BadInput(field, value, "a number above 0")
    if abs(float_ahead_m) > tank_length_m / 2:
        raise BadInput(
            "float_ahead_m",
            float_ahead_m,
            f"within the tank, {-tank_length_m / 2:g} to {tank_length_m / 2:g} m",
        )
    tilt = -slope_pct / 100
    x = np.linspace(-tank_length_m / 2, tank_length_m / 2, 401)
    wanted = litres / capacity_l * tank_height_m

    def mean(level: float) -> float:
        return float(np.clip(level + tilt * x, 0.0, tank_height_m).mean())

    low, high = -tank_length_m - tank_height_m, 2 * tank_height_m + tank_length_m
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if mean(middle) < wanted else (low, middle)
    level = min(max((low + high) / 2 + tilt * float_ahead_m, 0.0), tank_height_m)
    return Needle(litres, level / tank_height_m, level / tank_height_m * capacity_l)
