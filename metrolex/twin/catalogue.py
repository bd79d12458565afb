"""The single faults a job can have, by kind of part: wires, joints, splices, taps, fuses, feeds, straps, senders, threads, inputs, displays, tables.

What goes wrong with each kind, and how often, stands in ``data/faults.toml``. A fault is a change of the circuit, of a part's value, or of what
was entered in the display; ``solve_with`` works any of them out.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from metrolex.circuit import Fault
from metrolex.job import Display, End, Job, MeasuringChain, State
from metrolex.job.within import replaced_within, value_within
from metrolex.scaling.reading import Shown
from metrolex.senders import ThermocoupleCurve
from metrolex.tables import load_table
from metrolex.topology import at_pin, topology_of
from metrolex.twin import addresses
from metrolex.twin.addresses import Address
from metrolex.twin.build import Network, build
from metrolex.twin.kept import once
from metrolex.twin.run import Solved, readings, solve

__all__ = ["LikelyFault", "catalogue", "solve_with"]


@dataclass(frozen=True, slots=True)
class LikelyFault:
    """One fault: the part, the kind as in faults.toml ('wire.broken'), in words, how often beside the others.

    ``fault`` is its change of the circuit; where there is none, ``part`` has another value: a pull-up, a reference, the rows entered.
    """

    part: Address
    kind: str
    words: str
    weight: float
    fault: Fault | None = None
    ratio: float = 1.0


@once
def catalogue(network: Network) -> tuple[LikelyFault, ...]:
    """Every likely single fault of a job, in the order of its parts; only of parts the circuit has."""
    return tuple(
        fault
        for found in (
            _feeds(network),
            _wires(network),
            _grounds(network),
            _senders(network),
            _displays(network),
        )
        for fault in found
    )


def solve_with(network: Network, state: State, likely: LikelyFault) -> tuple[Solved, dict[str, Shown]]:
    """The job with one fault in it in one state, and what stands on its faces, by channel id."""
    if likely.fault is not None:
        solved = solve(network, state, [likely.fault])
        return solved, readings(solved)
    if likely.part.kind == "channel":
        solved = solve(network, state)
        return solved, readings(solved, _other_rows(network.job, likely))
    # The display still counts with the value it should have.
    solved = solve(build(_other_value(network.job, likely)), state)
    return solved, readings(solved, network.job)


def _feeds(network: Network) -> Iterator[LikelyFault]:
    for tap in network.job.taps:
        circuit = network.job.circuit(tap.circuit)
        if circuit is None or not topology_of(network.job).wired(End("tap", tap.id)):
            continue
        yield _fault(addresses.tap(tap.id), "tap.loose", tap.id)
        if not circuit.unfused:
            yield _fault(addresses.circuit_part(circuit.id, "fuse"), "fuse.blown", circuit.id)
        if not circuit.straight:
            yield _fault(addresses.feed_of(circuit.id), "feed.lost", circuit.id)


def _wires(network: Network) -> Iterator[LikelyFault]:
    for wire in network.job.conductors:
        if wire.id not in network.lengths_m:
            continue
        here = addresses.wire(wire.id)
        for kind in ("wire.broken", "wire.chafed", "joint.poor"):
            yield _fault(here, kind, wire.id)
        for end in (wire.a, wire.b):
            if end.kind == "splice":
                yield _fault(addresses.splice_leg(end.id, wire.id), "splice.poor", end.id, at=wire.id)


def _grounds(network: Network) -> Iterator[LikelyFault]:
    for point in network.job.grounds:
        if topology_of(network.job).wired(End("ground", point.id)):
            yield _fault(addresses.ground_node(point.id), "strap.corroded", point.id)
    for strap in ("engine ground lead", "body ground lead", "engine to body strap"):
        yield _fault(addresses.vehicle(strap), "strap.lost", strap)


def _senders(network: Network) -> Iterator[LikelyFault]:
    job, told = network.job, set[str]()
    for channel in job.measured:
        sender, port = job.sender(channel.sender), job.port(channel.port)
        _, stage = job.sender_wired_to(channel)
        if sender is None or sender.id in told or sender.rides or (stage and stage.kind == "own_lead"):
            continue
        told.add(sender.id)
        element = addresses.sender_part(sender.id, "element")
        if isinstance(sender.curve, ThermocoupleCurve):
            # Where its leads touch, there it measures: at the display, its cold junction.
            leads, back = (
                addresses.sender_part(sender.id, "leads"),
                addresses.sender_node(sender.id, "return"),
            )
            yield _fault(element, "sender.open", sender.id)
            yield replace(_fault(leads, "sender.shorted", sender.id), fault=Fault(leads, "short", to=back))
        elif sender.wires < 3:
            yield _fault(element, "sender.open", sender.id)
            yield _fault(element, "sender.shorted", sender.id)
        if sender.wires == 1 and port is not None and port.ground.grounded:
            thread = addresses.sender_part(sender.id, "thread")
            yield _fault(thread, "thread.open", sender.id)
            yield _fault(thread, "thread.taped", sender.id)


def _displays(network: Network) -> Iterator[LikelyFault]:
    wiring = topology_of(network.job)
    for channel in network.job.chains:
        display, stage = network.job.display(channel.display), network.job.input_of(channel)
        if display is None or stage is None or stage.pin is None or network.job.heard(channel) is None:
            continue
        if not wiring.wired(at_pin(display, stage.pin), measured=True):
            continue
        what = f"{display.id} input {stage.id}"
        if stage.kind == "pull_up" and stage.circuit.pull_up_ohm:
            yield _fault(addresses.pull_up(display.id, stage.id), "input.other", what)
        if stage.circuit.reference_v and not stage.converter.ratiometric:
            yield _fault(addresses.reference_node(display.id, stage.id), "display.reference", what)
        if channel.scaling.table and not channel.gears:
            yield _fault(Address("channel", channel.id, "table"), "table.other", channel.name)


def _fault(part: Address, kind: str, name: str, at: str = "") -> LikelyFault:
    group, _, which = kind.partition(".")
    row: dict[str, Any] = load_table("faults")[group][which]
    words, weight = row["words"].format(part=name, at=at), float(row["weight"])
    if row["happens"] == "off":
        return LikelyFault(part, kind, words, weight, None, float(row["ratio"]))
    if row["happens"] == "to_body":
        return LikelyFault(part, kind, words, weight, Fault(part, "short", to=addresses.BODY))
    return LikelyFault(part, kind, words, weight, Fault(part, row["happens"], row.get("ohm")))


def _other_value(job: Job, likely: LikelyFault) -> Job:
    """The job as it really is: an input's pull-up or reference is another."""

    def really(display: Display) -> Display:
        name = "pull_up_ohm" if likely.part.what == "pull-up" else "reference_v"
        inputs = tuple(
            replaced_within(stage, {name: (value_within(stage, name) or 0.0) * likely.ratio})
            if stage.id == likely.part.which
            else stage
            for stage in display.inputs
        )
        return replace(display, inputs=inputs)

    return replace(job, displays=tuple(really(d) if d.id == likely.part.id else d for d in job.displays))


def _other_rows(job: Job, likely: LikelyFault) -> Job:
    """The job as the display takes it: the rows of another sender."""

    def entered(channel: MeasuringChain) -> MeasuringChain:
        rows = tuple((x * likely.ratio, y) for x, y in channel.scaling.table)
        return replace(channel, scaling=replace(channel.scaling, table=rows))

    chain = job.chain(likely.part.id)
    return job.with_chain(entered(chain)) if chain else job
