"""The data bus of the vehicle: what was measured on its pair, and the signals its description lists; the antenna of a GPS."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.intake import AnyNumber, Limits, NonNegative, Positive, Text, Title
from metrolex.job.words import Word

__all__ = ["Antenna", "Bus", "BusSignal"]


@dataclass(frozen=True, slots=True)
class BusSignal:
    """One number in one message of the bus."""

    name: Title
    message: Title
    frame: Annotated[int, Limits(low=0, high=0x1FFFFFFF)]
    unit: Annotated[str, Text(60)] = ""
    low: AnyNumber | None = None
    high: AnyNumber | None = None
    cycle_ms: Positive | None = None


@dataclass(frozen=True, slots=True)
class Antenna:
    """The GPS antenna: where it sits, what is above it, how long its lead is."""

    where: Word = ""
    above: Literal["", "open sky", "plain glass", "coated glass", "plastic", "metal or carbon"] = ""
    lead_m: Positive | None = None


@dataclass(frozen=True, slots=True)
class Bus:
    """What brings readings without a sender: the data bus and the GPS antenna.

    ``pair_ohm`` is read across the pair with the power off; ``stub_m`` is the branch from the bus to the display, ``tapped_at`` where it begins.
    """

    pair_ohm: NonNegative | None = None
    stub_m: NonNegative | None = None
    bitrate_kbit: Positive = 500.0
    description: Word = ""
    signals: tuple[BusSignal, ...] = ()
    tapped_at: Word = ""
    antenna: Antenna | None = None
