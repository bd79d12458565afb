"""What was seen, and what was gone past in writing."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.intake import AnyNumber, Key, Note, Text, Title
from metrolex.job.words import State, Word

__all__ = ["Observation", "Override"]


@dataclass(frozen=True, slots=True)
class Observation:
    """What was really seen at a test, in the test's own unit or in words."""

    id: Key
    test: Key
    state: State
    value: AnyNumber | Literal["live", "dead", "dashes", "dark", "flash"]
    note: Note = ""
    seen: Word = ""


@dataclass(frozen=True, slots=True)
class Override:
    """A stop the fitter decided to go past, with the reason in writing."""

    code: Key
    subject: Title
    reason: Annotated[str, Text(2000, blank=False)]
    by: Word = ""
