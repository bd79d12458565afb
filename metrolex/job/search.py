"""A fault looked for: what was said, what was measured, what it was in the end."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.intake import AnyNumber, Key, Note, Text
from metrolex.job.words import SeenWord, State, Word

__all__ = ["Do", "OwnersWord", "Reading", "Said", "Search"]

Do = Literal["unplug_sender", "ground_signal", "bridge_ground", "feed_display", "pull_fuse", "swap_senders"]
OwnersWord = Literal[
    "flashes",
    "dark",
    "dead_in_crank",
    "pegged_high",
    "pegged_low",
    "dashes",
    "jumps_with_lamps",
    "always_high",
    "always_low",
    "wrong_ratio",
    "comes_and_goes",
    "forgets",
    "wrong_way",
    "two_disagree",
]
Name = Annotated[str, Text(160)]


@dataclass(frozen=True, slots=True)
class Said:
    """What somebody says is wrong, of one readout or of any."""

    word: OwnersWord
    channel: Name = ""


@dataclass(frozen=True, slots=True)
class Reading:
    """One thing measured or looked at while a fault is looked for.

    ``red`` and ``black`` are points of the circuit as the twin prints them, ``on`` the readout or the sender; ``do`` is what was done to the
    vehicle before, to ``do_on``.
    """

    state: State
    kind: Literal["volts", "shown", "ohms"]
    value: AnyNumber | SeenWord
    red: Name = ""
    black: Name = ""
    on: Name = ""
    what: Literal["", "thread"] = ""
    do: Do | Literal[""] = ""
    do_on: Name = ""
    do_other: Name = ""
    seen: Word = ""


@dataclass(frozen=True, slots=True)
class Search:
    """One search: ``ended`` is '' while it is under way; then ``cause`` and ``cure`` say what it was, ``kinds`` which kinds of the catalogue."""

    id: Key
    said: tuple[Said, ...] = ()
    readings: tuple[Reading, ...] = ()
    begun: Word = ""
    ended: Word = ""
    cause: Annotated[str, Text(200)] = ""
    cure: Annotated[str, Text(200)] = ""
    note: Note = ""
    kinds: tuple[Annotated[str, Text(40)], ...] = ()
