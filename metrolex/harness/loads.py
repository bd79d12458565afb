"""What flows where: the load of every tap and every wire, for good and while things start up."""

from __future__ import annotations

import functools
from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from metrolex.feeds.check import wants_of
from metrolex.job import Conductor, End, Job, Pin, Tap

__all__ = ["Load", "load_of_tap", "load_of_wire", "loads_of_wires", "splice_loops", "wires_after"]


@dataclass(frozen=True, slots=True)
class Load:
    """Amperes for good, and the most at start-up with how many seconds it lasts."""

    steady_a: float = 0.0
    peak_a: float = 0.0
    peak_s: float = 0.0


def wires_after(job: Job, tap: Tap) -> list[Conductor]:
    """The wires fed by a tap, through splices, up to the pins they end at."""
    return _beyond(job, ("tap", tap.id, ""), None)


def load_of_tap(job: Job, tap: Tap) -> Load:
    """What hangs on a tap: the pins its wires reach, or the whole need while none is wired."""
    pins = _pins(job, wires_after(job, tap))
    if pins:
        return _sum(pins)
    want = next((want for want in wants_of(job) if want.need == tap.need), None)
    return Load(want.load_a, want.peak_a, want.peak_s) if want else Load()


def load_of_wire(job: Job, wire: Conductor) -> Load:
    """What a feed wire carries: the pins beyond it, seen from its tap; nothing for a signal or a ground."""
    return loads_of_wires(job).get(wire.id, Load())


@functools.lru_cache(maxsize=64)
def loads_of_wires(job: Job) -> Mapping[str, Load]:
    """The load of every wire that a tap feeds, by its id."""
    found: dict[str, Load] = {}
    for tap in job.taps:
        fed = wires_after(job, tap)
        for wire in fed:
            before = _beyond(job, ("tap", tap.id, ""), wire)
            found.setdefault(wire.id, _sum(_pins(job, [w for w in fed if w not in before])))
    return MappingProxyType(found)


def splice_loops(job: Job) -> list[Conductor]:
    """Wires between splices that close a loop."""
    joined: dict[str, str] = {}

    def root(key: str) -> str:
        while key in joined:
            key = joined[key]
        return key

    closing = []
    for wire in job.conductors:
        if wire.a.kind == wire.b.kind == "splice":
            a, b = root(wire.a.id), root(wire.b.id)
            if a == b:
                closing.append(wire)
            else:
                joined[a] = b
    return closing


def _beyond(job: Job, start: tuple[str, str, str], without: Conductor | None) -> list[Conductor]:
    """The wires reached from a place through splices, in order, one of them left out."""
    reached: list[Conductor] = []
    edge = [start]
    seen = set(edge)
    while edge:
        at = edge.pop(0)
        for wire in job.conductors:
            if wire is without or wire in reached:
                continue
            for near, far in ((wire.a, wire.b), (wire.b, wire.a)):
                if _key(near) == at:
                    reached.append(wire)
                    if far.kind == "splice" and _key(far) not in seen:
                        seen.add(_key(far))
                        edge.append(_key(far))
                    break
    return reached


def _key(end: End) -> tuple[str, str, str]:
    return end.kind, end.id, "" if end.kind in ("tap", "splice") else end.terminal


def _pins(job: Job, wires: list[Conductor]) -> list[Pin]:
    reached = {(end.id, end.terminal) for wire in wires for end in (wire.a, wire.b) if end.kind == "display"}
    return [pin for display in job.displays for pin in display.pins if (display.id, pin.id) in reached]


def _sum(pins: list[Pin]) -> Load:
    return Load(
        sum(pin.load_a for pin in pins),
        sum(pin.highest_a for pin in pins),
        max((pin.peak_s for pin in pins), default=0.0),
    )
