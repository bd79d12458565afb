"""The measuring chain: a channel, its source and one readout of it, joined.

A job stores the three apart, so that one channel can stand on two displays and two sources can reach one input. Whoever follows a signal from
the sender to the face wants them together: that is a chain, as VIM 3.10 has it ("a single path of the signal from a sensor to an output
element"). A chain changed is taken apart again, and each fact goes where it is kept.
"""

from __future__ import annotations

import dataclasses
from dataclasses import dataclass, field
from typing import Any, TypeVar

from metrolex.job.channel import Channel
from metrolex.job.counting import EngineSense, EngineSetting, RoadSense, RoadSetting, ShiftPlan, TaughtGear
from metrolex.job.points import TruePoint
from metrolex.job.readout import AlarmBehaviour, AlarmLevels, Readout, Scaling
from metrolex.job.source import Joint, Source, SourceKind, Through
from metrolex.job.tank import Tank
from metrolex.job.words import Measurand
from metrolex.warning.alarm import Alarm

__all__ = ["EngineCount", "MeasuringChain", "RoadCount", "joined", "taken_apart"]

T = TypeVar("T")


@dataclass(frozen=True)
class RoadCount(RoadSetting, RoadSense):
    """How road speed is sensed, and what is set for it."""


@dataclass(frozen=True)
class EngineCount(EngineSetting, EngineSense):
    """How engine speed is picked up, and what is set for it."""


@dataclass(frozen=True, slots=True)
class MeasuringChain:
    """One signal from sender to face. ``id`` is the readout's, ``channel`` the channel's, ``source_id`` the source's."""

    id: str
    name: str
    measurand: Measurand
    unit: str
    display: str | None = None
    input: str | None = None
    sender: str | None = None
    port: str | None = None
    run: str | None = None
    true_stopped: float | None = None
    true_running: float | None = None
    scaling: Scaling = field(default=Scaling())
    warn_low: float | None = None
    warn_high: float | None = None
    source: SourceKind = "sender"
    signal: str = ""
    road: RoadCount | None = None
    engine: EngineCount | None = None
    gears: tuple[TaughtGear, ...] = ()
    shift: ShiftPlan | None = None
    tank: Tank | None = None
    behaviour: AlarmBehaviour = field(default=AlarmBehaviour())
    page: str = ""
    channel: str = ""
    source_id: str = ""
    box: str | None = None
    box_input: str | None = None
    output: str | None = None
    true_at: tuple[TruePoint, ...] = ()
    plug: str | None = None
    pin: str | None = None

    def __post_init__(self) -> None:
        for name in ("channel", "source_id"):
            if not getattr(self, name):
                object.__setattr__(self, name, self.id)

    @property
    def alarm(self) -> Alarm:
        """The alarm as it is set. Raises BadInput where its levels cross."""
        return AlarmLevels(self.warn_low, self.warn_high, self.behaviour).alarm


def joined(channel: Channel, source: Source | None, readout: Readout | None) -> MeasuringChain:
    """The three as one; a source or readout that is not there yet at its defaults."""
    source = source or Source(channel.source or channel.id)
    readout = readout or Readout(channel.id, channel.id)
    return MeasuringChain(
        readout.id,
        channel.name,
        channel.measurand,
        channel.unit,
        readout.display,
        readout.input,
        source.sender,
        source.port,
        source.run,
        channel.true_stopped,
        channel.true_running,
        readout.scaling,
        readout.alarm.low,
        readout.alarm.high,
        source.kind,
        source.signal,
        RoadCount(**_fields(readout.road or RoadSetting()), **_fields(source.road)) if source.road else None,
        EngineCount(**_fields(readout.engine or EngineSetting()), **_fields(source.engine))
        if source.engine
        else None,
        readout.gears,
        readout.shift,
        channel.tank,
        readout.alarm.behaviour,
        readout.page,
        channel.id,
        source.id,
        source.through.box,
        source.through.box_input,
        source.through.output,
        channel.true_at,
        source.joint.plug,
        source.joint.pin,
    )


def taken_apart(chain: MeasuringChain) -> tuple[Channel, Source, Readout]:
    """The three a chain is kept as."""
    road, engine = chain.road, chain.engine
    return (
        Channel(
            chain.channel,
            chain.name,
            chain.measurand,
            chain.unit,
            chain.source_id,
            chain.true_stopped,
            chain.true_running,
            chain.true_at,
            chain.tank,
        ),
        Source(
            chain.source_id,
            chain.source,
            chain.sender,
            chain.port,
            chain.run,
            Through(chain.box, chain.box_input, chain.output),
            Joint(chain.plug, chain.pin),
            chain.signal,
            _part(RoadSense, road) if road else None,
            _part(EngineSense, engine) if engine else None,
        ),
        Readout(
            chain.id,
            chain.channel,
            chain.display,
            chain.input,
            chain.page,
            chain.scaling,
            AlarmLevels(chain.warn_low, chain.warn_high, chain.behaviour),
            _part(RoadSetting, road) if road else None,
            _part(EngineSetting, engine) if engine else None,
            chain.gears,
            chain.shift,
        ),
    )


def _fields(record: Any) -> dict[str, Any]:
    return {f.name: getattr(record, f.name) for f in dataclasses.fields(record)}


def _part(kind: type[T], whole: object) -> T:
    """The fields of one kind of record, taken from a record that has them all."""
    return kind(**{f.name: getattr(whole, f.name) for f in dataclasses.fields(kind)})  # type: ignore[arg-type]
