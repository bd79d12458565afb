"""How far the work is: what was done of each step, or why not."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.intake import Key, NonNegative, Note, Text
from metrolex.job.words import Word

__all__ = ["Worked"]


@dataclass(frozen=True, slots=True)
class Worked:
    """One step of the work order, by its key: done in so many minutes, not possible, or left out, with why."""

    id: Key
    step: Annotated[str, Text(160)]
    state: Literal["done", "could not", "left out"]
    minutes: NonNegative | None = None
    why: Note = ""
    seen: Word = ""
