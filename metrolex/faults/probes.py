"""What can be measured or looked at to tell faults apart: volts between two points, what a face shows, ohms of a sender; after something was done."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

from metrolex.circuit import GROUND, Fault
from metrolex.circuit.elements import Name
from metrolex.job import Job, State
from metrolex.job.search import Do
from metrolex.topology import at_terminal, topology_of
from metrolex.twin import addresses
from metrolex.twin.build import Network
from metrolex.twin.expectations import TestPoint, points_at
from metrolex.twin.left_alone import left_alone

__all__ = ["Action", "Probe", "actions_of", "probe_of", "probes_at"]


#: What is measured where fuel is: nothing there is unplugged or grounded to find a fault.
IN_FUEL = frozenset({"fuel_level", "fuel_pressure", "ethanol_content"})


@dataclass(frozen=True, slots=True)
class Action:
    """Something done to the vehicle before one looks: to a sender, a ground point, a display, a circuit; ``other`` the sender swapped with."""

    do: Do
    on: str
    other: str = ""

    def faults(self, job: Job) -> tuple[Fault, ...]:
        """What it is to the circuit; nothing where the job has no such part."""
        return tuple(_FAULTS[self.do](job, self))


@dataclass(frozen=True, slots=True)
class Probe:
    """One thing to measure or look at. ``red`` and ``black`` for volts, ``on`` the readout or the sender; ``what`` tells the ohms of a sender's thread from its own."""

    kind: Literal["volts", "shown", "ohms"]
    red: Name = ""
    black: Name = GROUND
    on: str = ""
    what: Literal["", "thread"] = ""
    after: Action | None = None


def probe_of(point: TestPoint) -> Probe | None:
    """The probe of a test of the sheet; None for one that compares two faces."""
    if point.kind == "volts":
        return Probe("volts", point.red, point.black)
    if point.kind == "shown":
        return Probe("shown", on=point.channel)
    if point.kind == "ohms":
        return Probe("ohms", on=point.test.id, what="thread" if point.test.what == "thread" else "")
    return None


def probes_at(network: Network, state: State) -> tuple[Probe, ...]:
    """The tests of the sheet in a state, and volts at what else a probe reaches: taps, splices, fuses, senders, plugs."""
    found = dict.fromkeys(probe for point in points_at(network, state) if (probe := probe_of(point)))
    return tuple(found | dict.fromkeys(_reachable(network)))


def _reachable(network: Network) -> Iterator[Probe]:
    job = network.job
    for tap in job.taps:
        circuit = job.circuit(tap.circuit)
        if circuit is not None and left_alone(network, circuit):
            continue
        yield Probe("volts", addresses.tap_node(tap.id))
        if circuit is not None:
            yield Probe("volts", addresses.feed_side(circuit.id))
            if not circuit.straight:
                yield Probe("volts", addresses.load_side(circuit.id))
    for splice in job.splices:
        yield Probe("volts", addresses.splice_node(splice.id))
    for wire in job.conductors:
        for end in (wire.a, wire.b):
            if end.kind == "splice" and wire.id in network.lengths_m:  # what is lost across the crimp
                yield Probe("volts", addresses.splice_leg(end.id, wire.id), addresses.splice_node(end.id))
    for point in job.grounds:
        yield Probe("volts", addresses.ground_node(point.id))
    yield Probe("volts", addresses.ENGINE)
    yield Probe("volts", addresses.BODY)
    for chain in job.measured:
        sender = job.sender(chain.sender)
        for terminal in sender.terminals if sender else ():
            if sender is not None and terminal != "body":
                yield Probe("volts", addresses.sender_node(sender.id, terminal))


def actions_of(network: Network) -> Iterator[Action]:
    """What may be done on a job without harm, each with an effect on its circuit.

    Nothing to a sender in fuel, nor to one that somebody of the vehicle reads; no fuse of a circuit that is left alone.
    """
    job = network.job
    free = {
        sender.id: sender
        for chain in job.measured
        if (sender := job.sender(chain.sender)) and chain.measurand not in IN_FUEL and not sender.readers
    }
    for key in free:
        yield Action("unplug_sender", key)
        yield Action("ground_signal", key)
    for one, other in combinations(free.values(), 2):
        if (one.curve, one.wires) == (other.curve, other.wires):
            yield Action("swap_senders", one.id, other.id)
    for point in job.grounds:
        yield Action("bridge_ground", point.id)
    for display in job.displays:
        yield Action("feed_display", display.id)
    for key in dict.fromkeys(tap.circuit for tap in job.taps if tap.circuit):
        circuit = job.circuit(key)
        if circuit is not None and not left_alone(network, circuit):
            yield Action("pull_fuse", circuit.id)


def _unplugged(job: Job, action: Action) -> Iterator[Fault]:
    sender = job.sender(action.on)
    for terminal in sender.terminals if sender else ():
        if sender is not None and terminal != "body":
            for wire in topology_of(job).wires_at(at_terminal(sender, terminal), measured=True):
                yield Fault(addresses.wire(wire.id), "open")


def _grounded(job: Job, action: Action) -> Iterator[Fault]:
    """Only a sender of ohms: grounding what gives volts would hurt it."""
    sender = job.sender(action.on)
    if sender is not None and sender.curve.x_unit == "ohm" and sender.wires in (1, 2):
        yield Fault(addresses.sender_part(sender.id, "element"), "short", to=GROUND)


def _bridged(job: Job, action: Action) -> Iterator[Fault]:
    if job.ground(action.on):
        yield Fault(addresses.ground_node(action.on), "short", to=GROUND)


def _fed(job: Job, action: Action) -> Iterator[Fault]:
    display = job.display(action.on)
    pin = display.pin_for("ignition") if display else None
    if display is not None and pin is not None and pin.load_a:
        yield Fault(addresses.pin_load(display.id, pin.id), "short", to=addresses.BATTERY_POSITIVE)


def _pulled(job: Job, action: Action) -> Iterator[Fault]:
    circuit = job.circuit(action.on)
    if circuit is not None and not circuit.straight and not circuit.unfused:
        yield Fault(addresses.circuit_part(circuit.id, "fuse"), "open")


def _swapped(job: Job, action: Action) -> Iterator[Fault]:
    one, other = job.sender(action.on), job.sender(action.other)
    if one is None or other is None:
        return
    wires = [
        topology_of(job).wires_at(at_terminal(sender, "signal"), measured=True) for sender in (one, other)
    ]
    if all(len(found) == 1 for found in wires):
        (a,), (b,) = wires
        ends = "".join("a" if wire.a.kind == "sender" else "b" for wire in (a, b))
        yield Fault(addresses.wire(a.id), "swap", with_=addresses.wire(b.id), ends=ends)  # type: ignore[arg-type]


_FAULTS = {
    "unplug_sender": _unplugged,
    "ground_signal": _grounded,
    "bridge_ground": _bridged,
    "feed_display": _fed,
    "pull_fuse": _pulled,
    "swap_senders": _swapped,
}
