"""Pressure of the standard atmosphere by altitude, and the temperature at which water boils in it.

Pressure: International Standard Atmosphere, ISO 2533 (troposphere, 288.15 K and 101.325 kPa at sea level, 6.5 K/km).
Boiling: saturation pressure of water by Wagner and Pruss as given in IAPWS SR1-86(1992), solved for the temperature.
"""

from __future__ import annotations

import math

from metrolex.errors import BadInput

__all__ = ["ALTITUDE_M", "boiling_degc", "pressure_kpa", "saturation_kpa"]

#: Altitudes the troposphere's law is used for.
ALTITUDE_M = (-500.0, 11000.0)
_SEA_LEVEL_KPA = 101.325
_CRITICAL_K, _CRITICAL_KPA = 647.096, 22064.0
_TERMS = (
    (-7.85951783, 1.0),
    (1.84408259, 1.5),
    (-11.7866497, 3.0),
    (22.6807411, 3.5),
    (-15.9618719, 4.0),
    (1.80122502, 7.5),
)


def pressure_kpa(altitude_m: float) -> float:
    """Absolute pressure of the standard atmosphere, kPa. Raises BadInput outside the troposphere.

    >>> round(pressure_kpa(0), 3), round(pressure_kpa(1000), 2)
    (101.325, 89.87)
    """
    low, high = ALTITUDE_M
    if not low <= altitude_m <= high:
        raise BadInput("altitude_m", altitude_m, f"{low:g} to {high:g} m")
    return float(_SEA_LEVEL_KPA * (1 - 0.0065 * altitude_m / 288.15) ** 5.255876)


def saturation_kpa(degc: float) -> float:
    """Pressure at which water boils at ``degc`` (0.01 to 373 degC), kPa.

    >>> round(saturation_kpa(100), 2)
    101.42
    """
    if not 0.01 <= degc <= 373.9:
        raise BadInput("degc", degc, "0.01 to 373.9 degC")
    kelvin = degc + 273.15
    left = 1 - kelvin / _CRITICAL_K
    return float(_CRITICAL_KPA * math.exp(_CRITICAL_K / kelvin * sum(a * left**power for a, power in _TERMS)))


def boiling_degc(*, altitude_m: float | None = None, barometer_kpa: float | None = None) -> float:
    """Temperature of boiling water, degC, by the barometer or else by the altitude. Raises BadInput without either.

    >>> round(boiling_degc(altitude_m=0), 2), round(boiling_degc(altitude_m=1500), 1)
    (99.97, 95.0)
    """
    from scipy.optimize import brentq  # heavy to load, and seldom needed

    if barometer_kpa is None:
        if altitude_m is None:
            raise BadInput("altitude_m", None, "an altitude or a barometer reading")
        barometer_kpa = pressure_kpa(altitude_m)
    if not 20 <= barometer_kpa <= 120:
        raise BadInput("barometer_kpa", barometer_kpa, "20 to 120 kPa")
    return float(brentq(lambda t: saturation_kpa(t) - barometer_kpa, 50.0, 110.0, xtol=1e-9))
