"""How far a taper thread goes in, by hand and pulled up: the geometry of a 1 in 16 taper.

Worked from the standard's own figures: hand-tight length, pitch, pitch diameter at the small end.
"""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.fittings.connections import TAPER, Connection

__all__ = ["Engagement", "engage", "minor_diameter_mm"]

#: Height of a truncated flank over the pitch: 0.8 for NPT (ASME B1.20.1), 0.640327 for 55 degree pipe threads.
_HEIGHT = {"npt": 0.8, "bspt": 0.640327, "metric_taper": 0.613435}


@dataclass(frozen=True, slots=True)
class Engagement:
    """Lengths in millimetres below the face of the port; threads as a count."""

    hand_tight_mm: float
    pulled_up_mm: float
    threads_by_hand: float
    threads_pulled_up: float
    stands_through_mm: float


def engage(thread: Connection, wall_mm: float, turns: float = 2.5) -> Engagement:
    """How deep a taper male stands in a standard female hole through a wall, ``turns`` past hand-tight.

    Raises BadInput for a parallel thread or a wall of 0.

    >>> from metrolex.fittings.connections import connection_called
    >>> round(engage(connection_called('1/8-27 NPT'), 10.0).hand_tight_mm, 2)
    4.1
    """
    if not thread.tapered:
        raise BadInput("thread", thread.name, "a taper thread")
    if wall_mm <= 0:
        raise BadInput("wall_mm", wall_mm, "a wall of more than 0 mm")
    by_hand = thread.hand_tight_mm
    pulled = by_hand + turns * thread.pitch_mm
    return Engagement(
        by_hand,
        pulled,
        min(wall_mm, by_hand) / thread.pitch_mm,
        min(wall_mm, pulled) / thread.pitch_mm,
        max(0.0, pulled - wall_mm),
    )


def minor_diameter_mm(thread: Connection, depth_mm: float) -> float:
    """Minor diameter of the standard female taper ``depth_mm`` below its mouth.

    The mouth is where the male's gauge plane stands hand-tight.
    """
    if not thread.tapered:
        raise BadInput("thread", thread.name, "a taper thread")
    at_mouth = thread.pitch_diameter_mm + TAPER * thread.hand_tight_mm
    return at_mouth - _HEIGHT[thread.family] * thread.pitch_mm - TAPER * depth_mm
