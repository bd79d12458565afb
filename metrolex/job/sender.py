"""Sending units."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.intake import AnyNumber, Key, Limits, NonNegative, Percent, Positive, Text, Title
from metrolex.job.words import Word
from metrolex.senders.curves import Curve

__all__ = ["Measured", "Reader", "Sender", "SenderBody", "SenderOutput", "Tolerance"]


@dataclass(frozen=True, slots=True)
class Tolerance:
    """How far a sender may be from its curve: in percent of x, or in y."""

    x_pct: Percent = 0.0
    y: NonNegative = 0.0


@dataclass(frozen=True, slots=True)
class Measured:
    """A point measured in the bay: what the sender gave (in its curve's x unit) at a known y, and how y was known."""

    x: AnyNumber
    y: AnyNumber
    how: Word = ""


@dataclass(frozen=True, slots=True)
class Reader:
    """Who reads a sender of the vehicle already: an engine control behind a pull-up, or the coil of a gauge fed by the ignition.

    ``control``: something acts on what it reads, so it must not be disturbed.
    """

    id: Key
    name: Title
    pull_up_ohm: Positive
    reference_v: Positive = 5.0
    control: bool = True


@dataclass(frozen=True, slots=True)
class SenderOutput:
    """How a sender of three wires is fed, and what it gives.

    ``ratiometric``: a share of ``supply_v``; an amplifier or a controller has a reference of its own.
    """

    supply_v: Positive = 5.0
    load_a: NonNegative = 0.005
    output_ohm: Positive = 100.0
    ratiometric: bool = True


@dataclass(frozen=True, slots=True)
class SenderBody:
    """What is screwed in.

    ``reach_mm`` is the length from its shoulder (or thread end) to the tip, ``probe_mm`` the thickness of the tip,
    ``dissipation_mw_per_k`` is what warms a resistance by one kelvin where it sits (None: not known, its own warmth not counted),
    ``stands_mm`` is how far its body with the plug on stands above the thread (None: as usual), ``max_degc`` what it stands, ``proof_bar`` the pressure it survives without harm (None: half more than its range, common practice).
    """

    thread: Word = ""
    reach_mm: Positive | None = None
    probe_mm: Positive | None = None
    stands_mm: Positive | None = None
    max_degc: Annotated[float, Limits(low=-60, high=1500)] | None = None
    proof_bar: Positive | None = None
    dissipation_mw_per_k: Positive | None = None


@dataclass(frozen=True, slots=True)
class Sender:
    """A sending unit. One wire: it returns through its thread; three: it is fed, see ``output``.

    A three-wire sender with a curve in hertz pulls its line down in pulses; how long the line is low, its pulse width, may tell a second
    quantity: that is a sender of no wires, with a curve in millisecond, which rides on those pulses. Two wires: a resistance, a thermocouple (curve in millivolt) or a current loop (curve in milliampere: the loop is fed at
    ``supply`` and comes out at ``signal``). ``measured`` are points of this very sender, ``readers`` those of the vehicle that read it already.
    ``mark`` tells it from its like ('left bank', 'cylinder 3'); ``name`` is what it is in the library. ``counts_from`` is what its maker's
    curve of a pressure counts from, '' while nobody said; the curve here is always above the air. ``in_body`` is the sender in whose body
    this one sits: it has wires of its own, but no thread and no place of its own.
    """

    id: Key
    name: Title
    curve: Curve
    tolerance: Tolerance = field(default=Tolerance())
    wires: Annotated[int, Limits(low=0, high=3)] = 2
    output: SenderOutput = field(default=SenderOutput())
    body: SenderBody = field(default=SenderBody())
    lead_m: NonNegative | None = None
    measured: tuple[Measured, ...] = ()
    readers: tuple[Reader, ...] = ()
    mark: Annotated[str, Text(60)] = ""
    counts_from: Literal["", "air", "vacuum"] = ""
    in_body: Key | None = None

    def __post_init__(self) -> None:
        if (self.wires == 0) != (self.curve.x_unit == "millisecond"):
            raise BadInput(
                "wires",
                self.wires,
                "no wires for a curve in millisecond: it rides on the pulses of another sender, and one to three for any other",
            )
        if self.rides:
            return
        if self.wires == 3 and self.curve.x_unit not in ("volt", "hertz"):
            raise BadInput("curve", self.curve.x_unit, "a curve in volt or hertz for a three-wire sender")
        if self.wires == 2 and self.curve.x_unit in ("millivolt", "milliampere"):
            return
        if self.wires < 3 and self.curve.x_unit != "ohm":
            raise BadInput("curve", self.curve.x_unit, "a curve in ohm for a sender of one or two wires")

    @property
    def called(self) -> str:
        """What it is called in the job."""
        return f"{self.name}, {self.mark}" if self.mark else self.name

    @property
    def rides(self) -> bool:
        """Whether it has no line of its own and is read off the pulses of another sender."""
        return self.wires == 0

    @property
    def screwed_in(self) -> bool:
        """Whether it is a part by itself, that takes a mouth and is bought."""
        return not self.rides and self.in_body is None

    @property
    def terminals(self) -> tuple[str, ...]:
        if self.curve.x_unit == "milliampere":
            return ("signal", "supply")
        return {0: (), 1: ("signal", "body"), 2: ("signal", "return"), 3: ("signal", "return", "supply")}[
            self.wires
        ]
