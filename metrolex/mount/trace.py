"""An outline typed or traced: points in mm as lines of two numbers, or dots on a photograph with two distances that are known.

Two distances that lie askew to one another give the scale across and the scale up and down, each by itself: a photograph taken not quite straight on is
squared up by it. Two that lie the same way give one scale (plane geometry).
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.quantities import parse_number

__all__ = ["Known", "Traced", "outline_text", "read_outline", "scaled"]

Dot = tuple[float, float]
#: Two known distances the same way may differ in scale by this; more is a photograph taken askew.
SAME_SCALE = 0.03
#: Two directions count as different from this determinant of their squares on (0 to 1).
SQUARE_ENOUGH = 0.15


@dataclass(frozen=True, slots=True)
class Known:
    """Two dots of a photograph and the distance between them, mm."""

    a: Dot
    b: Dot
    mm: float


@dataclass(frozen=True, slots=True)
class Traced:
    """An outline in mm about the first dot of the first known distance; the scales it was made with, mm a dot, across and upright."""

    outline: tuple[Dot, ...]
    across: float
    upright: float


def read_outline(text: str) -> tuple[Dot, ...]:
    """Points from lines of two numbers, mm. Raises BadInput (field ``outline``) naming the line.

    >>> read_outline("0 0\\n120; 0\\n60, 80")
    ((0.0, 0.0), (120.0, 0.0), (60.0, 80.0))
    """
    found = []
    for i, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        words = re.split(r"\s*[;\t]\s*|\s*,\s+|\s+", line.strip())
        if len(words) == 1:
            words = line.strip().split(",")
        if len(words) != 2:
            raise BadInput(
                "outline",
                line.strip()[:60],
                "two numbers a line, to the right and up",
                f"Line {i} is not two numbers: '{line.strip()[:40]}'.",
            )
        try:
            found.append((parse_number(words[0]), parse_number(words[1])))
        except BadInput as fault:
            raise BadInput(
                "outline", line.strip()[:60], fault.allowed, f"Line {i}: {fault.message}"
            ) from None
    return tuple(found)


def outline_text(outline: Iterable[Dot]) -> str:
    """The lines ``read_outline`` reads."""
    return "\n".join(f"{x:g} {y:g}" for x, y in outline)


def scaled(known: Sequence[Known], dots: Sequence[Dot]) -> Traced:
    """Dots of a photograph (to the right and down) as an outline in mm (to the right and up).

    Raises BadInput without a scale, for a distance of nothing, and where two distances the same way contradict each other.
    """
    if not known:
        raise BadInput(
            "known",
            None,
            "a known distance or two",
            "Mark two dots whose distance you have measured: without it there is no scale.",
        )
    for one in known:
        if math.dist(one.a, one.b) < 1.0 or one.mm <= 0:
            raise BadInput("known", one.mm, "two dots apart and their distance above 0 mm")
    across, upright = _scales(known)
    x0, y0 = known[0].a
    outline = tuple((round((x - x0) * across, 1), round((y0 - y) * upright, 1)) for x, y in dots)
    return Traced(outline, across, upright)


def _scales(known: Sequence[Known]) -> tuple[float, float]:
    """mm a dot, across and upright."""
    single = [one.mm / math.dist(one.a, one.b) for one in known]
    if len(known) == 1:
        return single[0], single[0]
    (ax, ay), (bx, by) = (((one.a[0] - one.b[0]) ** 2, (one.a[1] - one.b[1]) ** 2) for one in known[:2])
    turn = ax * by - bx * ay
    if abs(turn) < SQUARE_ENOUGH * (ax + ay) * (bx + by):
        if abs(single[0] / single[1] - 1) > SAME_SCALE:
            raise BadInput(
                "known",
                known[1].mm,
                "two distances that agree",
                f"The two distances give scales {abs(single[0] / single[1] - 1):.0%} apart: measure again, or take the photograph straight on.",
            )
        mean = (single[0] + single[1]) / 2
        return mean, mean
    across = (known[0].mm ** 2 * by - known[1].mm ** 2 * ay) / turn
    upright = (ax * known[1].mm ** 2 - bx * known[0].mm ** 2) / turn
    if across <= 0 or upright <= 0:
        raise BadInput(
            "known",
            known[1].mm,
            "two distances that agree",
            "The two distances contradict each other: measure again.",
        )
    return math.sqrt(across), math.sqrt(upright)
