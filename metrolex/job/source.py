"""Where a signal comes from."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from metrolex.intake import Key, Text
from metrolex.job.counting import EngineSense, RoadSense

__all__ = ["Joint", "Source", "SourceKind", "Through"]

#: Where a signal comes from: a sender of its own, one that is there already, data on the bus, GPS, or other channels.
SourceKind = Literal["sender", "shared", "ecu", "gps", "worked_out"]


@dataclass(frozen=True, slots=True)
class Through:
    """The box a signal comes through: the sender sits at its input ``box_input``, the display hears its ``output``.

    ``box_input`` None: a second reading of a box whose sensor another channel has.
    """

    box: Key | None = None
    box_input: Key | None = None
    output: Key | None = None


@dataclass(frozen=True, slots=True)
class Joint:
    """Where the display's wire joins one of the vehicle: a pin of one of its plugs; both None for the sender itself."""

    plug: Key | None = None
    pin: Key | None = None


@dataclass(frozen=True, slots=True)
class Source:
    """A signal: from a sender in its place by a run of lead, or by data. Without a sender (ecu, gps, worked_out) it has no place either.

    ``signal`` is the name of the data bus signal that brings it, as the bus of the job lists it. ``road`` and ``engine`` tell how pulses arise.
    """

    id: Key
    kind: SourceKind = "sender"
    sender: Key | None = None
    port: Key | None = None
    run: Key | None = None
    through: Through = field(default=Through())
    joint: Joint = field(default=Joint())
    signal: Annotated[str, Text(120)] = ""
    road: RoadSense | None = None
    engine: EngineSense | None = None
