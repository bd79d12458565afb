"""How far every part of a job may be off, and what that does to the circuit.

Each toleranced part is moved alone, to either end of its tolerance: resistors by rank-one changes of one inverse, the rest
by solving again. The parts are independent, each as likely anywhere in its tolerance as elsewhere: a band holds 99.997 % of the
sum of what each does alone. Parts off together do a little more (a current times a contact), which is why it is not 99.9 %.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit import Element, Replaced, Resistor, VoltageFollower, VoltageSource, solve_changes
from metrolex.circuit.elements import CurrentSource, Name
from metrolex.circuit.solve import Solutions
from metrolex.harness.conductors import wire_ohm
from metrolex.job import MeasuringChain, Sender
from metrolex.tables import load_table
from metrolex.twin import addresses
from metrolex.twin.addresses import Address
from metrolex.twin.build import sender_output
from metrolex.twin.run import Solved
from metrolex.uniform_sum import half_width

__all__ = [
    "CONTACT_SPREAD",
    "SURE",
    "Moved",
    "giving",
    "half_widths",
    "moved_parts",
    "sender_ends",
    "tolerances",
]

CONTACT_SPREAD = (
    0.999  # contacts and joints from next to nothing to twice the nominal (common practice, no source)
)
SURE = 0.99997  # share of the sum a band holds
FUSE_SPREAD = 0.2  # of a fuse's cold resistance (common practice, no source)


@dataclass(frozen=True, slots=True)
class Moved:
    """Every toleranced part of a circuit moved alone: solved with the first at its low end, at its high end, then the second."""

    parts: tuple[Name, ...]
    ends: Solutions


def moved_parts(solved: Solved) -> Moved:
    """Every toleranced part of a solved state at both ends of its tolerance."""
    ends = list(tolerances(solved))
    changes = [Replaced(part, value) for part, both in ends for value in both]
    answers = solve_changes(solved.elements, changes, solved.solution.written)
    return Moved(tuple(part for part, _ in ends), answers)


Ends = tuple[float, float]


def tolerances(solved: Solved) -> Iterator[tuple[Name, Ends]]:
    """(name, its value at the low end, at the high end) of every part that may be off."""
    by_name = {element.name: element for element in solved.elements}
    for name, half in (*_vehicle_spreads(solved), *_job_spreads(solved)):
        element = by_name.get(name)
        if isinstance(element, Resistor) and half > 0:
            yield name, (max(element.ohm - half, 1e-7), element.ohm + half)
    yield from _sources(solved, by_name)
    yield from _senders(solved, by_name)
    yield from _outputs(solved, by_name)


def _vehicle_spreads(solved: Solved) -> Iterator[tuple[Name, float]]:
    """(element, half its tolerance in ohm) of the vehicle's own resistors that may be off."""
    supply = solved.network.job.vehicle.electrics
    ohm = {element.name: element.ohm for element in solved.elements if isinstance(element, Resistor)}
    straps, inner, loads = (
        supply.straps.strap_tolerance_pct / 100 * CONTACT_SPREAD,
        supply.battery.inner_tolerance_pct / 100,
        supply.loads.load_tolerance_pct / 100,
    )
    for name, share in (
        ("battery internal", inner),
        ("charge lead", inner),
        ("starter", supply.starting.starter_tolerance_pct / 100),
        ("engine systems", loads),
        ("vehicle lamps", loads),
        ("engine ground lead", straps),
        ("body ground lead", straps),
        ("engine to body strap", straps),
    ):
        yield addresses.vehicle(name), share * ohm.get(addresses.vehicle(name), 0.0)
    for address, value in ohm.items():
        if not isinstance(address, Address):
            continue
        if address.kind == "contact" or (address.kind == "circuit" and address.what == "feed"):
            yield address, CONTACT_SPREAD * min(value, supply.contact_ohm)
        elif address.kind == "circuit" and address.what == "vehicle load":
            yield address, loads * value
        elif address.kind == "circuit" and address.what == "fuse":
            yield address, FUSE_SPREAD * value


def _job_spreads(solved: Solved) -> Iterator[tuple[Name, float]]:
    """The same of what the job adds: taps, grounds, threads, wires, pull-ups."""
    network, job = solved.network, solved.network.job
    ohm = {element.name: element.ohm for element in solved.elements if isinstance(element, Resistor)}
    for tap in job.taps:
        yield addresses.tap(tap.id), CONTACT_SPREAD * tap.contact_ohm
    for point in job.grounds:
        at = addresses.ground_node(point.id)
        yield at, CONTACT_SPREAD * ohm.get(at, 0.0)
    for channel in job.measured:
        port = job.port(channel.port)
        if port is not None and channel.sender:
            yield addresses.sender_part(channel.sender, "thread"), CONTACT_SPREAD * port.ground.thread_ohm
    slope = (
        float(load_table("conductors")["temperature_coefficient_per_k"])
        * job.vehicle.electrics.wire_tolerance_k
    )
    for wire in job.conductors:
        if wire.id in network.lengths_m:
            metal = wire_ohm(wire.size, wire.system, network.lengths_m[wire.id], 20.0)
            yield addresses.wire(wire.id), CONTACT_SPREAD * wire.joint_ohm + slope * metal
    for display in job.displays:
        for stage in display.inputs:
            if stage.circuit.pull_up_ohm:
                yield (
                    addresses.pull_up(display.id, stage.id),
                    stage.circuit.pull_up_tolerance_pct / 100 * stage.circuit.pull_up_ohm,
                )


def _sources(solved: Solved, by_name: Mapping[Name, Element]) -> Iterator[tuple[Name, Ends]]:
    job = solved.network.job
    spreads = [
        (addresses.vehicle("battery"), job.vehicle.electrics.battery.rest_tolerance_v),
        (addresses.vehicle("regulator"), job.vehicle.electrics.battery.rest_tolerance_v),
    ]
    spreads += [
        (
            addresses.reference_node(display.id, stage.id),
            stage.circuit.reference_tolerance_pct / 100 * stage.circuit.reference_v,
        )
        for display in job.displays
        for stage in display.inputs
        if stage.circuit.reference_v
    ]
    percents = {
        display.id: max(
            (stage.circuit.reference_tolerance_pct for stage in display.inputs if stage.circuit.reference_v),
            default=0.0,
        )
        for display in job.displays
    }
    spreads += [
        (name, percents.get(name.id, 0.0) / 100 * element.volt)
        for name, element in by_name.items()
        if isinstance(element, VoltageSource)
        and isinstance(name, Address)
        and (name.kind, name.what) == ("display", "sensor supply")
    ]
    for name, half in spreads:
        element = by_name.get(name)
        if isinstance(element, VoltageSource) and half and element.volt:
            yield name, (element.volt - half, element.volt + half)


def _senders(solved: Solved, by_name: Mapping[Name, Element]) -> Iterator[tuple[Name, Ends]]:
    job = solved.network.job
    for channel in job.measured:
        sender, true = job.sender(channel.sender), solved.true.get(channel.channel)
        element = by_name.get(addresses.sender_part(channel.sender or "", "element"))
        if sender is None or true is None or element is None:
            continue
        nominal = sender_output(channel, sender, true)
        low, high = sender_ends(channel, sender, true)
        if low < high:
            yield element.name, (giving(element, low, nominal), giving(element, high, nominal))


def _outputs(solved: Solved, by_name: Mapping[Name, Element]) -> Iterator[tuple[Name, Ends]]:
    """What boxes give: sensor and box together, within what their maker states."""
    job = solved.network.job
    for channel in job.measured:
        heard, true = job.heard(channel), solved.true.get(channel.channel)
        element = by_name.get(addresses.output(channel.box or "", channel.output or ""))
        if heard is None or true is None or not isinstance(element, (Resistor, VoltageSource)):
            continue
        low, high = sender_ends(channel, heard, true)
        if low < high and not (isinstance(element, VoltageSource) and element.volt == 0.0):
            yield element.name, (low, high)


def giving(element: Element, output: float, nominal: float) -> float:
    """The value of a sender's element that gives another output than its nominal one."""
    share = output / nominal if nominal else 1.0
    if isinstance(element, Resistor):
        return max(element.ohm * share, 1e-3)
    if isinstance(element, VoltageFollower):
        return element.ratio * share
    if isinstance(element, CurrentSource):
        return element.ampere * share
    return element.volt + (output - nominal) / 1000  # a couple's millivolts


def sender_ends(channel: MeasuringChain, sender: Sender, true: float) -> tuple[float, float]:
    """Smallest and largest output of a sender within its tolerance at a true value, in its curve's x unit."""
    bent = [
        sender_output(channel, sender, true, shift) for shift in (-sender.tolerance.y, sender.tolerance.y)
    ]
    spread = sender.tolerance.x_pct / 100
    return min(bent) * (1 - spread), max(bent) * (1 + spread)


def half_widths(
    nominal: float,
    moved: Moved,
    read: Callable[[Solutions], NDArray[np.float64]],
    own: Sequence[float] = (),
) -> tuple[float, float]:
    """How far a reading may lie below and above its nominal value by the parts moved and by terms of its own.

    ``read`` gives the reading in each solution, NaN where there is none.
    """
    low, high = np.nan_to_num(read(moved.ends) - nominal, nan=0.0).reshape(-1, 2).T
    below, above = np.maximum(-np.minimum(low, high), 0.0), np.maximum(np.maximum(low, high), 0.0)
    return half_width(np.concatenate([own, below]), SURE), half_width(np.concatenate([own, above]), SURE)
