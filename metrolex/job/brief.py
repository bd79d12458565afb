"""What the owner wants to see and why; how places are weighed and which practice is followed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from metrolex.intake import Key, Limits, NonNegative, Note
from metrolex.job.words import Word

__all__ = ["Brief", "Choice", "Weight"]


@dataclass(frozen=True, slots=True)
class Weight:
    """How much one criterion counts when places are compared, 0 to 5."""

    criterion: Key
    counts: Annotated[float, Limits(low=0, high=5)]


@dataclass(frozen=True, slots=True)
class Choice:
    """The practice chosen where practitioners disagree."""

    topic: Key
    practice: Key


@dataclass(frozen=True, slots=True)
class Brief:
    """What the owner wants to see and why."""

    owner: Word = ""
    wants: Note = ""
    hours_left: NonNegative | None = None
    waits_for: Word = ""
    aims: tuple[Word, ...] = ()
    weights: tuple[Weight, ...] = ()
    practices: tuple[Choice, ...] = ()
    cluster_removed: bool = False
