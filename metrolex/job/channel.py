"""One thing the driver will read, and what is entered in the display for it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.intake import AnyNumber, Key, Limits, NonNegative, Text, Title
from metrolex.job.counting import EngineCount, RoadCount, ShiftPlan, TaughtGear
from metrolex.job.tank import Tank
from metrolex.job.words import Measurand
from metrolex.senders.curves import Point, sort_points
from metrolex.warning.alarm import Alarm

__all__ = ["Channel", "Scaling", "Source", "WarnManner"]


#: What a display's table may be entered in.
XUnit = Literal["ohm", "volt", "millivolt", "milliampere", "hertz", "millisecond"]


@dataclass(frozen=True, slots=True)
class Scaling:
    """What is entered in the display for one channel: table, range, digits.

    ``table`` rows are (x, shown value), x in ``x_unit``; beyond its ends the display holds the last row.
    """

    table: tuple[Point, ...] = ()
    x_unit: XUnit = "ohm"
    decimals: Annotated[int, Limits(low=0, high=4)] = 0
    low: AnyNumber | None = None
    high: AnyNumber | None = None

    def __post_init__(self) -> None:
        if self.table:
            object.__setattr__(self, "table", sort_points(self.table, at_least=2))
            if self.x_unit == "ohm" and self.table[0][0] < 0:
                raise BadInput("table", self.table[0][0], "ohms of 0 or more")
        if self.low is not None and self.high is not None and self.low >= self.high:
            raise BadInput("high", self.high, f"above the low end, {self.low:g}")


@dataclass(frozen=True, slots=True)
class WarnManner:
    """How a warning behaves besides its level: see ``metrolex.warning.alarm.Alarm``."""

    delay_s: Annotated[float, Limits(low=0, high=60)] = 0.0
    hysteresis: NonNegative = 0.0
    by_rpm: tuple[tuple[NonNegative, AnyNumber], ...] = ()
    inhibit_rpm: NonNegative = 0.0
    start_s: Annotated[float, Limits(low=0, high=60)] = 0.0


#: Where a signal comes from: a sender of its own, one that is there already, data on the bus, GPS, or other channels.
Source = Literal["sender", "shared", "ecu", "gps", "worked_out"]


@dataclass(frozen=True, slots=True)
class Channel:
    """One thing the driver will read. Without a sender (``source`` ecu, gps, worked_out) it has no port either.

    ``signal`` is the name of the data bus signal that brings it, as the bus of the job lists it. ``road``, ``engine``, ``shift``, ``gears`` and
    ``tank`` belong to channels of those kinds; ``manner`` tells how its warning behaves.
    """

    id: Key
    name: Title
    measurand: Measurand
    unit: Annotated[str, Text(20, blank=False)]
    display: Key | None = None
    input: Key | None = None
    sender: Key | None = None
    port: Key | None = None
    run: Key | None = None
    true_stopped: AnyNumber | None = None
    true_running: AnyNumber | None = None
    scaling: Scaling = field(default=Scaling())
    warn_low: AnyNumber | None = None
    warn_high: AnyNumber | None = None
    source: Source = "sender"
    signal: Annotated[str, Text(120)] = ""
    road: RoadCount | None = None
    engine: EngineCount | None = None
    gears: tuple[TaughtGear, ...] = ()
    shift: ShiftPlan | None = None
    tank: Tank | None = None
    manner: WarnManner = field(default=WarnManner())

    @property
    def alarm(self) -> Alarm:
        """The warning as it is set. Raises BadInput where its levels cross."""
        manner = self.manner
        return Alarm(
            self.warn_low,
            self.warn_high,
            manner.delay_s,
            manner.hysteresis,
            manner.by_rpm,
            manner.inhibit_rpm,
            manner.start_s,
        )
