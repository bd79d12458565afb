"""The vehicle, what its owner wants, and its supply."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.intake import Key, Limits, NonNegative, Note, Percent, Positive, Title
from metrolex.job.words import Word

__all__ = ["Brief", "Choice", "Supply", "Vehicle", "Weight"]

Rpm = Annotated[float, Limits(above=0, high=30000)]


@dataclass(frozen=True, slots=True)
class Vehicle:
    """The vehicle as far as the job needs it.

    ``tyre`` is its designation, ``gear_ratios`` from first upwards, ``ethanol_ceiling_pct`` what the engine's tune allows, ``altitude_m``
    where it is worked on, ``length_m`` from end to end.
    ``fuel_feed`` is a key of fuel_systems.toml (or only 'injection'), ``fuel_line_bar`` what the line to be tapped really carries. ``has`` names what channels may call for: 'pressurised fuel', 'blend tune' and so on, as in prerequisites.toml.
    """

    name: Title
    maker: Word = ""
    model: Word = ""
    year: Annotated[int, Limits(low=1885, high=2100)] | None = None
    engine: Word = ""
    fuel: Word = ""
    cylinders: Annotated[int, Limits(low=1, high=24)] | None = None
    induction: Word = ""
    gearbox: Word = ""
    notes: Note = ""
    layout: Word = ""
    cooling: Word = ""
    fuel_feed: Word = ""
    fuel_line_bar: Annotated[float, Limits(above=0, high=4000)] | None = None
    has: tuple[Word, ...] = ()
    strokes: Literal[2, 4] = 4
    idle_rpm: Rpm | None = None
    redline_rpm: Rpm | None = None
    tyre: Word = ""
    tyre_wear_mm: Annotated[float, Limits(low=0, high=25)] = 0.0
    axle_ratio: Annotated[float, Limits(low=0.2, high=30)] | None = None
    gear_ratios: tuple[Annotated[float, Limits(low=0.1, high=30)], ...] = ()
    power_kw: Positive | None = None
    mass_kg: Positive | None = None
    length_m: Annotated[float, Limits(low=0.5, high=30)] | None = None
    tank_l: Positive | None = None
    ethanol_ceiling_pct: Percent | None = None
    altitude_m: Annotated[float, Limits(low=-500, high=6000)] | None = None


@dataclass(frozen=True, slots=True)
class Supply:
    """Battery, charging, starter, straps and standing loads of the vehicle, each with how far it may be off.

    ``rest_v`` and ``alternator_v`` are read post to post: with the key off, and with the engine running. Loads are amperes
    at the nominal volts, taken as resistive. Defaults are typical of a light 12 V vehicle (common practice, no source); all are
    there to be measured. ``start_level`` is the row of starts.toml that a start of this vehicle is held against, '' while nobody has said;
    ``wire_tolerance_k`` how much warmer or colder a conductor may be than stated.
    """

    rest_v: Annotated[float, Limits(low=5, high=32)] = 12.6
    battery_ohm: Positive = 0.012
    charge_ohm: Positive = 0.15
    alternator_v: Annotated[float, Limits(low=5, high=32)] = 14.2
    alternator_ohm: Positive = 0.01
    starter_a: Positive = 150.0
    run_load_a: Positive = 8.0
    park_load_a: Positive = 4.0
    head_load_a: Positive = 14.0
    contact_ohm: Positive = 0.015
    negative_to_engine_ohm: Positive = 0.0006
    negative_to_body_ohm: Positive = 0.003
    engine_to_body_ohm: Positive = 0.002
    rest_tolerance_v: NonNegative = 0.2
    starter_tolerance_pct: Annotated[float, Limits(low=0, high=90)] = 30.0
    inner_tolerance_pct: Annotated[float, Limits(low=0, high=90)] = 50.0
    strap_tolerance_pct: Annotated[float, Limits(low=0, high=100)] = 100.0
    load_tolerance_pct: Annotated[float, Limits(low=0, high=90)] = 30.0
    wire_tolerance_k: Annotated[float, Limits(low=0, high=100)] = 25.0
    start_level: Literal["", "I", "II", "III", "IV"] = ""

    @property
    def nominal_v(self) -> float:
        """6, 12 or 24 V by what the battery rests at."""
        return 6.0 if self.rest_v < 8.0 else (12.0 if self.rest_v < 18.0 else 24.0)

    @property
    def body_ohm(self) -> float:
        """From the body to battery negative: its own lead, and the way by the engine beside it."""
        by_engine = self.engine_to_body_ohm + self.negative_to_engine_ohm
        return 1 / (1 / self.negative_to_body_ohm + 1 / by_engine)

    @property
    def engine_ohm(self) -> float:
        """From the engine to battery negative: its own lead, and the way by the body beside it."""
        by_body = self.engine_to_body_ohm + self.negative_to_body_ohm
        return 1 / (1 / self.negative_to_engine_ohm + 1 / by_body)


@dataclass(frozen=True, slots=True)
class Weight:
    """How much one criterion counts when places are compared, 0 to 5."""

    criterion: Key
    counts: Annotated[float, Limits(low=0, high=5)]


@dataclass(frozen=True, slots=True)
class Choice:
    """The school chosen where practitioners disagree."""

    topic: Key
    school: Key


@dataclass(frozen=True, slots=True)
class Brief:
    """What the owner wants to see and why."""

    owner: Word = ""
    wants: Note = ""
    hours_left: NonNegative | None = None
    waits_for: Word = ""
    aims: tuple[Word, ...] = ()
    weights: tuple[Weight, ...] = ()
    schools: tuple[Choice, ...] = ()
    cluster_removed: bool = False
