"""Which circuits are never tapped, which are better left alone, which are fair.

The words stand in ``data/circuits.toml`` (common practice, no source); the vehicle maker's instructions and
the wiring diagram come first.
"""

from __future__ import annotations

import functools
import re
from dataclasses import dataclass
from typing import Literal

from metrolex.tables import load_table

__all__ = ["Standing", "standing_of"]


@dataclass(frozen=True, slots=True)
class Standing:
    """How a circuit's purpose stands to being tapped, and the system that decides it."""

    grade: Literal["never", "avoid", "unknown", "fair"]
    system: str = ""


def standing_of(purpose: str) -> Standing:
    """Judge a purpose by its words, the gravest first.

    >>> standing_of('Seat belt and airbag').grade
    'never'
    >>> standing_of('Accessory socket, rear').grade
    'fair'
    """
    grades: tuple[tuple[str, Literal["never", "avoid", "fair"]], ...] = (
        ("never_tap", "never"), ("avoid", "avoid"), ("fair", "fair"),
    )  # fmt: skip
    for section, grade in grades:
        for system, pattern in _patterns(section):
            if pattern.search(purpose):
                return Standing(grade, system)
    return Standing("unknown")


@functools.cache
def _patterns(section: str) -> tuple[tuple[str, re.Pattern[str]], ...]:
    found = []
    for system, phrases in load_table("circuits")[section].items():
        longest_first = sorted(phrases, key=len, reverse=True)
        words = "|".join(re.escape(phrase).replace(r"\ ", r"[\s\-/]+") for phrase in longest_first)
        found.append(
            (system, re.compile(rf"(?<![\w]){words and '(?:' + words + ')'}(?![\w])", re.IGNORECASE))
        )
    return tuple(found)
