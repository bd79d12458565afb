"""A load between a feed and a return, at a connector or anywhere on the vehicle: what a test lamp shows, and what if either leg is poor.

A meter alone proves nothing about resistance: it reads nearly the same through a bad joint. The lamp draws amperes, so that
both legs show. The display stays plugged in.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from metrolex.circuit import GROUND, Fault
from metrolex.circuit.elements import Name
from metrolex.errors import BadInput
from metrolex.job import Display, End, Job, Pin, State
from metrolex.topology import at_pin, topology_of
from metrolex.twin import addresses
from metrolex.twin.addresses import Address
from metrolex.twin.build import Network
from metrolex.twin.instruments import LampReading, read_meter, read_test_lamp
from metrolex.twin.kept import once, once_per_circuit
from metrolex.twin.left_alone import left_alone, tap_left_alone

__all__ = [
    "POOR_LEG_OHM",
    "WATTS",
    "LampPlace",
    "Leg",
    "LoadTest",
    "feeds_for_lamp",
    "load_test",
    "returns_for_lamp",
    "telling_watts",
]

#: Lamps a fitter has: wedge base, dash, festoon, indicator, headlamp (common practice, no source).
WATTS = (1.2, 2.0, 3.0, 5.0, 10.0, 21.0, 55.0)
TELLS = 0.5  # light with a poor leg beside that without: a difference one sees (common practice, no source)

POOR_LEG_OHM = 5.0  # a joint that passes a meter and fails a load (common practice, no source)


@dataclass(frozen=True, slots=True)
class Leg:
    """One case: a healthy connector, or one leg poor. What a meter alone would say stands beside the lamp."""

    words: str
    lamp: LampReading
    meter_v: float


@dataclass(frozen=True, slots=True)
class LampPlace:
    """Where a lead of the lamp goes: a pin of a connector, a circuit or a ground of the vehicle; and what may be poor on the way there.

    ``end`` is the pin of a display it is, None elsewhere; ``beside`` the key of the place its other lead belongs to, ''
    where any will do.
    """

    key: str
    words: str
    node: Name
    way: Address | None = None
    way_words: str = ""
    beside: str = ""
    end: End | None = None


@dataclass(frozen=True, slots=True)
class LoadTest:
    """The lamp between a feed and a return: both legs good first, then each poor.

    ``fuse_a`` is the smallest fuse the lamp's current passes, None where it passes none; ``blows``: the lamp asks more.
    """

    feed: LampPlace
    back: LampPlace
    watts: float
    legs: tuple[Leg, ...]
    fuse_a: float | None

    @property
    def blows(self) -> bool:
        return self.fuse_a is not None and self.legs[0].lamp.current_a > self.fuse_a


@once
def feeds_for_lamp(network: Network) -> list[LampPlace]:
    """Supply pins that are wired, of displays whose ground is wired too; then the circuits of the probe sheet; none that hangs on a circuit left alone."""
    job, wiring = network.job, topology_of(network.job)
    found = []
    for display in job.displays:
        ground = display.pin_for("ground")
        if ground is None or not wiring.wired(at_pin(display, ground), measured=True):
            continue
        found += [
            _pin(network, display, pin, beside=_pin_key(display, ground))
            for pin in display.pins
            if pin.role in ("memory", "ignition", "lamps")
            and wiring.wired(at_pin(display, pin), measured=True)
        ]
    barred = {
        end for tap in job.taps if tap_left_alone(network, tap) for end in wiring.reached(End("tap", tap.id))
    }
    found = [place for place in found if place.end not in barred]
    for circuit in job.circuits:
        if left_alone(network, circuit):
            continue
        name = f"{circuit.id} {circuit.purpose}".strip()
        way = (
            addresses.circuit_part(circuit.id, "joint") if circuit.straight else addresses.feed_of(circuit.id)
        )
        found.append(
            LampPlace(
                f"circuit|{circuit.id}",
                name,
                addresses.feed_side(circuit.id),
                way,
                f"the feed to {circuit.id}",
            )
        )
    return found


@once
def returns_for_lamp(network: Network) -> list[LampPlace]:
    """Ground pins that are wired, the ground points of the job, battery negative."""
    job, wiring = network.job, topology_of(network.job)
    found = [
        _pin(network, display, ground)
        for display in job.displays
        if (ground := display.pin_for("ground")) and wiring.wired(at_pin(display, ground), measured=True)
    ]
    for point in job.grounds:
        node = addresses.ground_node(point.id)
        found.append(
            LampPlace(
                f"ground|{point.id}", f"{point.id} {point.name}", node, node, f"the contact of {point.id}"
            )
        )
    return [*found, LampPlace("battery", "battery negative", GROUND)]


def _pin(network: Network, display: Display, pin: Pin, beside: str = "") -> LampPlace:
    wires = topology_of(network.job).wires_at(at_pin(display, pin), measured=True)
    return LampPlace(
        _pin_key(display, pin),
        f"{display.id}, {pin.name}",
        addresses.pin_node(display, pin.id),
        addresses.wire(wires[0].id),
        wires[0].id,
        beside,
        at_pin(display, pin),
    )


def _pin_key(display: Display, pin: Pin) -> str:
    return f"pin|{display.id}|{pin.id}"


def load_test(network: Network, state: State, at: str, back: str, watts: float) -> LoadTest:
    """The lamp between two places in one state; '' for ``back`` takes the ground that belongs to the feed, else battery negative.

    Raises BadInput for a place that is not offered or watts out of 1 to 60.
    """
    if not 1 <= watts <= 60:
        raise BadInput("watts", watts, "1 to 60 W")
    feed, to = _places(network, at, back)
    legs = tuple(
        Leg(
            words,
            read_test_lamp(network, state, feed.node, to.node, watts, faults),
            read_meter(network, state, feed.node, to.node, faults),
        )
        for words, faults in _cases(feed, to)
    )
    return LoadTest(feed, to, watts, legs, _fuse_on_the_way(network.job, legs[0].lamp))


def _places(network: Network, at: str, back: str) -> tuple[LampPlace, LampPlace]:
    feed = next((place for place in feeds_for_lamp(network) if place.key == at), None)
    if feed is None:
        raise BadInput(
            "at",
            at,
            "a supply pin that is wired, of a display whose ground is wired, or a circuit of the sheet",
        )
    wanted = back or feed.beside or "battery"
    to = next((place for place in returns_for_lamp(network) if place.key == wanted), None)
    if to is None:
        raise BadInput("back", back, "a ground pin that is wired, a ground point, or the battery")
    return feed, to


def _cases(feed: LampPlace, to: LampPlace) -> Iterator[tuple[str, list[Fault]]]:
    """Both legs good first, then each poor."""
    yield "both legs good", []
    for words, place in (("feed poor", feed), ("ground poor", to)):
        if place.way is not None:
            fault = Fault(place.way, "resistance", POOR_LEG_OHM)
            yield f"{words}, {POOR_LEG_OHM:g} Ω in {place.way_words}", [fault]


@once_per_circuit
def telling_watts(network: Network, state: State, at: str, back: str = "") -> float | None:
    """The smallest lamp that looks plainly different with either leg poor, without blowing a fuse; None where none does."""
    feed, to = _places(network, at, back)
    for watts in WATTS:
        legs = (
            read_test_lamp(network, state, feed.node, to.node, watts, faults)
            for _, faults in _cases(feed, to)
        )
        good = next(legs)
        fuse = _fuse_on_the_way(network.job, good)
        if (fuse is not None and good.current_a > fuse) or good.light_ratio <= 0:
            return None
        if all(leg.light_ratio <= TELLS * good.light_ratio for leg in legs):
            return watts
    return None


def _fuse_on_the_way(job: Job, healthy: LampReading) -> float | None:
    """The smallest fuse, added or the vehicle's own, that carries most of the lamp's current."""
    currents = healthy.solved.solution.currents
    carrying = [
        tap.fuse_a
        for tap in job.taps
        if tap.fuse_a and abs(currents.get(addresses.tap(tap.id), 0.0)) >= 0.8 * healthy.current_a > 0.01
    ]
    return min(carrying, default=None)
