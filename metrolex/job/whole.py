"""The whole job."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

from metrolex.intake import Title
from metrolex.job.brief import Brief
from metrolex.job.bus import Bus
from metrolex.job.chain import MeasuringChain, joined, taken_apart
from metrolex.job.channel import Channel
from metrolex.job.closing import Closing
from metrolex.job.connector import Connector
from metrolex.job.display import Display, Input, Setting
from metrolex.job.feed import Circuit, GroundPoint, Panel, Tap
from metrolex.job.heard import as_sender, on_the_line_of
from metrolex.job.kit import FluidRecord, KitItem
from metrolex.job.later import Later
from metrolex.job.mounting import Fixture, Mounting, Site
from metrolex.job.page import Face, Page
from metrolex.job.place import FlowPath, Port
from metrolex.job.plan import Way, Zone
from metrolex.job.readout import Readout
from metrolex.job.record import Checked, LeftOut, Observation, Waiver
from metrolex.job.search import Search
from metrolex.job.sender import Sender
from metrolex.job.source import Source
from metrolex.job.survey import ClusterItem, Survey
from metrolex.job.switch import Switch
from metrolex.job.vehicle import Vehicle
from metrolex.job.wiring import Conductor, Opening, Run, Splice
from metrolex.job.work import AlteredStep, OwnStep, Worked, WorkHours

__all__ = ["LISTS", "PARTS", "Job"]

P = TypeVar("P", bound=Any)


@dataclass(frozen=True, slots=True)
class Job:
    """Everything known about one job."""

    name: Title
    vehicle: Vehicle
    brief: Brief = field(default=Brief())
    channels: tuple[Channel, ...] = ()
    sources: tuple[Source, ...] = ()
    readouts: tuple[Readout, ...] = ()
    displays: tuple[Display, ...] = ()
    senders: tuple[Sender, ...] = ()
    ports: tuple[Port, ...] = ()
    circuits: tuple[Circuit, ...] = ()
    taps: tuple[Tap, ...] = ()
    grounds: tuple[GroundPoint, ...] = ()
    conductors: tuple[Conductor, ...] = ()
    splices: tuple[Splice, ...] = ()
    switches: tuple[Switch, ...] = ()
    runs: tuple[Run, ...] = ()
    settings: tuple[Setting, ...] = ()
    observations: tuple[Observation, ...] = ()
    waivers: tuple[Waiver, ...] = ()
    survey: Survey = field(default=Survey())
    cluster: tuple[ClusterItem, ...] = ()
    paths: tuple[FlowPath, ...] = ()
    kit: tuple[KitItem, ...] = ()
    fluids: tuple[FluidRecord, ...] = ()
    openings: tuple[Opening, ...] = ()
    panels: tuple[Panel, ...] = ()
    zones: tuple[Zone, ...] = ()
    ways: tuple[Way, ...] = ()
    connectors: tuple[Connector, ...] = ()
    searches: tuple[Search, ...] = ()
    checks: tuple[Checked, ...] = ()
    left_out: tuple[LeftOut, ...] = ()
    later: tuple[Later, ...] = ()
    work: tuple[Worked, ...] = ()
    own_steps: tuple[OwnStep, ...] = ()
    altered_steps: tuple[AlteredStep, ...] = ()
    sites: tuple[Site, ...] = ()
    fixtures: tuple[Fixture, ...] = ()
    mountings: tuple[Mounting, ...] = ()
    pages: tuple[Page, ...] = ()
    faces: tuple[Face, ...] = ()
    bus: Bus = field(default=Bus())
    closing: Closing = field(default=Closing())
    work_hours: WorkHours = field(default=WorkHours())
    memo: dict[Any, Any] = field(default_factory=dict, init=False, repr=False, compare=False)
    """what was worked out of this very job; see ``once``"""

    @property
    def chains(self) -> tuple[MeasuringChain, ...]:
        """Every measuring chain: channels in their order, each with its readouts; one without any readout has a chain all the same."""
        if "chains" not in self.memo:
            self.memo["chains"] = tuple(self._chains())
        found: tuple[MeasuringChain, ...] = self.memo["chains"]
        return found

    @property
    def measured(self) -> tuple[MeasuringChain, ...]:
        """One chain for each channel, its first: for what has to do with its source, not with where it is shown."""
        return tuple({chain.channel: chain for chain in reversed(self.chains)}.values())[::-1]

    def _chains(self) -> Iterator[MeasuringChain]:
        sources = {source.id: source for source in self.sources}
        for channel in self.channels:
            shown = [readout for readout in self.readouts if readout.channel == channel.id]
            if not shown:
                yield joined(channel, sources.get(channel.source or ""), None)
            for readout in shown:
                yield joined(channel, sources.get(channel.source or ""), readout)

    def chain(self, key: str | None) -> MeasuringChain | None:
        """The chain of a readout; of a channel its first."""
        mine = (chain for chain in self.chains if key in (chain.id, chain.channel))
        return min(mine, key=lambda chain: chain.id != key, default=None)

    def display(self, key: str | None) -> Display | None:
        return next((part for part in self.displays if part.id == key), None)

    def sender(self, key: str | None) -> Sender | None:
        return next((part for part in self.senders if part.id == key), None)

    def port(self, key: str | None) -> Port | None:
        return next((part for part in self.ports if part.id == key), None)

    def path(self, key: str | None) -> FlowPath | None:
        return next((part for part in self.paths if part.id == key), None)

    def circuit(self, key: str | None) -> Circuit | None:
        return next((part for part in self.circuits if part.id == key), None)

    def panel(self, key: str | None) -> Panel | None:
        return next((part for part in self.panels if part.id == key), None)

    def ground(self, key: str | None) -> GroundPoint | None:
        return next((part for part in self.grounds if part.id == key), None)

    def tap(self, key: str | None) -> Tap | None:
        return next((part for part in self.taps if part.id == key), None)

    def wire(self, key: str | None) -> Conductor | None:
        return next((part for part in self.conductors if part.id == key), None)

    def switch(self, key: str | None) -> Switch | None:
        return next((part for part in self.switches if part.id == key), None)

    def opening(self, key: str | None) -> Opening | None:
        return next((part for part in self.openings if part.id == key), None)

    def zone(self, key: str | None) -> Zone | None:
        return next((part for part in self.zones if part.id == key), None)

    def connector(self, key: str | None) -> Connector | None:
        return next((part for part in self.connectors if part.id == key), None)

    def site(self, key: str | None) -> Site | None:
        return next((part for part in self.sites if part.id == key), None)

    def fixture(self, key: str | None) -> Fixture | None:
        return next((part for part in self.fixtures if part.id == key), None)

    def mounting(self, key: str | None) -> Mounting | None:
        return next((part for part in self.mountings if part.id == key), None)

    def page(self, key: str | None) -> Page | None:
        return next((part for part in self.pages if part.id == key), None)

    def face(self, key: str | None) -> Face | None:
        return next((part for part in self.faces if part.id == key), None)

    def run(self, key: str | None) -> Run | None:
        return next((part for part in self.runs if part.id == key), None)

    def input_of(self, chain: MeasuringChain) -> Input | None:
        """The input stage a chain is read by, None while it is open."""
        display = self.display(chain.display)
        return display.input_called(chain.input) if display else None

    def heard(self, chain: MeasuringChain) -> Sender | None:
        """What the display hears of a chain, as a sender: its sender, the volts its reader makes of it, or the output of the box between; None while that is open."""
        if chain.box is None:
            sender, stage = self.sender(chain.sender), self.input_of(chain)
            if sender is not None and sender.readers and stage is not None and stage.kind == "volts":
                return on_the_line_of(sender, sender.readers[0])
            return sender
        box = self.display(chain.box)
        output = box.output_called(chain.output) if box else None
        if box is None or output is None:
            return None
        key = ("heard", box.id, output.id)
        if key not in self.memo:
            self.memo[key] = as_sender(box, output)
        found: Sender = self.memo[key]
        return found

    def sender_wired_to(self, chain: MeasuringChain) -> tuple[Display | None, Input | None]:
        """Where the sender itself is joined: the box and its input, or the display and its input."""
        if chain.box is None:
            return self.display(chain.display), self.input_of(chain)
        box = self.display(chain.box)
        return box, box.input_called(chain.box_input) if box else None

    def with_chain(self, chain: MeasuringChain) -> Job:
        """The same job with one chain in place of its namesake, or one more: each of its facts where it is kept."""
        channel, source, readout = taken_apart(chain)
        readouts = _put(self.readouts, readout)
        partners = {key for one in self.switches if channel.id in one.channels for key in one.channels}
        if partners and readout.display is not None:  # shown by turns at one input: there is one table
            readouts = tuple(
                replace(one, scaling=readout.scaling)
                if one.channel in partners and (one.display, one.input) == (readout.display, readout.input)
                else one
                for one in readouts
            )
        return replace(
            self,
            channels=_put(self.channels, channel),
            sources=_put(self.sources, source),
            readouts=readouts,
        )

    def by_turns(self, one: MeasuringChain, other: MeasuringChain) -> bool:
        """Whether two chains are shown by turns at one input, by a switch."""
        by = self.shown_by(one)
        return by is not None and other.channel in by[0].channels

    def shown_by(self, chain: MeasuringChain) -> tuple[Switch, bool] | None:
        """The switch a chain is shown by in turn with another, and whether it is shown when that is thrown."""
        switch = next((one for one in self.switches if chain.channel in one.channels), None)
        return (switch, switch.channels[1] == chain.channel) if switch else None


def _put(parts: tuple[P, ...], part: P) -> tuple[P, ...]:
    if any(other.id == part.id for other in parts):
        return tuple(part if other.id == part.id else other for other in parts)
    return (*parts, part)


#: The lists of a job that hold parts with an id, by field name, with their class.
PARTS: dict[str, type] = {
    "channels": Channel,
    "sources": Source,
    "readouts": Readout,
    "displays": Display,
    "senders": Sender,
    "ports": Port,
    "circuits": Circuit,
    "taps": Tap,
    "grounds": GroundPoint,
    "conductors": Conductor,
    "splices": Splice,
    "switches": Switch,
    "runs": Run,
    "observations": Observation,
    "cluster": ClusterItem,
    "paths": FlowPath,
    "kit": KitItem,
    "fluids": FluidRecord,
    "openings": Opening,
    "panels": Panel,
    "zones": Zone,
    "ways": Way,
    "connectors": Connector,
    "searches": Search,
    "checks": Checked,
    "left_out": LeftOut,
    "later": Later,
    "work": Worked,
    "own_steps": OwnStep,
    "altered_steps": AlteredStep,
    "sites": Site,
    "fixtures": Fixture,
    "mountings": Mounting,
    "pages": Page,
    "faces": Face,
}

#: Every list of a job; what settings and waivers hold has no id of its own.
LISTS = (*PARTS, "settings", "waivers")
