"""Which of many faults can alter what a display or box makes of one channel: those that move a point it hangs on, or cut its pulses off."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit import Fault, Replaced, Resistor
from metrolex.circuit.elements import Name
from metrolex.circuit.solve import Solutions
from metrolex.disjoint_sets import DisjointSets
from metrolex.job import MeasuringChain, State
from metrolex.scaling.counting import carrier_of
from metrolex.twin import addresses
from metrolex.twin.addresses import Address
from metrolex.twin.build import Network
from metrolex.twin.kept import once_per_circuit
from metrolex.twin.run import Solved, solve

__all__ = ["touched"]

#: Volts by which a point must move.
MOVED_V = 1e-6


def touched(
    base: Solved, faults: Sequence[Sequence[Fault | Replaced]], solutions: Solutions, chain: MeasuringChain
) -> NDArray[np.bool_]:
    """For each of ``faults``, small changes of one network with their ``solutions``: whether the channel may be another than in the base."""
    moved = np.zeros(len(faults), dtype=bool)
    for a, b in _pairs(base, chain):
        moved |= np.abs(solutions.across(a, b) - base.solution.across(a, b)) > MOVED_V
    on_the_way = _on_the_way(base.network, chain.id)
    cut = [
        any(_name(one) in on_the_way or getattr(one, "with_", None) in on_the_way for one in group)
        for group in faults
    ]
    return np.asarray(moved | np.array(cut, dtype=bool))


def _pairs(base: Solved, chain: MeasuringChain) -> list[tuple[Name, Name]]:
    """The points between which a face hangs on volts: inputs, and the senders on them, against the ground of what reads them."""
    job = base.network.job
    chains = [chain, *(c for c in job.measured if c.box is not None and c.box == chain.box)]
    if (carrier := carrier_of(job, chain)) is not None:
        chains.append(carrier)
    found: list[tuple[Name, Name]] = []
    for one in chains:
        for reader, stage in ((job.display(one.display), job.input_of(one)), job.sender_wired_to(one)):
            ground = reader.pin_for("ground") if reader else None
            if reader is None or stage is None or stage.pin is None or ground is None:
                continue
            rail = addresses.pin_node(reader, ground.id)
            back = addresses.sender_node(one.sender or "", "return")
            found += [(addresses.pin_node(reader, stage.pin), rail), (back, rail)]
            found.append((addresses.sender_node(one.sender or "", "supply"), back))
    there = base.solution.potentials
    return [(a, b) for a, b in dict.fromkeys(found) if a in there and b in there]


def _name(effect: object) -> Name:
    return effect.element if isinstance(effect, Fault) else getattr(effect, "name", "")


@once_per_circuit
def _on_the_way(network: Network, channel: str) -> frozenset[Name]:
    """The wires and splices that are joined to the device a channel's pulses go to."""
    job = network.job
    chain = job.chain(channel)
    reader = job.display(chain.box or chain.display) if chain else None
    conduct = [
        element
        for element in solve(network, State("run")).elements
        if isinstance(element, Resistor)
        and isinstance(element.name, Address)
        and element.name.kind in ("wire", "splice")
    ]
    joined = DisjointSets[Name]()
    for element in conduct:
        joined.join(element.a, element.b)
    there = {joined.of(addresses.pin_node(reader, pin.id)) for pin in reader.pins} if reader else set()
    return frozenset(element.name for element in conduct if joined.of(element.a) in there)
