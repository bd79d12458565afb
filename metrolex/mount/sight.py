"""What is read at a distance, and what the rim hides, in the side view (plane geometry; grades of character height: ISO 15008)."""

from __future__ import annotations

import itertools
import math
from typing import Literal

from metrolex.errors import BadInput

__all__ = ["GOOD", "GRADES", "Grade", "Point", "arcmin_of", "character_for", "grade_of", "hidden_mm"]

Point = tuple[float, float]
Segment = tuple[Point, Point]
Grade = Literal["good", "acceptable", "minimum", "too_small"]
#: Least height of a character in minutes of arc, by grade (ISO 15008).
GRADES: tuple[tuple[Grade, float], ...] = (("good", 20.0), ("acceptable", 16.0), ("minimum", 12.0))
GOOD = GRADES[0][1]
_NEXT_TO_NOTHING = 1e-9


def arcmin_of(character_mm: float, distance_mm: float) -> float:
    """The angle a character is seen under, minutes of arc.

    >>> round(arcmin_of(4.0, 700.0), 2)
    19.64
    """
    return math.degrees(2 * math.atan(character_mm / (2 * distance_mm))) * 60


def character_for(arcmin: float, distance_mm: float) -> float:
    """The height a character must have to be seen under an angle, mm."""
    return 2 * distance_mm * math.tan(math.radians(arcmin / 60) / 2)


def grade_of(arcmin: float) -> Grade:
    """The grade of an angle; a hair under a bound counts as the bound."""
    return next((grade for grade, least in GRADES if arcmin >= least - 1e-6), "too_small")


def hidden_mm(eye: Point, rim: Segment, display: Segment) -> float:
    """The length of a display, seen from the side, that the rim hides from the eye. Raises BadInput where the eye is in the rim or on the display.

    Only what lies between the eye and the display hides: a rim behind it, or behind the eye, does not.
    """
    for name, segment in (("rim", rim), ("display", display)):
        if math.dist(*segment) <= _NEXT_TO_NOTHING:
            raise BadInput(name, [list(point) for point in segment], "two points apart")
        if _off(eye, segment) <= _NEXT_TO_NOTHING:
            raise BadInput("eye", list(eye), f"a point beside the {name}")
    bounds = sorted(
        {
            0.0,
            1.0,
            *(t for point in rim if (t := _along(eye, point, display)) is not None),
            *_met(rim, display),
        }
    )
    length = math.dist(*display)
    return sum(
        (then - first) * length
        for first, then in itertools.pairwise(bounds)
        if _crosses(eye, _at(display, (first + then) / 2), rim)
    )


def _along(eye: Point, point: Point, display: Segment) -> float | None:
    """Where on the display (0 to 1) the sight line past a point ends; None beside it."""
    found = _meet((eye, point), display)
    return found[1] if found is not None and found[0] > 0 and 0 < found[1] < 1 else None


def _met(rim: Segment, display: Segment) -> list[float]:
    found = _meet(rim, display)
    return [found[1]] if found is not None and 0 < found[0] < 1 and 0 < found[1] < 1 else []


def _crosses(eye: Point, point: Point, rim: Segment) -> bool:
    found = _meet((eye, point), rim)
    return found is not None and 0 < found[0] < 1 and 0 <= found[1] <= 1


def _meet(first: Segment, second: Segment) -> tuple[float, float] | None:
    """How far along each of two lines they meet, in lengths of its segment; None for parallels."""
    (ax, ay), (bx, by) = first
    (cx, cy), (dx, dy) = second
    ux, uy, vx, vy = bx - ax, by - ay, dx - cx, dy - cy
    turn = ux * vy - uy * vx
    if abs(turn) <= _NEXT_TO_NOTHING * math.hypot(ux, uy) * math.hypot(vx, vy):
        return None
    wx, wy = cx - ax, cy - ay
    return (wx * vy - wy * vx) / turn, (wx * uy - wy * ux) / turn


def _at(segment: Segment, share: float) -> Point:
    (ax, ay), (bx, by) = segment
    return ax + share * (bx - ax), ay + share * (by - ay)


def _off(point: Point, segment: Segment) -> float:
    """The distance of a point from a segment."""
    (ax, ay), (bx, by) = segment
    ux, uy = bx - ax, by - ay
    share = ((point[0] - ax) * ux + (point[1] - ay) * uy) / (ux * ux + uy * uy)
    return math.dist(point, _at(segment, min(1.0, max(0.0, share))))
