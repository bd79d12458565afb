"""The vehicle: which one it is, its engine, its driveline, its fuel system, its electrics."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from metrolex.intake import Limits, Note, Percent, Positive, Title
from metrolex.job.electrics import Electrics
from metrolex.job.words import Word

__all__ = ["Driveline", "Engine", "FuelSystem", "Identity", "Vehicle"]

Rpm = Annotated[float, Limits(above=0, high=30000)]
Ratio = Annotated[float, Limits(low=0.1, high=30)]


@dataclass(frozen=True, slots=True)
class Identity:
    """Which vehicle it is; ``length_m`` from end to end, ``altitude_m`` where it is worked on."""

    name: Title
    maker: Word = ""
    model: Word = ""
    year: Annotated[int, Limits(low=1885, high=2100)] | None = None
    length_m: Annotated[float, Limits(low=0.5, high=30)] | None = None
    mass_kg: Positive | None = None
    altitude_m: Annotated[float, Limits(low=-500, high=6000)] | None = None
    notes: Note = ""


@dataclass(frozen=True, slots=True)
class Engine:
    """The engine as far as a job needs it; ``described`` in the workshop's words ('2.2 four')."""

    described: Word = ""
    cylinders: Annotated[int, Limits(low=1, high=24)] | None = None
    strokes: Literal[2, 4] = 4
    layout: Word = ""
    cooling: Word = ""
    induction: Word = ""
    idle_rpm: Rpm | None = None
    redline_rpm: Rpm | None = None
    power_kw: Positive | None = None


@dataclass(frozen=True, slots=True)
class Driveline:
    """From the engine to the road; ``tyre`` is its designation, ``gear_ratios`` from first upwards."""

    gearbox: Word = ""
    axle_ratio: Annotated[float, Limits(low=0.2, high=30)] | None = None
    gear_ratios: tuple[Ratio, ...] = ()
    tyre: Word = ""
    tyre_wear_mm: Annotated[float, Limits(low=0, high=25)] = 0.0


@dataclass(frozen=True, slots=True)
class FuelSystem:
    """What is burnt and how it gets there.

    ``fuel_feed`` is a key of fuel_systems.toml (or only 'injection'), ``fuel_line_bar`` what the line to be tapped really carries,
    ``ethanol_ceiling_pct`` what the engine's tune allows.
    """

    burns: Word = ""
    fuel_feed: Word = ""
    fuel_line_bar: Annotated[float, Limits(above=0, high=4000)] | None = None
    tank_l: Positive | None = None
    ethanol_ceiling_pct: Percent | None = None


@dataclass(frozen=True, slots=True)
class Vehicle:
    """The vehicle as far as the job needs it.

    ``has`` names what channels may call for: 'pressurised fuel', 'blend tune' and so on, as in prerequisites.toml.
    """

    identity: Identity
    engine: Engine = field(default=Engine())
    driveline: Driveline = field(default=Driveline())
    fuel: FuelSystem = field(default=FuelSystem())
    electrics: Electrics = field(default=Electrics())
    has: tuple[Word, ...] = ()

    @property
    def name(self) -> str:
        """What it is called in the workshop."""
        return self.identity.name
