"""What was seen, and what was waived, with the reason."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.intake import AnyNumber, Key, Note, Text, Title
from metrolex.job.words import SeenWord, State, Word

__all__ = [
    "BATTERY_POSTS",
    "CheckKind",
    "CheckRef",
    "Checked",
    "LeftOut",
    "Observation",
    "PhaseKey",
    "TestRef",
    "Waiver",
]

PhaseKey = Literal[
    "battery_off",
    "first_power",
    "accessory",
    "run",
    "lamps",
    "crank",
    "engine_running",
    "warm",
    "drive",
    "first_heat",
    "km_500",
]
CheckKind = Literal[
    "meter",
    "ends",
    "plugs",
    "short",
    "spare",
    "fuses",
    "standing",
    "still",
    "sweep",
    "load",
    "pulled",
    "pages",
    "positions",
    "told",
    "beside",
    "refit",
    "labelled",
    "wiggle",
    "unplug",
    "ground",
    "ice",
    "boiling",
    "pump",
    "dim",
    "leak",
    "fumes",
    "level",
    "lamps",
    "factory",
    "gps",
    "mark",
]


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
    value: AnyNumber | SeenWord
    note: Note = ""
    seen: Word = ""


@dataclass(frozen=True, slots=True)
class Waiver:
    """A stop the fitter waived, with the reason."""

    code: Key
    subject: Title
    reason: Annotated[str, Text(2000, blank=False)]
    by: Word = ""


@dataclass(frozen=True, slots=True)
class CheckRef:
    """Which check with hand and eye: its kind (checks.toml), what of the job it looks at, in which phase of proving."""

    phase: PhaseKey
    kind: CheckKind
    on: Annotated[str, Text(160)] = ""

    @property
    def key(self) -> str:
        """The same as one word, for a form."""
        return "|".join((self.phase, self.kind, self.on))


@dataclass(frozen=True, slots=True)
class Checked:
    """How a check came out: as it should be, off, or not done, with why; ``value`` where there is a figure to it."""

    id: Key
    check: CheckRef
    result: Literal["good", "off", "not done"]
    value: AnyNumber | None = None
    why: Note = ""
    seen: Word = ""


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A test that was not done in a state, and why."""

    id: Key
    test: TestRef
    state: State
    why: Annotated[str, Text(300, blank=False)]
    seen: Word = ""
