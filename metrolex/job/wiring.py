"""Wires, splices and the way they run."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.intake import Key, Limits, NonNegative, Percent, Positive, Text, Title
from metrolex.job.words import Word
from metrolex.tables import load_table

__all__ = ["Beside", "Conductor", "End", "Opening", "Plug", "Run", "Segment", "Sheath", "Splice", "WireLook"]


@dataclass(frozen=True, slots=True)
class End:
    """One end of a conductor: which part, which terminal of it."""

    kind: Literal["tap", "display", "sender", "ground", "splice", "battery", "port", "plug", "switch"]
    id: Key
    terminal: Annotated[str, Text(60)] = ""


@dataclass(frozen=True, slots=True)
class WireLook:
    """What one sees of a wire; ``mark`` is the tape or sleeve that gives it another colour at its ends. It may have two stripes."""

    colour: Word = ""
    stripe: Word = ""
    mark: Word = ""
    stripe_2: Word = ""

    def __post_init__(self) -> None:
        colours = load_table("colours")
        for name in ("colour", "stripe", "mark", "stripe_2"):
            code = getattr(self, name)
            if code and code not in colours:
                listed = ", ".join(f"{known} {name}" for known, name in colours.items())
                raise BadInput(name, code, listed, f"There is no wire colour '{code:.20}'. Known: {listed}.")

    @property
    def code(self) -> str:
        """Its colour as it is written, with its stripes: 'BU/WH'; '' while none is said."""
        return "/".join(part for part in (self.colour, self.stripes) if part) if self.colour else ""

    @property
    def stripes(self) -> str:
        """Its stripes as they are written: 'WH', 'WH/RD', ''."""
        return "/".join(part for part in (self.stripe, self.stripe_2) if part)


@dataclass(frozen=True, slots=True)
class Sheath:
    """What is about the copper; ``twist`` names the pair it is twisted with.

    ``insulation`` is its class of ISO 6722, '' for the one its run asks for.
    """

    insulation: Literal["", "A", "B", "C", "D", "E", "F", "G", "H"] = ""
    shield: bool = False
    twist: Word = ""


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
    look: WireLook = field(default=WireLook())
    sheath: Sheath = field(default=Sheath())
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
class Beside:
    """What a stretch of lead meets: what it passes close by, what is over it, whether a shield stands before the heat.

    ``passes`` are words of layouts.toml, ``over`` a cover of protection.toml, '' for none yet. ``heat_measured``: the temperature
    beside it was read, on this vehicle, warm; else it is a guess.
    """

    passes: tuple[Word, ...] = ()
    over: Word = ""
    shielded: bool = False
    heat_measured: bool = False


@dataclass(frozen=True, slots=True)
class Segment:
    """A stretch of a run: its length, its hottest neighbour, whether it moves or gets wet, what it is tied to."""

    name: Word
    length_m: NonNegative
    peak_degc: Annotated[float, Limits(low=-60, high=1200)] = 60.0
    moving: bool = False
    wet: bool = False
    tied_to: tuple[Word, ...] = ()
    beside: Beside = field(default=Beside())


@dataclass(frozen=True, slots=True)
class Run:
    """The way of a lead through the vehicle, and the lead supplied for it.

    Measured by hand as ``segments``, or laid along the plan of the vehicle from one zone to another, through the zones
    of ``via`` in their order. ``couple`` is the thermocouple type whose leads must stay of its own metals;
    ``plug`` the zone where the plug lies that parts when the sender is replaced. ``cable_mm`` is the thickness of the cable its wires lie
    in, None where they are single wires. ``service_loop_m`` is kept behind the plug for a repair; ``spare`` is what becomes of a supplied
    lead's surplus, ``spare_at`` where. ``pulling_wire`` stays in for the next lead.
    """

    id: Key
    name: Title
    segments: tuple[Segment, ...] = ()
    slack_pct: Percent = 5.0
    ends_m: NonNegative = 0.3
    supplied_m: Positive | None = None
    start: Key | None = None
    finish: Key | None = None
    via: tuple[Key, ...] = ()
    thermocouple_type: Literal["", "K"] = ""
    plug: Key | None = None
    cable_mm: Annotated[float, Limits(above=0, high=60)] | None = None
    service_loop_m: NonNegative = 0.0
    spare: Literal["", "cut off", "coiled"] = ""
    spare_at: Word = ""
    pulling_wire: bool = False


@dataclass(frozen=True, slots=True)
class Plug:
    """A connector that must pass an opening, by width and height."""

    name: Title
    w_mm: Positive
    h_mm: Positive


@dataclass(frozen=True, slots=True)
class Opening:
    """A hole that leads pass: which runs go through it, what must pass with them, how its edge is.

    ``there_mm`` is the diameter of what passes there already. ``made`` tells what it costs: a grommet that is there, an
    unused hole, a hole that is there made wider, a plate that can be replaced, or a new hole.
    """

    id: Key
    name: Title
    hole_mm: Positive
    edge: Literal["grommet", "slit grommet", "bare"] = "grommet"
    runs: tuple[Key, ...] = ()
    plugs: tuple[Plug, ...] = ()
    there_mm: NonNegative = 0.0
    made: Literal["there", "unused", "enlarged", "plate", "new"] = "there"
