"""Where a channel is shown, and what is entered in the display for it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.intake import AnyNumber, Key, Limits, NonNegative, Percent
from metrolex.job.counting import EngineSetting, RoadSetting, ShiftPlan, TaughtGear
from metrolex.job.words import Word
from metrolex.senders.curves import Point, sort_points
from metrolex.warning.alarm import Alarm

__all__ = ["AlarmBehaviour", "AlarmLevels", "Readout", "Scaling"]


#: What a display's table may be entered in.
XUnit = Literal["ohm", "volt", "millivolt", "milliampere", "hertz", "millisecond"]


@dataclass(frozen=True, slots=True)
class Scaling:
    """What is entered in the display for one channel: table, range, digits.

    ``table`` rows are (x, shown value), x in ``x_unit``; beyond its ends the display holds the last row. ``assumed``: nobody has read it off
    the display or its leaflet yet; it is what a gauge made for its sender would have.
    """

    table: tuple[Point, ...] = ()
    x_unit: XUnit = "ohm"
    decimals: Annotated[int, Limits(low=0, high=4)] = 0
    low: AnyNumber | None = None
    high: AnyNumber | None = None
    assumed: bool = False

    def __post_init__(self) -> None:
        if self.table:
            object.__setattr__(self, "table", sort_points(self.table, at_least=2))
            if self.x_unit == "ohm" and self.table[0][0] < 0:
                raise BadInput("table", self.table[0][0], "ohms of 0 or more")
        if self.low is not None and self.high is not None and self.low >= self.high:
            raise BadInput("high", self.high, f"above the low end, {self.low:g}")


@dataclass(frozen=True, slots=True)
class AlarmBehaviour:
    """How an alarm behaves besides its levels: see ``metrolex.warning.alarm.Alarm``."""

    delay_s: Annotated[float, Limits(low=0, high=60)] = 0.0
    hysteresis: NonNegative = 0.0
    by_rpm: tuple[tuple[NonNegative, AnyNumber], ...] = ()
    inhibit_rpm: NonNegative = 0.0
    start_s: Annotated[float, Limits(low=0, high=60)] = 0.0
    above_load_pct: Percent = 0.0


@dataclass(frozen=True, slots=True)
class AlarmLevels:
    """Below ``low`` and above ``high`` it is lit, as its behaviour says."""

    low: AnyNumber | None = None
    high: AnyNumber | None = None
    behaviour: AlarmBehaviour = field(default=AlarmBehaviour())

    def __post_init__(self) -> None:
        _ = self.alarm  # levels that cross are refused wherever they come from

    @property
    def alarm(self) -> Alarm:
        """The alarm as it is set. Raises BadInput where its levels cross."""
        behaviour = self.behaviour
        return Alarm(
            self.low,
            self.high,
            behaviour.delay_s,
            behaviour.hysteresis,
            behaviour.by_rpm,
            behaviour.inhibit_rpm,
            behaviour.start_s,
            behaviour.above_load_pct,
        )


@dataclass(frozen=True, slots=True)
class Readout:
    """A channel on one display: by which input, on which page, with which table, digits and alarm.

    ``road``, ``engine``, ``gears`` and ``shift`` are what is set for channels of those kinds.
    """

    id: Key
    channel: Key
    display: Key | None = None
    input: Key | None = None
    page: Word = ""
    scaling: Scaling = field(default=Scaling())
    alarm: AlarmLevels = field(default=AlarmLevels())
    road: RoadSetting | None = None
    engine: EngineSetting | None = None
    gears: tuple[TaughtGear, ...] = ()
    shift: ShiftPlan | None = None
