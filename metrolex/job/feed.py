"""Fuse panels, circuits that may be tapped, taps and grounds."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Annotated, Any, Literal

from metrolex.errors import BadInput
from metrolex.intake import Key, Limits, NonNegative, Positive, Text, Title
from metrolex.job.words import PROBE_STATES, Need, Volts, Word

__all__ = [
    "PROBED",
    "AlsoRead",
    "Circuit",
    "FeedPlace",
    "Feeds",
    "GroundPoint",
    "Panel",
    "Reading",
    "Readings",
    "Slot",
    "Tap",
    "Whereabouts",
]

#: What the fitter says a circuit feeds, whatever its name; '' while its name must do.
Feeds = Literal["", "comfort", "lighting", "module", "old cluster", "engine or gearbox", "safety", "nothing"]

Reading = Volts | Literal["live", "dead"] | None
#: The columns every probe sheet has.
PROBED = (*PROBE_STATES, "later")

#: What a fitter finds power at; keys of feed_places.toml, which has one more for a slot that is empty.
FeedPlace = Literal["fuse", "wire", "splice", "relay socket", "ignition switch", "block", "post", "battery"]
#: Those that are the battery itself, by a bar or a cable.
_STRAIGHT = ("block", "post", "battery")


@dataclass(frozen=True, slots=True)
class Panel:
    """A fuse panel. ``lid_mm`` is the room above a seated fuse, ``pitch_mm`` the way from slot to slot along a row."""

    id: Key
    name: Title
    zone: Key | None = None
    lid_mm: Positive | None = None
    pitch_mm: Positive | None = None


@dataclass(frozen=True, slots=True)
class AlsoRead:
    """What the probe found in a column of the fitter's own ('turn left', 'brake')."""

    column: Annotated[str, Text(30, blank=False)]
    reading: Volts | Literal["live", "dead"]


@dataclass(frozen=True, slots=True)
class Readings:
    """What the probe found in each state: volts, 'live' or 'dead' by lamp, None where not tried.

    park and head are read with the key off; later is read with the key off for some minutes; ``also`` holds what was read in
    columns of the fitter's own.
    """

    off: Reading = None
    acc: Reading = None
    run: Reading = None
    crank: Reading = None
    park: Reading = None
    head: Reading = None
    later: Reading = None
    also: tuple[AlsoRead, ...] = ()

    def __post_init__(self) -> None:
        seen: set[str] = set()
        for i, one in enumerate(self.also):
            if one.column in seen:
                raise BadInput(f"also[{i}].column", one.column, "each column once")
            seen.add(one.column)

    def at(self, state: str) -> float | str | None:
        """What was found in a state, or in a column of the fitter's own."""
        if state in PROBED:
            value: float | str | None = getattr(self, state)
            return value
        return next((one.reading for one in self.also if one.column == state), None)

    def with_reading(self, state: str, reading: float | Literal["live", "dead"] | None) -> Readings:
        """The same with one reading in place of what stood there; None takes it out."""
        if state in PROBED:
            plain: dict[str, Any] = {state: reading}
            return replace(self, **plain)
        if reading is None:
            return replace(self, also=tuple(one for one in self.also if one.column != state))
        read = AlsoRead(state, reading)
        if self.at(state) is None:
            return replace(self, also=(*self.also, read))
        return replace(self, also=tuple(read if one.column == state else one for one in self.also))


@dataclass(frozen=True, slots=True)
class Slot:
    """Where a fuse sits in its panel; ``fed`` is the side of the slot that stays live with its fuse out, ``empty`` one that has none."""

    panel: Key | None = None
    row: Annotated[int, Limits(low=1, high=40)] = 1
    column: Annotated[int, Limits(low=1, high=40)] = 1
    fed: Literal["", "left", "right", "top", "bottom"] = ""
    empty: bool = False


@dataclass(frozen=True, slots=True)
class Whereabouts:
    """Where what has no slot was found: in which plug or switch, in which zone, and its colour."""

    found_at: Word = ""
    zone: Key | None = None
    colour: Word = ""


@dataclass(frozen=True, slots=True)
class Circuit:
    """A feed the fitter may tap: a fuse slot, a bare wire, a terminal of a switch or a relay, a post, the battery itself.

    ``load_a`` is what the vehicle itself draws through it at its nominal volts, nothing until it is said. ``later_min`` tells
    after how many minutes of key-off the late reading was taken. ``feeds`` is what the fitter found it to feed. ``taken_by`` tells
    who tapped it before this job, ``taken_a`` what that draws.
    """

    id: Key
    purpose: Word = ""
    kind: FeedPlace = "fuse"
    slot: Slot = field(default=Slot())
    rating_a: Positive | None = None
    form: Word = ""
    readings: Readings = field(default=Readings())
    fuse_pulled_dead: bool | None = None
    load_a: NonNegative = 0.0
    later_min: Annotated[float, Limits(low=1, high=600)] = 30.0
    where: Whereabouts = field(default=Whereabouts())
    feeds: Feeds = ""
    taken_by: Word = ""
    taken_a: NonNegative = 0.0

    @property
    def place(self) -> str:
        """What it is in the hand: a key of feed_places.toml."""
        return "empty slot" if self.kind == "fuse" and self.slot.empty else self.kind

    @property
    def straight(self) -> bool:
        """Whether it is the battery itself, by a bar or a cable."""
        return self.kind in _STRAIGHT

    @property
    def unfused(self) -> bool:
        """Whether nothing but the added fuse guards what is taken here."""
        return self.straight or self.place in ("empty slot", "ignition switch")


@dataclass(frozen=True, slots=True)
class Tap:
    """Where power is taken: from which circuit, for which need, behind which added fuse, and why there.

    ``fuse_at_m`` is the way from the tap to its fuse along the wire; None where it sits in the tap itself.
    """

    id: Key
    need: Need
    circuit: Key | None = None
    fuse_a: Positive | None = None
    side: Literal["feed", "load"] = "feed"
    limit_a: Positive = 10.0
    contact_ohm: Positive = 0.004
    fuse_at_m: NonNegative | None = None
    why: Word = ""


@dataclass(frozen=True, slots=True)
class GroundPoint:
    """A bolt or stud used as ground.

    ``reads_v`` was read from battery positive to it without load: it proves the point for the meter. ``drop_v`` was read
    between it and battery negative while ``drop_load_a`` flowed: it gives the whole way its resistance, body lead and all.
    """

    id: Key
    name: Title
    where: Literal["body", "engine", "battery"] = "body"
    surface: Word = ""
    contact_ohm: Positive = 0.003
    shared_with: Word = ""
    terminal: Literal["", "ring", "spade", "bare wire"] = ""
    reads_v: Volts | None = None
    drop_v: NonNegative | None = None
    drop_load_a: Positive | None = None
    zone: Key | None = None

    def __post_init__(self) -> None:
        if self.drop_v is not None and self.drop_load_a is None:
            raise BadInput("drop_load_a", None, "the amperes that flowed while the drop was read")

    def ohm_to(self, metal_ohm: float) -> float:
        """Resistance of the contact; where the drop to battery negative was measured, what it leaves beside the metal's own way there."""
        if self.drop_v is None or self.drop_load_a is None:
            return self.contact_ohm
        behind = 0.0 if self.where == "battery" else metal_ohm
        return max(self.drop_v / self.drop_load_a - behind, 1e-6)
