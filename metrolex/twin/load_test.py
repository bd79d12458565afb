"""A load on a connector: what a test lamp between its supply and ground pins shows, and what if either leg is poor.

A meter alone proves nothing about resistance: it reads nearly the same through a bad joint. The lamp draws amperes, so that
both legs show. The display stays plugged in.
"""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.circuit import Fault
from metrolex.errors import BadInput
from metrolex.job import Display, Job, Pin, State
from metrolex.topology import at_pin, topology_of
from metrolex.twin import addresses
from metrolex.twin.build import Network
from metrolex.twin.instruments import LampReading, read_meter, read_test_lamp
from metrolex.twin.kept import once

__all__ = ["POOR_LEG_OHM", "Leg", "LoadTest", "connectors_of", "load_test", "telling_watts"]

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
class LoadTest:
    """The lamp at one supply pin against the display's ground: healthy first, then each leg poor.

    ``fuse_a`` is the smallest fuse the lamp's current passes, None where it passes none; ``blows``: the lamp asks more.
    """

    display: Display
    pin: Pin
    watts: float
    legs: tuple[Leg, ...]
    fuse_a: float | None

    @property
    def blows(self) -> bool:
        return self.fuse_a is not None and self.legs[0].lamp.current_a > self.fuse_a


@once
def connectors_of(network: Network) -> list[tuple[Display, Pin]]:
    """The supply pins that are wired, of displays whose ground is wired too."""
    wiring = topology_of(network.job)
    found = []
    for display in network.job.displays:
        ground = display.pin_for("ground")
        if ground is None or not wiring.wired(at_pin(display, ground), measured=True):
            continue
        found += [
            (display, pin)
            for pin in display.pins
            if pin.role in ("memory", "ignition", "lamps")
            and wiring.wired(at_pin(display, pin), measured=True)
        ]
    return found


def load_test(network: Network, state: State, display_id: str, pin_id: str, watts: float) -> LoadTest:
    """The lamp at one pin in one state. Raises BadInput for a pin that is not wired or watts out of 1 to 60."""
    if not 1 <= watts <= 60:
        raise BadInput("watts", watts, "1 to 60 W")
    pair = next(((d, p) for d, p in connectors_of(network) if (d.id, p.id) == (display_id, pin_id)), None)
    if pair is None:
        raise BadInput(
            "pin", f"{display_id} {pin_id}", "a supply pin that is wired, of a display whose ground is wired"
        )
    display, pin = pair
    ground = display.pin_for("ground")
    plus, minus = (
        addresses.pin_node(display, pin.id),
        addresses.pin_node(display, ground.id if ground else ""),
    )
    cases: list[tuple[str, list[Fault]]] = [("both legs good", [])]
    for words, terminal in (("feed poor", pin.id), ("ground poor", ground.id if ground else "")):
        wires = [w.id for w in topology_of(network.job).wires_at(at_pin(display, terminal), measured=True)]
        cases.append(
            (
                f"{words}, {POOR_LEG_OHM:g} Ω in {wires[0]}",
                [Fault(addresses.wire(wires[0]), "resistance", POOR_LEG_OHM)],
            )
        )
    legs = tuple(
        Leg(
            words,
            read_test_lamp(network, state, plus, minus, watts, faults),
            read_meter(network, state, plus, minus, faults),
        )
        for words, faults in cases
    )
    return LoadTest(display, pin, watts, legs, _fuse_on_the_way(network.job, legs[0]))


def telling_watts(network: Network, state: State, display_id: str, pin_id: str) -> float | None:
    """The smallest lamp that looks plainly different with either leg poor, without blowing a fuse; None where none does."""
    for watts in WATTS:
        found = load_test(network, state, display_id, pin_id, watts)
        good, *poor = (leg.lamp.light_ratio for leg in found.legs)
        if found.blows or good <= 0:
            return None
        if all(light <= TELLS * good for light in poor):
            return watts
    return None


def _fuse_on_the_way(job: Job, healthy: Leg) -> float | None:
    """The smallest added fuse that carries most of the lamp's current."""
    currents = healthy.lamp.solved.solution.currents
    carrying = [
        tap.fuse_a
        for tap in job.taps
        if tap.fuse_a and abs(currents.get(addresses.tap(tap.id), 0.0)) >= 0.8 * healthy.lamp.current_a > 0.01
    ]
    return min(carrying, default=None)
