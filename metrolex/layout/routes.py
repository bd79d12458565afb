"""The best path of a lead through the vehicle: shortest, with heat, motion, water and new holes counted as metres.

What each counts stands in ``data/layouts.toml`` (common practice, no source).
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass, replace
from functools import lru_cache

from metrolex.job import Job, Opening, Run, Segment, Way, Zone
from metrolex.job.once import once_per_job
from metrolex.layout.shortest import all_paths
from metrolex.tables import load_table

INSIDE_DEGC = 60.0  # within one zone, where no way tells (common practice, no source)

__all__ = ["Route", "distance_m", "find_route", "laid", "route_of", "way_cost_m"]


@dataclass(frozen=True, slots=True)
class Route:
    """A path through the plan: its ways in order, the zones it passes, its length and what it counts for, in metres."""

    ways: tuple[Way, ...]
    zones: tuple[str, ...]
    cost_m: float

    @property
    def length_m(self) -> float:
        return sum(way.length_m for way in self.ways)

    @property
    def openings(self) -> tuple[str, ...]:
        return tuple(way.opening for way in self.ways if way.opening)

    @property
    def twice(self) -> tuple[str, ...]:
        """The openings it passes more than once: there is no other way back."""
        return tuple(dict.fromkeys(key for key in self.openings if self.openings.count(key) > 1))


def way_cost_m(way: Way, opening: Opening | None) -> float:
    """What one way counts for, in metres: its length and its penalties. What it is tied to or passes is said, not silently gone round."""
    costs = load_table("layouts")["costs"]
    heat = 0.0
    if way.peak_degc > costs["hot_degc"]:
        heat = costs["hot_factor"]
    elif way.peak_degc > costs["warm_degc"]:
        heat = costs["warm_factor"]
    cost = way.length_m * (1 + heat + (costs["wet_factor"] if way.wet else 0.0))
    cost += costs["moving_m"] if way.moving else 0.0
    cost += costs["new_hole_m"][opening.made] if opening else 0.0
    return float(cost)


def find_route(job: Job, start: str, finish: str, via: tuple[str, ...] = ()) -> Route | None:
    """The best path from zone to zone through the zones of ``via`` in order; None where there is no way through."""
    net = _net(job)
    stops = (start, *via, finish)
    if stops not in net.routes:
        net.routes[stops] = net.path(stops)
    return net.routes[stops]


def route_of(job: Job, run: Run) -> Route | None:
    """The path of a run that is laid along the plan; None for one measured by hand or without a way through."""
    if run.start is None or run.finish is None:
        return None
    return find_route(job, run.start, run.finish, run.via)


def laid(job: Job, run: Run) -> Run:
    """The run with its segments: those of its path along the plan, or its own where it was measured by hand."""
    if run.start is None or run.finish is None:
        return run
    route = route_of(job, run)
    if route is None:
        return replace(run, segments=())
    names = {zone.id: zone.name for zone in job.zones}
    if not route.ways:
        return replace(run, segments=(Segment(f"inside {names[run.start]}"[:120], 0.0, INSIDE_DEGC),))
    segments = []
    for way, a, b in zip(route.ways, route.zones, route.zones[1:], strict=False):
        words = way.name or f"{names[a]} to {names[b]}"
        segments.append(
            Segment(words[:120], way.length_m, way.peak_degc, way.moving, way.wet, way.tied_to, way.beside)
        )
    return replace(run, segments=tuple(segments))


def distance_m(job: Job, a: str | None, b: str | None) -> float | None:
    """Metres of lead from one zone to another by the best path; None where that is not known."""
    if a is None or b is None:
        return None
    route = find_route(job, a, b)
    return None if route is None else route.length_m


class _Net:
    """All best paths of one plan, worked out once."""

    def __init__(self, zones: tuple[Zone, ...], ways: tuple[Way, ...], openings: tuple[Opening, ...]) -> None:
        self.zones, self.ways = zones, ways
        self.ids = [zone.id for zone in zones]
        self.place = {key: i for i, key in enumerate(self.ids)}
        self.holes = {opening.id: opening for opening in openings}
        self.closed: dict[frozenset[str], _Net] = {}
        self.best: dict[tuple[str, str], tuple[float, Way]] = {}
        for way in ways:
            cost = way_cost_m(way, self.holes.get(way.opening or ""))
            for pair in ((way.a, way.b), (way.b, way.a)):
                if pair not in self.best or cost < self.best[pair][0]:
                    self.best[pair] = (cost, way)
        places = {(self.place[a], self.place[b]): cost for (a, b), (cost, _) in self.best.items()}
        self.costs, self.before = all_paths(len(self.ids), places)
        self.routes: dict[tuple[str, ...], Route | None] = {}

    def path(self, stops: tuple[str, ...]) -> Route | None:
        """Through the stops in order; None where one is not on the plan or cannot be reached."""
        if any(stop not in self.place for stop in stops):
            return None
        ways: list[Way] = []
        zones = [stops[0]]
        for a, b in itertools.pairwise(stops):
            leg = self.leg(a, b)
            if leg is None:
                return None
            passed = frozenset(way.opening for way in ways if way.opening)
            if passed & {
                way.opening for way, _ in leg
            }:  # never back through the hole it came by, if there is another
                leg = self.without(passed).leg(a, b) or leg
            for way, at in leg:
                ways.append(way)
                zones.append(at)
        return Route(
            tuple(ways), tuple(zones), sum(way_cost_m(way, self.holes.get(way.opening or "")) for way in ways)
        )

    def without(self, openings: frozenset[str]) -> _Net:
        """The same plan with some of its openings closed."""
        if openings not in self.closed:
            open_ways = tuple(way for way in self.ways if way.opening not in openings)
            self.closed[openings] = _Net(self.zones, open_ways, tuple(self.holes.values()))
        return self.closed[openings]

    def cost(self, a: str, b: str) -> float:
        return self.costs[self.place[a]][self.place[b]]

    def leg(self, a: str, b: str) -> list[tuple[Way, str]] | None:
        """Ways from a to b, each with the zone it ends in."""
        if not math.isfinite(self.cost(a, b)):
            return None
        found: list[tuple[Way, str]] = []
        at = self.place[b]
        while at != self.place[a]:
            before = self.before[self.place[a]][at]
            assert before is not None, "a finite cost has a way"
            found.append((self.best[self.ids[before], self.ids[at]][1], self.ids[at]))
            at = before
        return found[::-1]


@once_per_job
def _net(job: Job) -> _Net:
    return _net_of(job.zones, job.ways, job.openings)


@lru_cache(maxsize=16)  # most versions of a job, and all its grounds as they might be, lie in one plan
def _net_of(zones: tuple[Zone, ...], ways: tuple[Way, ...], openings: tuple[Opening, ...]) -> _Net:
    return _Net(zones, ways, openings)
