"""Where the sun stands: its declination by the day, its height by latitude and hour (the low-precision formula of the Astronomical Almanac)."""

from __future__ import annotations

import functools

import numpy as np
from numpy.typing import ArrayLike, NDArray

__all__ = ["declination_deg", "highest_deg", "hours_near", "sun_height_deg"]

Array = NDArray[np.float64]
DAYS = 365
#: Noon of the day before the first of January 2025, in days from the epoch J2000; other years differ by a quarter of a day.
FROM_J2000 = 9131.0


def declination_deg(day: ArrayLike) -> Array:
    """The sun's declination on a day of the year, 1 for the first of January.

    >>> round(float(declination_deg(172)), 1)
    23.4
    """
    days = FROM_J2000 + np.asarray(day, dtype=np.float64)
    mean = np.radians(280.460 + 0.9856474 * days)
    anomaly = np.radians(357.528 + 0.9856003 * days)
    along = mean + np.radians(1.915 * np.sin(anomaly) + 0.020 * np.sin(2 * anomaly))
    found: Array = np.degrees(np.arcsin(np.sin(np.radians(23.439)) * np.sin(along)))
    return found


def sun_height_deg(latitude_deg: float, day: ArrayLike, solar_hour: ArrayLike) -> Array:
    """How high the sun stands above the horizon (below: negative); ``solar_hour`` 12 when it is highest."""
    phi, delta = np.radians(latitude_deg), np.radians(declination_deg(day))
    hour = np.radians(15 * (np.asarray(solar_hour, dtype=np.float64) - 12))
    sine = np.sin(phi) * np.sin(delta) + np.cos(phi) * np.cos(delta) * np.cos(hour)
    height: Array = np.degrees(np.arcsin(np.clip(sine, -1.0, 1.0)))
    return height


@functools.lru_cache(maxsize=64)
def highest_deg(latitude_deg: float) -> float:
    """The highest the sun ever stands there."""
    return float(sun_height_deg(latitude_deg, np.arange(1, DAYS + 1), 12.0).max())


@functools.lru_cache(maxsize=64)
def _year(latitude_deg: float) -> Array:
    """The sun's height through a year, every quarter of an hour."""
    days, hours = np.meshgrid(np.arange(1, DAYS + 1), np.arange(0.125, 24, 0.25))
    return np.sort(sun_height_deg(latitude_deg, days, hours).ravel())


def hours_near(latitude_deg: float, height_deg: float, within_deg: float) -> float:
    """Hours of a year in which the sun stands within so many degrees of a height, and above the horizon."""
    year = _year(latitude_deg)
    low, high = max(0.0, height_deg - within_deg), height_deg + within_deg
    if high <= low:
        return 0.0
    return float(np.searchsorted(year, high, "right") - np.searchsorted(year, low, "left")) * 0.25
