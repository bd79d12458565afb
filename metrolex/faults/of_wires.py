"""What goes wrong with wires, joints, splices and plugs."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from typing import Any, Literal

from metrolex.circuit import Fault
from metrolex.circuit.elements import Name
from metrolex.faults.kinds import LikelyFault, named, row_of
from metrolex.faults.of_feeds import simple
from metrolex.faults.sizes import WHOLE, sized
from metrolex.job import Conductor, Display, End
from metrolex.topology import Topology, at_pin, topology_of
from metrolex.twin import addresses
from metrolex.twin.addresses import Address
from metrolex.twin.build import Network

__all__ = ["wire_faults"]


def wire_faults(network: Network) -> Iterator[LikelyFault]:
    """Each wire of known length, its ends in splices and plugs, and its neighbour in the run."""
    for wire in network.job.conductors:
        if wire.id not in network.lengths_m:
            continue
        here = addresses.wire(wire.id)
        for kind in ("wire.broken", "wire.chafed", "joint.poor"):
            yield simple(here, kind, wire.id)
        for end in (wire.a, wire.b):
            if end.kind == "splice":
                yield simple(addresses.splice_leg(end.id, wire.id), "splice.poor", end.id, at=wire.id)
    yield from _neighbours(network)
    for display in network.job.displays:
        yield from _swapped(network, display, topology_of(network.job))


def _neighbours(network: Network) -> Iterator[LikelyFault]:
    """Two wires that lie in one run, one listed after the other."""
    by_run: dict[str, list[Conductor]] = {}
    for wire in network.job.conductors:
        if wire.run and wire.id in network.lengths_m:
            by_run.setdefault(wire.run, []).append(wire)
    for wires in by_run.values():
        for one, other in pairwise(wires):
            there = addresses.end_node(network.job, other.a, other.id)
            if addresses.end_node(network.job, one.a, one.id) != there:
                yield _touching(one, other, there)


def _touching(one: Conductor, other: Conductor, there: Name) -> LikelyFault:
    def at(size: float) -> dict[str, Any]:
        return {"does": (Fault(addresses.wire(one.id), "short", size or None, to=there),)}

    kind = "wire.touches"
    fault = named(Address("wire", one.id, "beside", other.id), kind, one.id, other.id, **at(WHOLE))
    return sized(fault, row_of(kind), at)


def _swapped(network: Network, display: Display, wiring: Topology) -> Iterator[LikelyFault]:
    """Two wires side by side in the plug of a display, each where the other belongs."""
    wired = [
        (pin, wires[0])
        for pin in display.pins
        if len(wires := wiring.wires_at(at_pin(display, pin), measured=True)) == 1
    ]
    for (pin, one), (next_pin, other) in pairwise(wired):
        if one is other:
            continue
        ends = _end_at(one, at_pin(display, pin)) + _end_at(other, at_pin(display, next_pin))
        yield named(
            Address("display", display.id, "swapped", f"{pin.id} {next_pin.id}"),
            "plug.swapped",
            one.id,
            other.id,
            does=(
                Fault(
                    addresses.wire(one.id),
                    "swap",
                    with_=addresses.wire(other.id),
                    ends=ends,  # type: ignore[arg-type]
                ),
            ),
        )


def _end_at(wire: Conductor, place: End) -> Literal["a", "b"]:
    return "a" if wire.a == place else "b"
