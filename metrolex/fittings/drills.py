"""Which drills, in which order, for a tapped hole; and whether the wall holds a thread at all.

Tap drills of NPT by practice come from ``data/drills.toml``, those of other threads from ``data/connections.toml``.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.fittings.connections import MM_PER_IN, Connection
from metrolex.fittings.engagement import minor_diameter_mm
from metrolex.quantities import inch_fraction
from metrolex.tables import load_table

__all__ = ["MATERIALS", "Drill", "DrillPlan", "TapPractice", "plan_hole", "tap_drill"]

TapPractice = Literal["handbook", "larger"]
MATERIALS = ("cast_iron", "steel", "aluminium", "sheet")


@dataclass(frozen=True, slots=True)
class Drill:
    """A drill by the name on its rack and its size in millimetres."""

    name: str
    size_mm: float


@dataclass(frozen=True, slots=True)
class DrillPlan:
    """How a hole is drilled and tapped, and how the depth is known.

    ``enters_by_hand_mm`` is how far the fitting should screw in by hand when the tap has gone deep enough;
    0 for a parallel thread.
    """

    thread: Connection
    steps_mm: tuple[float, ...]
    tap_drill: Drill
    threads_engaged: float
    enters_by_hand_mm: float
    lubricant: str
    findings: tuple[Finding, ...]


def tap_drill(thread: Connection, reamed: bool = False, practice: TapPractice = "handbook") -> Drill:
    """The drill before the tap.

    Raises BadInput (``thread``) for what is not tapped. The handbook's drill for NPT differs with and without a
    taper reamer; 'larger' is what some shops take instead (common practice), the handbook's where there is none.

    >>> from metrolex.fittings.connections import connection_called
    >>> tap_drill(connection_called('1/8-27 NPT')).name, tap_drill(connection_called('M10x1')).size_mm
    ('R', 9.0)
    """
    if thread.family == "npt":
        rows = load_table("drills")["npt"][thread.name]
        row = rows["reamed"] if reamed else rows["unreamed"]
        if practice == "larger" and not reamed:
            row = rows.get("other", row)
        return Drill(row["name"], round(row["drill_in"] * MM_PER_IN, 2))
    if not thread.drill_mm:
        raise BadInput(
            "thread",
            thread.name,
            "a thread that is tapped, like 1/8-27 NPT, M10x1 or G1/8",
            f"{thread.name} is not a thread to tap by hand in a wall.",
        )
    return Drill(_rack_name(thread.drill_mm), round(thread.drill_mm, 2))


def _rack_name(size_mm: float) -> str:
    for letter, inches in load_table("drills")["letters"].items():
        if abs(inches * MM_PER_IN - size_mm) < 0.01:
            return str(letter)
    tenths = round(size_mm * 20) / 20
    return f"{tenths:g} mm" if abs(tenths - size_mm) < 0.006 else f"{inch_fraction(size_mm / 1000)} in"


def plan_hole(
    thread: Connection,
    wall_mm: float,
    material: str,
    reamed: bool = False,
    practice: TapPractice = "handbook",
) -> DrillPlan:
    """Drill and tap a wall of ``wall_mm``. Raises BadInput for an unknown material or a thread nobody taps.

    ``threads_engaged`` is the lesser of wall and effective thread over the pitch. Too few is a stop that says what
    to do instead (four, six in alloy: common practice, no source).
    """
    if material not in MATERIALS:
        raise BadInput("material", material, " | ".join(MATERIALS))
    if wall_mm <= 0:
        raise BadInput("wall_mm", wall_mm, "a wall of more than 0 mm")
    drill = tap_drill(thread, reamed, practice)
    facts = load_table("drills")["material"][material]
    reach = min(wall_mm, thread.effective_mm) if thread.tapered else wall_mm
    engaged = reach / thread.pitch_mm
    return DrillPlan(
        thread,
        _steps(drill.size_mm),
        drill,
        engaged,
        thread.hand_tight_mm,
        facts["lubricant"],
        tuple(_findings(thread, drill, wall_mm, material, engaged, reamed, facts)),
    )


def _steps(last_mm: float) -> tuple[float, ...]:
    """Pilot, even steps to the half millimetre, tap drill."""
    rule = load_table("drills")["steps"]
    pilot = rule["pilot_mm"]
    if last_mm <= pilot + 0.5:
        return (last_mm,)
    count = math.ceil((last_mm - pilot) / rule["largest_rise_mm"])
    between = [round(2 * (pilot + (last_mm - pilot) * i / count)) / 2 for i in range(1, count)]
    return (pilot, *between, last_mm)


def _findings(
    thread: Connection,
    drill: Drill,
    wall_mm: float,
    material: str,
    engaged: float,
    reamed: bool,
    facts: dict[str, object],
) -> list[Finding]:
    found = []
    least = 4
    if material == "sheet" or engaged < least:
        found.append(
            Finding(
                "stop",
                "wall_too_thin",
                thread.name,
                f"A wall of {wall_mm:g} mm of {facts['words']} does not hold {thread.name}.",
                f"{engaged:.1f} threads, wants {least}",
                "Weld a bung, bolt on a thicker boss, or take another place.",
                "ports",
            )
        )
    elif engaged < float(str(facts["least_threads"])):
        found.append(
            Finding(
                "caution",
                "few_threads",
                thread.name,
                "Few threads for alloy: they strip on the second fitting.",
                f"{engaged:.1f} threads, better {facts['least_threads']}",
                "Tighten by the lower turn count, or look for a thicker place.",
                "ports",
            )
        )
    if reamed:
        found.append(
            Finding(
                "note",
                "reamer",
                thread.name,
                "After the drill goes a taper reamer, 1 in 16, until the tap starts by itself.",
                "1 in 16",
                "Ream, then tap.",
                "ports",
            )
        )
    if thread.tapered and engaged >= least and wall_mm < thread.hand_tight_mm:
        found.append(
            Finding(
                "caution",
                "wall_short_of_gauge",
                thread.name,
                "The wall is thinner than the fitting goes in by hand: it will stand through.",
                f"{wall_mm:g} of {thread.hand_tight_mm:.1f} mm",
                "Check that the end of the fitting does not stand in the stream.",
                "ports",
            )
        )
    if thread.tapered and drill.size_mm >= minor_diameter_mm(thread, 0.0) - 0.015:
        found.append(
            Finding(
                "note",
                "mouth_bare",
                thread.name,
                "The drill is as wide as the mouth of the taper: the first threads have no crest to bear on.",
                f"{drill.size_mm:.2f} mm, mouth {minor_diameter_mm(thread, 0.0):.2f}",
                "Tap a little deeper, or take the handbook's drill.",
                "ports",
            )
        )
    return found
