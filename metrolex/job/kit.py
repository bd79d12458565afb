"""What is at hand for the job, and what fluid went out and came back."""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.intake import Key, NonNegative, Title
from metrolex.job.words import Word

__all__ = ["FluidRecord", "KitItem"]


@dataclass(frozen=True, slots=True)
class KitItem:
    """Something that came in the box or lies on the shelf: how many, in the unit the shopping list counts in, and what one costs."""

    id: Key
    name: Title
    have: NonNegative = 1.0
    price: NonNegative | None = None


@dataclass(frozen=True, slots=True)
class FluidRecord:
    """What really went out of one system and came back, in litres; ``id`` is the fluid."""

    id: Key
    lost_l: NonNegative | None = None
    returned_l: NonNegative | None = None
    kind: Word = ""
