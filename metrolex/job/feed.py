"""Circuits that may be tapped, taps and grounds."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from metrolex.intake import Key, Limits, NonNegative, Positive, Title
from metrolex.job.words import Need, Volts, Word

__all__ = ["Circuit", "GroundPoint", "Readings", "Tap"]


@dataclass(frozen=True, slots=True)
class Readings:
    """What the probe found in each state: volts, 'live' or 'dead' by lamp, None where not tried.

    park and head are read with the key off.
    """

    off: Volts | Literal["live", "dead"] | None = None
    acc: Volts | Literal["live", "dead"] | None = None
    run: Volts | Literal["live", "dead"] | None = None
    crank: Volts | Literal["live", "dead"] | None = None
    park: Volts | Literal["live", "dead"] | None = None
    head: Volts | Literal["live", "dead"] | None = None

    def at(self, state: str) -> float | str | None:
        value: float | str | None = getattr(self, state)
        return value


@dataclass(frozen=True, slots=True)
class Circuit:
    """A feed the fitter may tap: a fuse slot, a bare wire or the battery itself.

    ``load_a`` is what the vehicle itself draws through it at 12 V.
    """

    id: Key
    purpose: Word = ""
    kind: Literal["fuse", "wire", "battery"] = "fuse"
    panel: Word = ""
    rating_a: Positive | None = None
    form: Word = ""
    row: Annotated[int, Limits(low=1, high=40)] = 1
    column: Annotated[int, Limits(low=1, high=40)] = 1
    readings: Readings = field(default=Readings())
    fuse_pulled_dead: bool | None = None
    load_a: NonNegative = 1.0


@dataclass(frozen=True, slots=True)
class Tap:
    """Where power is taken: from which circuit, for which need, behind which added fuse."""

    id: Key
    need: Need
    circuit: Key | None = None
    fuse_a: Positive | None = None
    side: Literal["feed", "load"] = "feed"
    limit_a: Positive = 10.0
    contact_ohm: Positive = 0.004


@dataclass(frozen=True, slots=True)
class GroundPoint:
    """A bolt or stud used as ground."""

    id: Key
    name: Title
    where: Literal["body", "engine", "battery"] = "body"
    surface: Word = ""
    contact_ohm: Positive = 0.003
    shared_with: Word = ""
