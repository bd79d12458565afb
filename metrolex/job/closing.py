"""What is said when the job is closed: hours really worked, what is left over, what stays open, what one would do another way."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from metrolex.intake import Limits, NonNegative, Note
from metrolex.job.words import Word

__all__ = ["Closing"]


@dataclass(frozen=True, slots=True)
class Closing:
    """``km`` stands on the odometer when the vehicle leaves, ``km_a_week`` is what its owner says he drives. Lists hold one thing a line."""

    hours: NonNegative | None = None
    km: NonNegative | None = None
    km_a_week: Annotated[float, Limits(above=0, high=10_000)] | None = None
    left_in_box: tuple[Word, ...] = ()
    open_items: tuple[Word, ...] = ()
    hindsight: Note = ""
