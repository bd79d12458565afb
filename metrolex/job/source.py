"""Where a signal comes from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.intake import Key, Text
from metrolex.job.counting import EngineSense, RoadSense

__all__ = ["Source", "SourceKind"]

#: Where a signal comes from: a sender of its own, one that is there already, data on the bus, GPS, or other channels.
SourceKind = Literal["sender", "shared", "ecu", "gps", "worked_out"]


@dataclass(frozen=True, slots=True)
class Source:
    """A signal: from a sender in its place by a run of lead, or by data. Without a sender (ecu, gps, worked_out) it has no place either.

    ``box`` is what stands between the sender and the display: the sender sits at its input ``box_input`` (None: a second reading of a box whose
    sensor another channel has), the display hears its ``output``. ``plug`` and ``pin`` are where the display's wire joins the vehicle's own. ``signal`` is the name of the data bus signal that brings it, as the bus of the job lists it. ``road`` and ``engine`` tell how pulses arise.
    """

    id: Key
    kind: SourceKind = "sender"
    sender: Key | None = None
    port: Key | None = None
    run: Key | None = None
    box: Key | None = None
    box_input: Key | None = None
    output: Key | None = None
    plug: Key | None = None
    pin: Key | None = None
    signal: Annotated[str, Text(120)] = ""
    road: RoadSense | None = None
    engine: EngineSense | None = None
