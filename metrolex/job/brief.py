"""What the owner wants to see and why; how places are weighed and which practice is followed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.intake import Key, Limits, NonNegative, Note, Text, Title
from metrolex.job.words import Word

__all__ = ["Alternative", "Brief", "Choice", "Weight"]


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
class Alternative:
    """Another way to do the job, beside the one planned: what its parts cost and how long it takes."""

    id: Key
    name: Title
    parts: NonNegative = 0.0
    hours: NonNegative = 0.0


@dataclass(frozen=True, slots=True)
class Brief:
    """What the owner wants to see and why. ``currency`` and ``rate_per_h`` are the workshop's, ``loom`` a level of hours.toml."""

    owner: Word = ""
    wants: Note = ""
    hours_left: NonNegative | None = None
    waits_for: Word = ""
    aims: tuple[Word, ...] = ()
    weights: tuple[Weight, ...] = ()
    practices: tuple[Choice, ...] = ()
    cluster_removed: bool = False
    currency: Annotated[str, Text(6)] = ""
    rate_per_h: NonNegative | None = None
    loom: Literal["", "bare", "ready", "plug"] = ""
    alternatives: tuple[Alternative, ...] = ()
