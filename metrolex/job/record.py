"""What was seen, and what was waived, with the reason."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.intake import AnyNumber, Key, Note, Text, Title
from metrolex.job.words import State, Word

__all__ = ["BATTERY_POSTS", "Observation", "TestRef", "Waiver"]


@dataclass(frozen=True, slots=True)
class TestRef:
    """Which test: volts at a pin of a display or of its ground, ohms of a sender or through its thread, what a readout shows, how far two agree.

    ``pin`` is the pin's id where ``what`` is 'pin', the other readout's where it is 'agrees', '' otherwise. The battery has one test, its id is 'posts'.
    """

    __test__ = False  # keep test collectors away from the name

    kind: Literal["battery", "display", "sender", "readout"]
    id: Key
    what: Literal["volts", "pin", "ground", "ohms", "thread", "shown", "agrees"]
    pin: Annotated[str, Text(60)] = ""

    def __str__(self) -> str:
        """As one says it: 'gauge 2 pin 5', 'coolant sender ohms'."""
        if self.kind == "battery":
            return "battery"
        what = "ground" if self.what == "thread" else self.what
        return " ".join(word for word in (self.id, what, self.pin) if word)

    @property
    def key(self) -> str:
        """The same as one word, for a form."""
        return "|".join((self.kind, self.id, self.what, self.pin))


BATTERY_POSTS = TestRef("battery", "posts", "volts")


@dataclass(frozen=True, slots=True)
class Observation:
    """What was really seen at a test, in the test's own unit or in words."""

    id: Key
    test: TestRef
    state: State
    value: AnyNumber | Literal["live", "dead", "dashes", "dark", "flash"]
    note: Note = ""
    seen: Word = ""


@dataclass(frozen=True, slots=True)
class Waiver:
    """A stop the fitter waived, with the reason."""

    code: Key
    subject: Title
    reason: Annotated[str, Text(2000, blank=False)]
    by: Word = ""
