"""Pulses of a channel: of the road, of the engine; and what is set in the display for them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.intake import AnyNumber, Limits, NonNegative, Positive, Text
from metrolex.job.words import Word
from metrolex.speed.engine import Pickup
from metrolex.speed.pulses import Sensed

__all__ = [
    "EngineSense",
    "EngineSetting",
    "Enters",
    "OldSetting",
    "RoadSense",
    "RoadSetting",
    "ShiftPlan",
    "SpeedRun",
    "TaughtGear",
]

#: What a speedometer is told: pulses for a distance, or how far a turn goes.
Enters = Literal["pulses_per_km", "pulses_per_mile", "circumference_mm"]
FASTEST_KMH = 600.0
Speed = Annotated[float, Limits(above=0, high=FASTEST_KMH)]
LEAST_SHOWN, MOST_SHOWN = 0.1, 10.0  # of the true speed: beyond is a slip of the pen


@dataclass(frozen=True, slots=True)
class SpeedRun:
    """One steady run: true speed by GPS and the speed shown, km/h, with what was set then (None: as the road says)."""

    gps_kmh: Speed
    shown_kmh: Speed
    note: Word = ""
    setting: Positive | None = None


@dataclass(frozen=True, slots=True)
class OldSetting:
    """A setting that was, and why it was changed."""

    setting: Positive
    why: Word = ""


@dataclass(frozen=True)
class RoadSense:
    """How road speed is sensed. ``circumference_m`` was measured by a chalk mark, else it follows from the vehicle's tyre."""

    sensed: Sensed
    pulses_per_rev: Positive
    circumference_m: Annotated[float, Limits(low=0.3, high=6)] | None = None
    cable_turns_per_km: Positive | None = None


@dataclass(frozen=True)
class RoadSetting:
    """What is set in a display for road speed.

    ``runs`` were driven with ``driven_with`` set. ``setting`` is in the words of ``enters``, in steps of ``step``. ``limit_hz`` is what the
    input counts. ``never_under`` asks for a setting with which the face cannot show under the true speed.
    """

    enters: Enters = "pulses_per_km"
    setting: Positive | None = None
    step: NonNegative = 1.0
    runs: tuple[SpeedRun, ...] = ()
    driven_with: Positive | None = None
    before: tuple[OldSetting, ...] = ()
    limit_hz: Positive | None = None
    top_kmh: Speed = 200.0
    never_under: bool = False

    def __post_init__(self) -> None:
        if any(run.setting is None for run in self.runs) and self.driven_with is None:
            raise BadInput("driven_with", None, "the setting with which the runs were driven")
        for i, (true, shown) in enumerate(self.turned_runs()):
            if not LEAST_SHOWN <= shown / true <= MOST_SHOWN or shown > FASTEST_KMH:
                raise BadInput(
                    f"runs[{i}].shown_kmh",
                    self.runs[i].shown_kmh,
                    "within a tenth and ten times the true speed, turned to one setting",
                )

    @property
    def base(self) -> float | None:
        """The setting all runs are turned to before they are fitted: the last that was driven with; None without runs."""
        own = next((run.setting for run in reversed(self.runs) if run.setting is not None), self.driven_with)
        return own if self.runs else None

    def turned_runs(self) -> tuple[tuple[float, float], ...]:
        """True and shown speed of each run, as it would have read with one setting."""
        base, found = self.base or 1.0, []
        for run in self.runs:
            driven_with = run.setting or self.driven_with or base
            turned = base / driven_with if self.enters == "circumference_mm" else driven_with / base
            found.append((run.gps_kmh, run.shown_kmh * turned))
        return tuple(found)


@dataclass(frozen=True)
class EngineSense:
    """How engine speed is picked up."""

    pickup: Pickup
    pulses_per_rev: Positive | None = None


@dataclass(frozen=True)
class EngineSetting:
    """How many pulses a turn a display is set to.

    ``shown_rpm`` was read while ``true_rpm`` was known, with ``setting`` in it; ``readings_rpm`` one after the other at that speed.
    """

    setting: Positive | None = None
    turns: Annotated[float, Limits(low=0, high=40)] | None = None
    shown_rpm: Positive | None = None
    true_rpm: Positive | None = None
    readings_rpm: tuple[Positive, ...] = ()


@dataclass(frozen=True, slots=True)
class ShiftPlan:
    """Shift lamps of an engine speed channel: power over engine speed (rpm, kW), lamps, the driver's reaction, time between lamps."""

    power: tuple[tuple[Positive, Positive], ...] = ()
    lamps: Annotated[int, Limits(low=1, high=24)] = 5
    reaction_s: Annotated[float, Limits(low=0, high=2)] = 0.3
    step_s: Annotated[float, Limits(low=0.02, high=2)] = 0.25


@dataclass(frozen=True, slots=True)
class TaughtGear:
    """A gear and the volts (or the engine rpm per km/h) it was taught with."""

    gear: Annotated[str, Text(4, blank=False)]
    value: AnyNumber
