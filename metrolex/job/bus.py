"""The data bus of the vehicle: what was measured on its pair, and the signals its description lists."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from metrolex.intake import AnyNumber, Limits, NonNegative, Positive, Text, Title
from metrolex.job.words import Word

__all__ = ["Bus", "BusSignal"]


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
class Bus:
    """``pair_ohm`` is read across the pair with the power off; ``stub_m`` is the branch from the bus to the display."""

    pair_ohm: NonNegative | None = None
    stub_m: NonNegative | None = None
    bitrate_kbit: Positive = 500.0
    description: Word = ""
    signals: tuple[BusSignal, ...] = ()
