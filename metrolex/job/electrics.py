"""The vehicle's own electrics: how it stands now, battery, start, straps, standing loads, each with how far it may be off.

Defaults are typical of a light 12 V vehicle (common practice, no source); all are there to be measured.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from metrolex.intake import Limits, NonNegative, Positive
from metrolex.job.words import Word

__all__ = ["Battery", "Electrics", "Loads", "Starting", "Straps", "VehicleState"]

Volts = Annotated[float, Limits(low=1, high=34)]
Share = Annotated[float, Limits(low=0, high=90)]
#: At rest and charging, of a 12 V vehicle nobody has measured.
REST_V, CHARGING_V = 12.6, 14.2


@dataclass(frozen=True, slots=True)
class VehicleState:
    """Volts read post to post: key off, engine at fast idle, starter turning; and the day they were read. None: not read yet."""

    rest_v: Volts | None = None
    charging_v: Volts | None = None
    cranking_v: Volts | None = None
    measured_on: Word = ""


@dataclass(frozen=True, slots=True)
class Battery:
    """What lies inside battery and alternator: giving, taking charge, the charge lead; how far volts and ohms may be off.

    ``batteries`` says how many there are and how they are joined; the ohms and volts are those of all together.
    """

    batteries: Literal["one", "side by side", "in series", "a second one, parted"] = "one"
    battery_ohm: Positive = 0.012
    charge_ohm: Positive = 0.15
    alternator_ohm: Positive = 0.01
    rest_tolerance_v: NonNegative = 0.2
    inner_tolerance_pct: Share = 50.0


@dataclass(frozen=True, slots=True)
class Starting:
    """What the starter draws; ``start_level`` is the row of starts.toml a start is held against, '' while nobody has said."""

    starter_a: Positive = 150.0
    starter_tolerance_pct: Share = 30.0
    start_level: Literal["", "I", "II", "III", "IV"] = ""


@dataclass(frozen=True, slots=True)
class Straps:
    """From battery negative to the metal, and between engine and body."""

    negative_to_engine_ohm: Positive = 0.0006
    negative_to_body_ohm: Positive = 0.003
    engine_to_body_ohm: Positive = 0.002
    strap_tolerance_pct: Annotated[float, Limits(low=0, high=100)] = 100.0

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
class Loads:
    """Amperes at the nominal volts, taken as resistive: the engine's systems in run, park lamps, headlamps."""

    run_load_a: Positive = 8.0
    park_load_a: Positive = 4.0
    head_load_a: Positive = 14.0
    load_tolerance_pct: Share = 30.0


@dataclass(frozen=True, slots=True)
class Electrics:
    """All of it; ``contact_ohm`` is a contact of the key switch, ``wire_tolerance_k`` how much warmer or colder a conductor may be than stated.

    ``system_v`` is what the vehicle is said to run on while nobody has read its battery.
    """

    state: VehicleState = field(default=VehicleState())
    battery: Battery = field(default=Battery())
    starting: Starting = field(default=Starting())
    straps: Straps = field(default=Straps())
    loads: Loads = field(default=Loads())
    contact_ohm: Positive = 0.015
    wire_tolerance_k: Annotated[float, Limits(low=0, high=100)] = 25.0
    system_v: Literal[6, 12, 24] | None = None

    @property
    def nominal_v(self) -> float:
        """6, 12 or 24 V by what the battery rests at, or by what it is charged with; as said while neither is read."""
        if self.system_v and self.state.rest_v is None and self.state.charging_v is None:
            return float(self.system_v)
        seen = self.state.rest_v or (self.state.charging_v or CHARGING_V) * REST_V / CHARGING_V
        return 6.0 if seen < 8.0 else (12.0 if seen < 18.0 else 24.0)

    @property
    def rest_v(self) -> float:
        """At rest, as read or else as such a vehicle usually stands."""
        return self.state.rest_v or REST_V * self.nominal_v / 12.0

    @property
    def charging_v(self) -> float:
        """While it is charged, as read or else as is usual."""
        return self.state.charging_v or CHARGING_V * self.nominal_v / 12.0
