"""What was changed on the vehicle after the job was handed over, a page of the book for each."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.intake import Key, NonNegative, Note, Text
from metrolex.job.words import Word

__all__ = ["Later", "LaterKind"]

LaterKind = Literal["tyres", "tank", "sender", "software"]


@dataclass(frozen=True, slots=True)
class Later:
    """One change: of what, at how many km, what it was before and is now; ``follows`` says which settings and readings went with it."""

    id: Key
    kind: LaterKind
    on: Annotated[str, Text(160)] = ""
    day: Word = ""
    km: NonNegative | None = None
    was: Word = ""
    now: Word = ""
    follows: tuple[Annotated[str, Text(300)], ...] = ()
    note: Note = ""
