"""Wires, splices and the way they run."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.intake import Key, Limits, NonNegative, Percent, Positive, Text, Title
from metrolex.job.words import Word
from metrolex.tables import load_table

__all__ = ["Conductor", "End", "Opening", "Plug", "Run", "Segment", "Splice"]


@dataclass(frozen=True, slots=True)
class End:
    """One end of a conductor: which part, which terminal of it."""

    kind: Literal["tap", "display", "sender", "ground", "splice", "battery", "port"]
    id: Key
    terminal: Annotated[str, Text(60)] = ""


@dataclass(frozen=True, slots=True)
class Conductor:
    """A wire. Its length is the run's unless one was measured."""

    id: Key
    a: End
    b: End
    size: Positive = 0.75
    system: Literal["mm2", "awg"] = "mm2"
    length_m: Positive | None = None
    run: Key | None = None
    colour: Word = ""
    stripe: Word = ""
    temperature_degc: Annotated[float, Limits(low=-60, high=250)] = 20.0
    joint_ohm: NonNegative = 0.002

    def __post_init__(self) -> None:
        sizes = [float(row["size"]) for row in load_table("conductors")[self.system]]
        if self.size not in sizes:
            listed = ", ".join(f"{size:g}" for size in sizes)
            raise BadInput("size", self.size, f"one of {listed} ({self.system})")


@dataclass(frozen=True, slots=True)
class Splice:
    """A joint of several wires; ``ohm`` is what each of them sees in it."""

    id: Key
    name: Word = ""
    method: Literal["crimp", "solder"] = "crimp"
    ohm: Positive = 0.001


@dataclass(frozen=True, slots=True)
class Segment:
    """A stretch of a run: its length, its hottest neighbour, whether it moves."""

    name: Word
    length_m: NonNegative
    peak_degc: Annotated[float, Limits(low=-60, high=1200)] = 60.0
    moving: bool = False


@dataclass(frozen=True, slots=True)
class Run:
    """The way of a lead through the vehicle, and the lead supplied for it."""

    id: Key
    name: Title
    segments: tuple[Segment, ...] = ()
    slack_pct: Percent = 5.0
    ends_m: NonNegative = 0.3
    supplied_m: NonNegative | None = None


@dataclass(frozen=True, slots=True)
class Plug:
    """A connector that must pass an opening, by width and height."""

    name: Title
    w_mm: Positive
    h_mm: Positive


@dataclass(frozen=True, slots=True)
class Opening:
    """A hole that leads pass: which runs go through it, what must pass with them, how its edge is.

    ``there_mm`` is the diameter of what passes there already.
    """

    id: Key
    name: Title
    hole_mm: Positive
    edge: Literal["grommet", "slit grommet", "bare"] = "grommet"
    runs: tuple[Key, ...] = ()
    plugs: tuple[Plug, ...] = ()
    there_mm: NonNegative = 0.0
