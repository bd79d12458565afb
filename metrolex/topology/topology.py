"""The wiring of a job: which wires end where, the nets they make, how long they are, what feeds and grounds a pin.

A net is everything joined by wires through splices, pins, terminals and plugs. Taps, ground points, the battery and the metal of a
place belong to the vehicle: a net ends there. A switch of the job parts nets too, but what is asked for a feed, a ground or a load is
followed through its contacts, however they stand.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from operator import itemgetter

from metrolex.disjoint_sets import DisjointSets
from metrolex.job import Conductor, Display, End, Job, MeasuringChain, Pin, Run
from metrolex.job.once import once_per_job
from metrolex.layout.lengths import run_length_m
from metrolex.layout.routes import laid
from metrolex.topology.ends import PASSED, at_pin, plain

__all__ = ["Net", "Topology", "topology_of"]


CONTACT = "\0"  # no id begins so: what stands for a contact of a switch among wires


@dataclass(frozen=True, slots=True)
class Net:
    """Wires that are one piece of copper, in the order of the job, and every place they join."""

    wires: tuple[Conductor, ...]
    ends: frozenset[End]

    def of_kind(self, *kinds: str) -> tuple[End, ...]:
        """Its ends of some kinds, by id and terminal."""
        return tuple(
            sorted((end for end in self.ends if end.kind in kinds), key=lambda e: (e.kind, e.id, e.terminal))
        )


class Topology:
    """Built by ``topology_of``; asked by everybody who wants to know what is wired to what."""

    def __init__(self, job: Job) -> None:
        self.job = job
        at: dict[End, list[tuple[Conductor, End]]] = {}
        for wire in job.conductors:
            a, b = plain(wire.a), plain(wire.b)
            at.setdefault(a, []).append((wire, b))
            if a != b:
                at.setdefault(b, []).append((wire, a))
        self._at: Mapping[End, list[tuple[Conductor, End]]] = at  # each wire with its far end
        through: dict[End, list[End]] = {}
        for switch in job.switches:
            for contact in switch.contacts:
                one, other = (End("switch", switch.id, end) for end in (contact.a, contact.b))
                through.setdefault(one, []).append(other)
                through.setdefault(other, []).append(one)
        self._through: Mapping[End, list[End]] = (
            through  # what the contacts of a switch join, at rest or thrown
        )

    # Wires

    @property
    def ends(self) -> Iterable[End]:
        """Every place a wire ends."""
        return self._at.keys()

    def wires_at(self, end: End, *, measured: bool = False) -> tuple[Conductor, ...]:
        """The wires that end at a place, in the order of the job; only those whose length is known where ``measured``."""
        wires = tuple(wire for wire, _ in self._at.get(plain(end), ()))
        return tuple(wire for wire in wires if wire.id in self.lengths_m) if measured else wires

    def wired(self, end: End, *, measured: bool = False) -> bool:
        """Whether a wire ends at a place."""
        return bool(self.wires_at(end, measured=measured))

    def along(self, run: Run) -> tuple[Conductor, ...]:
        """The wires of one run."""
        return self._along.get(run.id, ())

    @staticmethod
    def far_end(wire: Conductor, near: End) -> End:
        """The other end of a wire."""
        return plain(wire.b) if plain(wire.a) == plain(near) else plain(wire.a)

    # Lengths

    @cached_property
    def ways(self) -> Mapping[str, Run]:
        """Every run by its id, with the segments of its path along the plan where it is laid there."""
        return {run.id: laid(self.job, run) for run in self.job.runs}

    @cached_property
    def lengths_m(self) -> Mapping[str, float]:
        """Wires by id whose length is known: measured, or that of their run."""
        by_run = {key: run_length_m(way) for key, way in self.ways.items() if way.segments}
        found = {wire.id: wire.length_m or by_run.get(wire.run or "") for wire in self.job.conductors}
        return {key: length for key, length in found.items() if length is not None}

    # Nets

    @cached_property
    def nets(self) -> tuple[Net, ...]:
        """All nets, in the order of their first wire."""
        groups: dict[End | str, list[Conductor]] = {}
        for wire in self.job.conductors:
            joints = [self._root[end] for end in (plain(wire.a), plain(wire.b)) if end.kind in PASSED]
            groups.setdefault(joints[0] if joints else wire.id, []).append(wire)
        return tuple(
            Net(tuple(wires), frozenset(plain(end) for wire in wires for end in (wire.a, wire.b)))
            for wires in groups.values()
        )

    def nets_at(self, end: End) -> tuple[Net, ...]:
        """The nets that join a place: one at a pin or splice, any number at a tap or ground point, none where no wire is."""
        return self._nets_at.get(plain(end), ())

    def joined(self, end: End) -> frozenset[End]:
        """Every place that is one piece of copper with this one, itself included."""
        return frozenset({plain(end)}.union(*(net.ends for net in self.nets_at(end))))

    def reaches(self, end: End) -> frozenset[End]:
        """Every place that is one piece of copper with this one, or becomes so as switches are thrown; itself included."""
        found = set(self.joined(end))
        places = list(found)
        for place in places:
            for far in self._through.get(place, ()):
                fresh = self.joined(far) - found
                found |= fresh
                places.extend(fresh)
        return frozenset(found)

    def loops(self) -> tuple[Conductor, ...]:
        """Wires between splices whose two ends were joined already by wires before them."""
        return self._loops

    # Feeds, grounds

    def beyond(self, start: End) -> tuple[Conductor, ...]:
        """The wires reached from a place of the vehicle, nearest first, through all that belongs to the job."""
        return tuple(self._walked(start)[0].values())

    def reached(self, start: End) -> tuple[End, ...]:
        """The places of the job reached from a place of the vehicle, itself left out."""
        return tuple(self._walked(start)[1][1:])

    def dead_without(self, start: End) -> Mapping[str, tuple[End, ...]]:
        """Every wire reached from a place of the vehicle, and the places that go dead when it alone is cut.

        A wire in a loop takes nothing with it; it may carry whatever the loop feeds, so for it all places reached are given.
        Method: Tarjan, 'A note on finding the bridges of a graph', Information Processing Letters 2 (1974).
        """
        order, index, low = (
            [plain(start)],
            {plain(start): 0},
            [0],
        )  # as they are first seen, and the earliest they lead back to
        dead: dict[str, tuple[End, ...]] = {}
        in_loop: set[str] = set()
        path: list[tuple[int, str, Iterator[tuple[str, End]]]] = [(0, "", self._leads_from(order[0]))]
        while path:
            here, came_by, wires = path[-1]
            step = next(wires, None)
            if step is None:
                path.pop()
                if path:
                    before = path[-1][0]
                    low[before] = min(low[before], low[here])
                    if low[here] > before:
                        dead[came_by] = tuple(order[here:])
                    else:
                        in_loop.add(came_by)
                continue
            lead, far = step
            if lead == came_by:
                continue
            if far in index:
                low[here] = min(low[here], index[far])
                in_loop.add(lead)
            elif far.kind in PASSED:
                index[far] = len(order)
                low.append(index[far])
                order.append(far)
                path.append((index[far], lead, self._leads_from(far)))
            else:
                dead[lead] = ()
        found = dead | dict.fromkeys(in_loop, tuple(order[1:]))
        return {lead: places for lead, places in found.items() if not lead.startswith(CONTACT)}

    def _leads_from(self, place: End) -> Iterator[tuple[str, End]]:
        """What leads on from a place, with its far end: wires by their id, contacts by a name no wire has."""
        for wire, far in self._at.get(place, ()):
            yield wire.id, far
        for far in self._through.get(place, ()):
            yield CONTACT + "|".join((place.id, *sorted((place.terminal, far.terminal)))), far

    def _walked(self, start: End) -> tuple[dict[str, Conductor], list[End]]:
        wires: dict[str, Conductor] = {}
        places, seen = [plain(start)], {plain(start)}
        for at in places:
            for wire, far in self._at.get(at, ()):
                if wire.id in wires:
                    continue
                wires[wire.id] = wire
                if far.kind in PASSED and far not in seen:
                    seen.add(far)
                    places.append(far)
            for far in self._through.get(at, ()):
                if far not in seen:
                    seen.add(far)
                    places.append(far)
        return wires, places

    def pins_at(self, places: Iterable[End]) -> list[Pin]:
        """The display pins among some places, in the order of the job."""
        known = self._pins
        return [pin for _, pin in sorted((known[end] for end in places if end in known), key=itemgetter(0))]

    def fed(self, display: Display, pin: Pin) -> bool:
        """Whether a pin is joined to the vehicle: a tap, a ground point or the battery."""
        return any(end.kind in ("tap", "ground", "battery") for end in self.reaches(at_pin(display, pin)))

    def unmeasured_to(self, end: End, kinds: Collection[str]) -> tuple[Conductor, ...]:
        """The wires of unknown length that keep a place from what it is joined to, of some kinds.

        None where it is reached by measured wires alone, or is joined to nothing of these kinds at all.
        """
        places, seen = [plain(end)], {plain(end)}
        border: dict[str, Conductor] = {}
        for at in places:
            for wire, far in self._at.get(at, ()):
                if wire.id not in self.lengths_m:
                    border[wire.id] = wire
                elif far.kind in kinds:
                    return ()
                elif far.kind in PASSED and far not in seen:
                    seen.add(far)
                    places.append(far)
            for far in self._through.get(at, ()):
                if far not in seen:
                    seen.add(far)
                    places.append(far)
        return tuple(border.values()) if any(far.kind in kinds for far in self.reaches(end)) else ()

    def grounds_of(self, display: Display) -> tuple[str, ...]:
        """The ground points a display's ground pin is joined to."""
        ground = display.pin_for("ground")
        if ground is None:
            return ()
        ends = self.reaches(at_pin(display, ground))
        return tuple(point.id for point in self.job.grounds if End("ground", point.id) in ends)

    def signal_wire(self, channel: MeasuringChain) -> Conductor | None:
        """The wire at the pin a channel is read by; None while there is none."""
        display, stage = self.job.display(channel.display), self.job.input_of(channel)
        if display is None or stage is None or stage.pin is None:
            return None
        return next(iter(self.wires_at(at_pin(display, stage.pin))), None)

    # Inside

    @cached_property
    def _pins(self) -> Mapping[End, tuple[int, Pin]]:
        """Each display pin by where it is, with its place in the order of the job."""
        pins = ((at_pin(display, pin), pin) for display in self.job.displays for pin in display.pins)
        return {end: (i, pin) for i, (end, pin) in enumerate(pins)}

    @cached_property
    def _along(self) -> Mapping[str, tuple[Conductor, ...]]:
        found: dict[str, list[Conductor]] = {}
        for wire in self.job.conductors:
            if wire.run is not None:
                found.setdefault(wire.run, []).append(wire)
        return {key: tuple(wires) for key, wires in found.items()}

    @cached_property
    def _nets_at(self) -> Mapping[End, tuple[Net, ...]]:
        found: dict[End, list[Net]] = {}
        for net in self.nets:
            for end in net.ends:
                found.setdefault(end, []).append(net)
        return {end: tuple(nets) for end, nets in found.items()}

    @cached_property
    def _root(self) -> Mapping[End, End]:
        return self._joined_up[0]

    @cached_property
    def _loops(self) -> tuple[Conductor, ...]:
        return self._joined_up[1]

    @cached_property
    def _joined_up(self) -> tuple[Mapping[End, End], tuple[Conductor, ...]]:
        """The joint that stands for each joint's net, and the wires that closed a loop (disjoint sets)."""
        sets = DisjointSets[End]()
        closing = []
        # Wires to pins first, so that of a loop the wire between the splices is the one that is named.
        for wire in sorted(self.job.conductors, key=_between_splices):
            joints = [end for end in (plain(wire.a), plain(wire.b)) if end.kind in PASSED]
            if len(joints) == 2 and not sets.join(*joints) and _between_splices(wire):
                closing.append(wire)
        return {end: sets.of(end) for end in self.ends}, tuple(closing)

    def __iter__(self) -> Iterator[Net]:
        return iter(self.nets)


def _between_splices(wire: Conductor) -> bool:
    return wire.a.kind == wire.b.kind == "splice"


@once_per_job
def topology_of(job: Job) -> Topology:
    """The topology of a job."""
    return Topology(job)
