"""What goes wrong with battery, feeds, taps and grounds."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.circuit import Fault
from metrolex.faults.kinds import Effect, LikelyFault, OtherClass, Scaled, named, row_of
from metrolex.faults.sizes import WHOLE, sized
from metrolex.job import End
from metrolex.tables import load_table
from metrolex.topology import topology_of
from metrolex.twin import addresses
from metrolex.twin.addresses import Address
from metrolex.twin.build import Network

__all__ = ["feed_faults"]

STRAPS = ("engine ground lead", "body ground lead", "engine to body strap")


def simple(part: Address, kind: str, name: str, at: str = "") -> LikelyFault:
    """A fault whose row in faults.toml says all of it."""
    row = row_of(kind)
    happens = row["happens"]
    usual = float(row.get("ratio", row.get("ohm", WHOLE)))

    def does(size: float) -> Effect:
        if happens == "ratio":
            return Scaled(part, size)
        if happens == "to_body":
            return Fault(part, "short", size or None, to=addresses.BODY)
        if happens == "short":
            return Fault(part, "short", size or None)
        return Fault(part, "resistance", size) if size else Fault(part, "open")

    fault = named(part, kind, name, at, does=(does(usual),))
    return sized(fault, row, lambda size: {"does": (does(size),)})


def feed_faults(network: Network) -> Iterator[LikelyFault]:
    """Battery, charging, taps and their circuits, ground points, straps."""
    job, wiring = network.job, topology_of(network.job)
    yield simple(addresses.vehicle("battery"), "battery.low", "")
    yield simple(addresses.vehicle("charge lead"), "battery.not_charged", "")
    told: set[str] = set()
    for tap in job.taps:
        circuit = job.circuit(tap.circuit)
        if circuit is None or not wiring.wired(End("tap", tap.id)):
            continue
        yield simple(addresses.tap(tap.id), "tap.loose", tap.id)
        if circuit.id in told:
            continue
        told.add(circuit.id)
        if not circuit.unfused:
            yield simple(addresses.circuit_part(circuit.id, "fuse"), "fuse.blown", circuit.id)
        if not circuit.straight:
            yield simple(addresses.feed_of(circuit.id), "feed.lost", circuit.id)
            yield from _other_classes(network, circuit.id)
    for point in job.grounds:
        if wiring.wired(End("ground", point.id)):
            yield simple(addresses.ground_node(point.id), "strap.corroded", point.id)
    for strap in STRAPS:
        yield simple(addresses.vehicle(strap), "strap.lost", strap)


def _other_classes(network: Network, circuit: str) -> Iterator[LikelyFault]:
    verdict = network.verdicts[circuit]
    for words, live in load_table("circuits")["classes"].items():
        if verdict.feed != "dimmed" and frozenset(live) != verdict.live:
            effect = OtherClass(circuit, frozenset(live))
            feed = addresses.circuit_part(circuit, "class")
            yield named(
                Address(feed.kind, feed.id, "class", words),
                "feed.other_class",
                circuit,
                words,
                does=(effect,),
            )
