"""What flows where: the load of every tap and every wire, for good and while things start up."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from types import MappingProxyType

from metrolex.feeds.check import wants_of
from metrolex.job import Conductor, End, Job, Pin, Tap
from metrolex.job.once import once_per_job
from metrolex.topology import topology_of

__all__ = ["Load", "load_of_tap", "load_of_wire", "loads_of_wires", "wires_after"]


@dataclass(frozen=True, slots=True)
class Load:
    """Amperes for good, and the most at start-up with how many seconds it lasts."""

    steady_a: float = 0.0
    peak_a: float = 0.0
    peak_s: float = 0.0


def wires_after(job: Job, tap: Tap) -> tuple[Conductor, ...]:
    """The wires fed by a tap, nearest first."""
    return topology_of(job).beyond(End("tap", tap.id))


@once_per_job
def load_of_tap(job: Job, tap: Tap) -> Load:
    """What hangs on a tap: the pins its wires reach, or the whole need while none is wired."""
    wiring = topology_of(job)
    reached = wiring.reached(End("tap", tap.id))
    if wiring.pins_at(reached) or _coils_a(job, reached):
        return _hanging(job, reached)
    want = next((want for want in wants_of(job) if want.need == tap.need), None)
    return Load(want.load_a, want.peak_a, want.peak_s) if want else Load()


def load_of_wire(job: Job, wire: Conductor) -> Load:
    """What a feed wire carries: the pins beyond it, seen from its tap; nothing for a signal or a ground."""
    return loads_of_wires(job).get(wire.id, Load())


@once_per_job
def loads_of_wires(job: Job) -> Mapping[str, Load]:
    """The load of every wire that a tap feeds, by its id: the pins that go dead when it is cut; in a loop all the tap feeds."""
    wiring, found = topology_of(job), dict[str, Load]()
    for tap in job.taps:
        for wire, dead in wiring.dead_without(End("tap", tap.id)).items():
            found.setdefault(wire, _hanging(job, dead))
    return MappingProxyType(found)


def _coils_a(job: Job, places: Iterable[End]) -> float:
    """What the coils of relays among some places draw."""
    at = {end.id for end in places if end.kind == "switch" and end.terminal in ("86", "85")}
    nominal_v = job.vehicle.electrics.nominal_v
    return sum(nominal_v / relay.coil_ohm for relay in job.switches if relay.id in at)


def _hanging(job: Job, places: Collection[End]) -> Load:
    """What hangs on some places: the pins of displays and boxes, and the coils of relays."""
    return _sum(topology_of(job).pins_at(places), _coils_a(job, places))


def _sum(pins: list[Pin], coils_a: float) -> Load:
    return Load(
        coils_a + sum(pin.load_a for pin in pins),
        coils_a + sum(pin.highest_a for pin in pins),
        max((pin.peak_s for pin in pins), default=0.0),
    )
