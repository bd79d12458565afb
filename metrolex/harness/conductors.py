"""Conductors: resistance by size, length and temperature; the smallest size that will do.

mm2 sizes: largest resistance of ISO 6722 (now ISO 19642). AWG: diameters of ASTM B258 with annealed copper
of 100 % IACS. Largest fuse of a size: common practice, no source.
"""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass
from typing import Literal

from metrolex.errors import BadInput
from metrolex.feeds.fuses import largest_rating, rating_for
from metrolex.findings import Finding
from metrolex.tables import load_table

__all__ = [
    "Gauge",
    "Surroundings",
    "System",
    "WireChoice",
    "bundle_factor",
    "choose_wire",
    "derating",
    "gauges",
    "guarded_by_a",
    "max_fuse_a",
    "wire_ohm",
]

System = Literal["mm2", "awg"]
REFERENCE_AMBIENT_DEGC = 30.0  # of IEC 60364-5-52; the largest fuses of the table are taken to hold there
LOAD_RATIO = 0.8  # of the largest fuse, for good (common practice, no source)


@dataclass(frozen=True, slots=True)
class Gauge:
    """One size of wire. ``ohm_per_m`` at 20 degC, ``od_mm`` over its insulation."""

    size: float
    system: System
    ohm_per_m: float
    max_fuse_a: float
    od_mm: float

    @property
    def words(self) -> str:
        return f"{self.size:g} mm²" if self.system == "mm2" else f"AWG {self.size:g}"


@dataclass(frozen=True, slots=True)
class WireChoice:
    """The smallest wire that carries the current within the drop; None throughout where none does."""

    gauge: Gauge | None
    drop_v: float | None
    resistance_ohm: float | None
    findings: tuple[Finding, ...]
    max_fuse_a: float | None = None


@functools.cache
def gauges(system: System) -> tuple[Gauge, ...]:
    """All sizes of a system, thinnest first."""
    table = load_table("conductors")
    if system == "mm2":
        return tuple(
            Gauge(r["size"], "mm2", r["mohm_per_m"] / 1000, r["max_fuse_a"], r["od_mm"]) for r in table["mm2"]
        )
    shape = table["awg_geometry"]
    found = []
    for row in table["awg"]:
        exponent = (shape["smallest_gauge"] - row["size"]) / shape["steps"]
        diameter_m = shape["smallest_diameter_mm"] * shape["ratio"] ** exponent / 1000
        found.append(
            Gauge(
                row["size"],
                "awg",
                shape["resistivity_ohm_m"] / (math.pi / 4 * diameter_m**2),
                row["max_fuse_a"],
                row["od_mm"],
            )
        )
    return tuple(found)


def find_gauge(size: float, system: System) -> Gauge:
    """The row of a size. Raises BadInput (field ``size``) listing the sizes there are."""
    for gauge in gauges(system):
        if math.isclose(gauge.size, size):
            return gauge
    sizes = ", ".join(f"{gauge.size:g}" for gauge in gauges(system))
    raise BadInput("size", size, f"one of {sizes} ({system})")


def wire_ohm(size: float, system: System, length_m: float, temperature_degc: float = 20.0) -> float:
    """Resistance of ``length_m`` of wire at ``temperature_degc``, in ohm.

    >>> round(wire_ohm(1.0, 'mm2', 10.0), 4)
    0.185
    """
    table = load_table("conductors")
    rise = 1 + table["temperature_coefficient_per_k"] * (temperature_degc - table["reference_degc"])
    return float(find_gauge(size, system).ohm_per_m * length_m * rise)


def max_fuse_a(size: float, system: System) -> float:
    """Largest fuse that still guards this wire, in ampere (common practice for single thin-wall wires)."""
    return find_gauge(size, system).max_fuse_a


@dataclass(frozen=True, slots=True)
class Surroundings:
    """What keeps a wire from shedding its heat: the air around it, how many loaded wires lie in one bundle, what its insulation stands."""

    ambient_degc: float = REFERENCE_AMBIENT_DEGC
    bundled: int = 1
    insulation_degc: float = 105.0


def derating(around: Surroundings) -> float:
    """Part of its current a wire may still carry, at most 1: the square root of the temperature it may rise, times the bundle's factor.

    IEC 60364-5-52: ambient by the square root of (insulation less ambient) over (insulation less 30 degC), grouped in air by
    table B.52.17 (from memory). Raises BadInput for air as hot as the insulation stands.

    >>> derating(Surroundings()), round(derating(Surroundings(bundled=4)), 2), round(derating(Surroundings(60.0)), 3)
    (1.0, 0.65, 0.775)
    """
    if around.ambient_degc >= around.insulation_degc:
        raise BadInput(
            "ambient_degc",
            around.ambient_degc,
            f"less than the insulation stands, {around.insulation_degc:g} degC",
        )
    rise = (around.insulation_degc - around.ambient_degc) / (around.insulation_degc - REFERENCE_AMBIENT_DEGC)
    return min(1.0, math.sqrt(rise)) * bundle_factor(around.bundled)


def bundle_factor(wires: int) -> float:
    """Part of its current a wire may still carry among so many loaded ones, 1 for one alone."""
    groups = load_table("conductors")["bundle_factors"]
    return float(next((row["factor"] for row in reversed(groups) if wires >= row["wires"]), 1.0))


def guarded_by_a(size: float, system: System, around: Surroundings | None = None) -> float:
    """Largest standard fuse that guards a wire where it lies; 0 where none is small enough."""
    limit = max_fuse_a(size, system)
    return limit if around is None else largest_rating(limit * derating(around))


def choose_wire(
    current_a: float,
    length_m: float,
    max_drop_v: float,
    temperature_degc: float,
    system: System,
    return_by_wire: bool,
    around: Surroundings | None = None,
) -> WireChoice:
    """The smallest size for a load: 80 % of its largest fuse, the fuse the load calls for, and the drop out and, if by wire, back.

    ``temperature_degc`` is the conductor's, for its resistance; ``around`` takes from what it may carry.
    """
    way_m = length_m * (2 if return_by_wire else 1)
    wanted_a = rating_for(current_a)
    for gauge in gauges(system):
        ohm = wire_ohm(gauge.size, system, way_m, temperature_degc)
        fuse_a = guarded_by_a(gauge.size, system, around)
        carries = current_a <= LOAD_RATIO * fuse_a and (wanted_a is None or wanted_a <= fuse_a)
        if carries and current_a * ohm <= max_drop_v:
            return WireChoice(
                gauge,
                current_a * ohm,
                ohm,
                () if wanted_a is not None else (_no_blade_fuse(current_a),),
                fuse_a,
            )
    thickest = gauges(system)[-1]
    ohm = wire_ohm(thickest.size, system, way_m, temperature_degc)
    most_a = LOAD_RATIO * guarded_by_a(thickest.size, system, around)
    if current_a > most_a:
        reason = f"The thickest wire here carries {most_a:g} A."
        figure = f"{current_a:g} A"
    else:
        reason = f"Even {thickest.words} drops {current_a * ohm:.2f} V over {way_m:g} m."
        figure = f"{current_a * ohm:.2f} V, allowed {max_drop_v:g} V"
    stop = Finding(
        "stop",
        "no_size_will_do",
        "wire",
        reason,
        figure,
        "Shorten the run, split the load or use a relay near it.",
    )
    return WireChoice(None, None, None, (stop,))


def _no_blade_fuse(current_a: float) -> Finding:
    return Finding(
        "caution",
        "no_blade_fuse",
        "wire",
        "No blade fuse carries this load for good.",
        f"{current_a:g} A",
        "A bolted fuse at the battery, as its maker says.",
    )
