"""The plan of the vehicle: zones leads run in, and the ways between them."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from metrolex.intake import Key, Limits, NonNegative, Title
from metrolex.job.wiring import Beside
from metrolex.job.words import Word

__all__ = ["Way", "Zone", "ZoneKind"]

ZoneKind = Literal[
    "engine bay",
    "bulkhead",
    "dash",
    "pillar",
    "column",
    "console",
    "footwell",
    "floor",
    "tank",
    "underside",
    "wheel arch",
    "roof",
    "boot",
    "handlebar",
    "frame",
    "locker",
]
Place = Annotated[float, Limits(low=0, high=100)]


@dataclass(frozen=True, slots=True)
class Zone:
    """A part of the vehicle seen from above: a box on a sheet of 100 by 60, front to the left.

    ``airbag`` is asked wherever one may sit: '' not asked yet, 'none' or 'there'.
    """

    id: Key
    name: Title
    kind: ZoneKind
    x: Place
    y: Annotated[float, Limits(low=0, high=60)]
    w: Annotated[float, Limits(low=2, high=100)] = 14.0
    h: Annotated[float, Limits(low=2, high=60)] = 10.0
    airbag: Literal["", "none", "there"] = ""
    pedals: bool = False


@dataclass(frozen=True, slots=True)
class Way:
    """A stretch a lead can follow from one zone into another, or across one.

    ``tied_to`` is what leads can be clipped to along it; ``opening`` the hole they pass.
    """

    id: Key
    a: Key
    b: Key
    length_m: NonNegative
    name: Word = ""
    peak_degc: Annotated[float, Limits(low=-60, high=1200)] = 60.0
    moving: bool = False
    wet: bool = False
    opening: Key | None = None
    tied_to: tuple[Word, ...] = ()
    beside: Beside = field(default=Beside())
