"""What stands on a tyre's side, and how far it rolls in one turn.

Overall diameter from the designation (ISO 4000-1 for metric, ETRTO Standards Manual); a radial under load rolls about 3.05
overall diameters in one turn (ETRTO usage). Inch tyres for motorcycles and old vehicles are taken as high as they are wide
(common practice, no source). Data in ``data/tyres.toml``.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from metrolex.errors import BadInput
from metrolex.tables import load_table

__all__ = ["Tyre", "circumference_m", "read_tyre", "roll_out_m"]

_LOAD_AND_SPEED = r"(?:\s*(?P<load>[0-9]{2,3})(?:/[0-9]{2,3})?\s*(?P<speed>[A-HJ-NP-WY]))?"
_MARKS = r"(?:\s*(?:TL|TT|M/?C|LT|C|XL|RF|WW|M\+S))*"
_CONSTRUCTION = r"(?:Z?R|B|-|D)"
_METRIC = re.compile(
    rf"^(?:P|LT)?\s*(?P<width>[0-9]{{2,3}})\s*/\s*(?P<aspect>[0-9]{{2,3}})\s*(?P<build>{_CONSTRUCTION})\s*(?P<rim>[0-9]{{1,2}}(?:\.[0-9])?){_MARKS}{_LOAD_AND_SPEED}{_MARKS}$"
)
_FULL = re.compile(
    rf"^(?P<width>[0-9]{{3}})\s*(?P<build>R|-)\s*(?P<rim>[0-9]{{1,2}}(?:\.[0-9])?){_MARKS}{_LOAD_AND_SPEED}{_MARKS}$"
)
_FLOTATION = re.compile(
    rf"^(?P<overall>[0-9]{{2}}(?:\.[0-9]+)?)\s*[X×]\s*(?P<width>[0-9]{{1,2}}(?:\.[0-9]+)?)\s*(?P<build>R|-|B|D)\s*(?P<rim>[0-9]{{1,2}}(?:\.[0-9])?){_MARKS}{_LOAD_AND_SPEED}{_MARKS}$"
)
_INCH = re.compile(
    rf"^(?P<width>[0-9]{{1,2}}\.[0-9]{{1,2}})\s*(?P<build>-|R|B|[SHV](?:R|B)?|X|×)\s*(?P<rim>[0-9]{{1,2}}(?:\.[0-9])?){_MARKS}{_LOAD_AND_SPEED}{_MARKS}$"
)
_PATTERNS = {"metric": _METRIC, "full profile": _FULL, "flotation": _FLOTATION, "inch": _INCH}


@dataclass(frozen=True, slots=True)
class Tyre:
    """A designation read: sizes in metres, load in kg and speed in km/h where marked."""

    mark: str
    style: Literal["metric", "full profile", "flotation", "inch"]
    width_m: float
    rim_m: float
    diameter_m: float
    radial: bool
    load_kg: float | None = None
    speed_kmh: float | None = None

    @property
    def section_m(self) -> float:
        """Height of the side wall."""
        return (self.diameter_m - self.rim_m) / 2


def read_tyre(mark: str) -> Tyre:
    """A tyre from its designation. Raises BadInput (field ``tyre``) for one that cannot be read or cannot be.

    >>> round(read_tyre('205/55R16 91V').diameter_m * 1000, 1)
    631.9
    >>> read_tyre('31x10.50R15').style, round(read_tyre('4.00-18').diameter_m, 4)
    ('flotation', 0.6604)
    """
    allowed = "a designation like 205/55R16, 31x10.50R15, 4.00-18 or 130/90-16"
    text = " ".join(mark.upper().replace(",", ".").split())
    table = load_table("tyres")
    reads = ((style, pattern.match(text)) for style, pattern in _PATTERNS.items())
    style, found = next(((style, match) for style, match in reads if match), ("", None))
    if found is None:
        raise BadInput(
            "tyre",
            mark[:40],
            allowed,
            f"'{mark:.40}' is not a tyre designation: write it like 205/55R16, 31x10.50R15 or 4.00-18.",
        )
    part = found.groupdict()
    rim = float(part["rim"]) * 0.0254
    if style in ("metric", "full profile"):
        width = float(part["width"]) / 1000
        aspect = float(part["aspect"]) / 100 if style == "metric" else table["full_profile_aspect"]
        diameter = rim + 2 * width * aspect
    elif style == "flotation":
        width, diameter = float(part["width"]) * 0.0254, float(part["overall"]) * 0.0254
    else:
        width = float(part["width"]) * 0.0254
        diameter = rim + 2 * width * table["inch_aspect"]
    if not (0.15 <= rim <= 0.70 and 0.04 <= width <= 0.50 and rim + 0.04 <= diameter <= 1.6):
        raise BadInput(
            "tyre",
            mark[:40],
            allowed,
            f"'{mark:.40}' cannot be: {width * 1000:.0f} mm wide on a {rim / 0.0254:g} inch rim, {diameter * 1000:.0f} mm high.",
        )
    load = table["load_kg"].get(part["load"] or "")
    speed = table["speed_kmh"].get(part["speed"] or "")
    return Tyre(text, style, width, rim, diameter, "R" in part["build"], load, speed)  # type: ignore[arg-type]


def circumference_m(tyre: Tyre, wear_mm: float = 0.0) -> float:
    """How far a loaded tyre rolls in one turn, metres; ``wear_mm`` is tread lost. Raises BadInput for impossible wear.

    >>> round(circumference_m(read_tyre('205/55R16')), 4)
    1.9273
    """
    if wear_mm < 0:
        raise BadInput("tyre_wear_mm", wear_mm, "0 or more: the depth of tread that is gone")
    if wear_mm > min(25.0, tyre.section_m * 500):
        raise BadInput(
            "tyre_wear_mm", wear_mm, f"no more than {min(25.0, tyre.section_m * 500):.0f} mm on this tyre"
        )
    return float(load_table("tyres")["rolling_factor"] * (tyre.diameter_m - 2 * wear_mm / 1000))


def roll_out_m(distance_m: float, turns: float) -> float:
    """Rolling circumference from a chalk mark over some turns. Raises BadInput where it cannot be a tyre.

    >>> round(roll_out_m(9.63, 5), 6)
    1.926
    """
    if not turns > 0:
        raise BadInput("turns", turns, "one turn or more")
    found = distance_m / turns
    if not 0.4 <= found <= 5.0:
        raise BadInput("distance_m", distance_m, f"{0.4 * turns:g} to {5.0 * turns:g} m for {turns:g} turns")
    return found
