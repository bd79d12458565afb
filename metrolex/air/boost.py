"""Boost: what a manifold sensor reads above the pressure of the day, on one scale with vacuum.

Gauge pressure is absolute pressure less the barometer (definition); the barometer comes from the sensor itself with the
key on and the engine stopped, or from the altitude (``atmosphere``).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from metrolex.air.atmosphere import pressure_kpa
from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.quantities import convert

__all__ = ["SPAN_KPA", "Boost", "barometer_findings", "boost_of", "vacuum_words"]

#: What a barometer can read where vehicles go (common practice, no source).
SPAN_KPA = (50.0, 110.0)
#: A key-on reading this far from the altitude's pressure is more than weather (common practice, no source).
WEATHER_KPA = 5.0


@dataclass(frozen=True, slots=True)
class Boost:
    """Gauge pressure in three units, the barometer it was taken against, and where that came from."""

    gauge_kpa: float
    barometer_kpa: float
    barometer_from: Literal["reading", "altitude"]

    @property
    def gauge_psi(self) -> float:
        return convert(self.gauge_kpa, "kilopascal", "psi")

    @property
    def gauge_bar(self) -> float:
        return self.gauge_kpa / 100

    @property
    def vacuum_inhg(self) -> float:
        """Vacuum in inches of mercury (conventional, 3.38639 kPa), 0 under boost."""
        return max(-self.gauge_kpa, 0.0) / 3.38639


def boost_of(
    absolute_kpa: float, *, altitude_m: float | None = None, barometer_kpa: float | None = None
) -> Boost:
    """Boost by the barometer, else by the altitude. Raises BadInput for less than no pressure or without either.

    >>> round(boost_of(201.325, altitude_m=0).gauge_bar, 3)
    1.0
    """
    if absolute_kpa < 0:
        raise BadInput("absolute_kpa", absolute_kpa, "0 kPa or more: nothing is below a perfect vacuum")
    if barometer_kpa is not None:
        low, high = SPAN_KPA
        if not low <= barometer_kpa <= high:
            raise BadInput("barometer_kpa", barometer_kpa, f"{low:g} to {high:g} kPa")
        return Boost(absolute_kpa - barometer_kpa, barometer_kpa, "reading")
    if altitude_m is None:
        raise BadInput("altitude_m", None, "an altitude or a barometer reading")
    barometer = pressure_kpa(altitude_m)
    return Boost(absolute_kpa - barometer, barometer, "altitude")


def barometer_findings(barometer_kpa: float, altitude_m: float | None) -> list[Finding]:
    """What a key-on reading says of the sensor: further from the altitude's pressure than weather goes."""
    if altitude_m is None:
        return []
    expected = pressure_kpa(altitude_m)
    off = barometer_kpa - expected
    if abs(off) <= WEATHER_KPA:
        return []
    return [
        Finding(
            "caution",
            "barometer_off",
            "barometer",
            f"With the engine stopped the sensor reads {barometer_kpa:.1f} kPa; at {altitude_m:g} m the air has about {expected:.1f} kPa.",
            figure=f"{off:+.1f} kPa",
            remedy="Check the sensor's supply, its ground and its curve before trusting any boost it shows.",
        )
    ]


def vacuum_words(gauge_kpa: float, boost_unit: str) -> str:
    """One scale for both: vacuum in inches of mercury below nothing, boost in psi, bar or kPa above.

    >>> vacuum_words(-60, 'psi'), vacuum_words(100, 'psi')
    ('17.7 inHg vacuum', '14.5 psi boost')
    """
    if gauge_kpa < 0:
        return f"{-gauge_kpa / 3.38639:.1f} inHg vacuum"
    factor, digits = {"psi": (convert(1.0, "kilopascal", "psi"), 1), "bar": (0.01, 2), "kPa": (1.0, 0)}[
        boost_unit
    ]
    return f"{gauge_kpa * factor:.{digits}f} {boost_unit} boost"
