"""What goes into what, how the joint seals, what to put on it and how tight.

Sealing rules are common practice but for the flank angles and pitches that make threads belong together. Tape never
goes on a thread that seals on a washer, an O-ring or a flare.
"""

from __future__ import annotations

import functools
from dataclasses import dataclass
from typing import Literal

from metrolex.fittings.connections import Connection
from metrolex.quantities import inch_fraction
from metrolex.tables import load_table

__all__ = [
    "Gender",
    "Joint",
    "Material",
    "Seal",
    "Service",
    "dressing",
    "join",
    "partners",
    "size_words",
    "tighten",
]

Gender = Literal["male", "female"]
Seal = Literal["sealant", "washer", "o_ring", "flare", "compression", "clamp", "weld"]
#: What flows behind the joint: it decides what may go on the thread.
Service = Literal["", "exhaust", "fuel", "coolant", "oil", "air", "water"]
Material = Literal["", "cast_iron", "steel", "aluminium", "sheet", "plastic", "rubber", "brass"]

#: A taper male that may go into a parallel female of the same size: never the other way round.
_TAPER_IN_PARALLEL = {"bspt": "bspp", "metric_taper": "metric"}
_SEALS: dict[str, Seal] = {
    "npt": "sealant",
    "bspt": "sealant",
    "metric_taper": "sealant",
    "bspp": "washer",
    "metric": "washer",
    "unf": "washer",
    "orb": "o_ring",
    "flare": "flare",
    "hose": "clamp",
    "tube": "compression",
    "probe": "compression",
    "quick": "o_ring",
    "hole": "weld",
    "through": "washer",
    "filter": "o_ring",
    "plug": "washer",
}


@dataclass(frozen=True, slots=True)
class Joint:
    """A male in a female: how they seal. ``taper_in_parallel``: wedged in, watch the boss."""

    male: Connection
    female: Connection
    seal: Seal
    taper_in_parallel: bool = False


def join(male: Connection, female: Connection) -> Joint | None:
    """The joint two connections make; None where they do not belong together (this is an answer, not a failure)."""
    if male.name == female.name:
        return Joint(male, female, _SEALS[male.family])
    if _parallel_name(male) == female.name:
        return Joint(male, female, "sealant", True)
    return None


@functools.lru_cache(maxsize=1024)
def partners(connection: Connection, gender: Gender) -> tuple[str, ...]:
    """The names of the connections of the other gender that belong to an exposed one."""
    if gender == "male":
        parallel = _parallel_name(connection)
        return (connection.name, parallel) if parallel else (connection.name,)
    if connection.family == "bspp":
        pitch = round(25.4 / connection.pitch_mm)
        return connection.name, f"{connection.name[1:]}-{pitch} BSPT"
    if connection.family == "metric":
        return connection.name, f"{connection.name} taper"
    return (connection.name,)


def _parallel_name(male: Connection) -> str:
    if male.family == "bspt":
        return "G" + male.name.partition("-")[0]
    return male.name.removesuffix(" taper") if male.family == "metric_taper" else ""


def dressing(joint: Joint, service: Service) -> str:
    """What to put on a joint before it goes together."""
    if joint.seal == "sealant":
        if service == "exhaust":
            return "Anti-seize on the thread, no tape: tape burns."
        if service == "fuel":
            return "Fuel-proof paste sealant, first thread bare; no tape, shreds block injectors."
        return "PTFE tape two turns with the thread or paste sealant, first thread bare; nothing more where it comes with sealant on."
    if joint.male.family == "probe":
        return "Slide it to its mark, ring and nut dry; once the ring has bitten it stays where it is."
    if joint.male.family == "through":
        return "Bare metal on both sides; a new washer under the head and one under the nut."
    if joint.male.family == "filter":
        return "Seat wiped clean, seal wet with clean oil and facing the engine."
    return {
        "washer": "Anti-seize on the thread."
        if service == "exhaust"
        else "New washer; nothing on the thread.",
        "o_ring": "Wet the ring with the fluid behind it; nothing on the thread.",
        "flare": "Clean and dry; a drop of oil on the nut's thread only.",
        "compression": "Cut square, deburr inside and out; ring the right way round; nothing on it.",
        "clamp": "Clamp behind the barb, screw where a driver reaches it.",
        "weld": "Clean to bright metal; sensor out while welding.",
    }[joint.seal]


def tighten(joint: Joint, material: Material, compression_practice: str = "quarter_turn") -> str:
    """How tight a joint is made, in words with its figure (common practice, no source).

    >>> from metrolex.fittings.connections import connection_called as called
    >>> tighten(join(called('1/8-27 NPT'), called('1/8-27 NPT')), 'aluminium')
    'Hand-tight, then 1 to 2 turns.'
    """
    table = load_table("tightening")
    soft = material in ("aluminium", "plastic", "brass", "sheet")
    if joint.seal == "sealant":
        turns = table["turns"]["sealant"]
        low, high = turns.get(material, turns["other"])
        return f"Hand-tight, then {low:g} to {high:g} turns." + (
            " Stop early: the boss splits." if joint.taper_in_parallel else ""
        )
    if joint.seal in ("washer", "o_ring") and joint.male.threaded:
        for row in table["torque"]["rows"]:
            if row["low_mm"] <= joint.male.major_mm < row["high_mm"]:
                return f"About {row['alloy'] if soft else row['firm']} N m."
        return "Snug."
    if joint.male.family == "through":
        return "Nut firm with the body held; not by turning the body."
    if joint.male.family == "filter":
        return "Stud by the plate maker's figure."
    if joint.seal == "flare":
        flats = table["flare"].get(joint.male.name, 1.5)
        return f"Hand-tight, then {flats:g} flats of the nut."
    if joint.seal == "compression":
        return f"{table['compression'].get(compression_practice, table['compression']['quarter_turn'])}."
    return {
        "clamp": "Firm, then again after the first warm run.",
        "weld": "Welded all round by someone who does it for a living.",
        "o_ring": "Until it clicks or seats by hand.",
        "washer": "As the plug's maker says.",
    }[joint.seal]


def size_words(length_mm: float) -> str:
    """Millimetres and the nearest inch fraction, for tools that come in both."""
    return f"{length_mm:.1f} mm ({inch_fraction(length_mm / 1000)} in)"
