"""Whether the pulses of a sender get through to the input that counts them."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from metrolex.circuit import Element, Resistor
from metrolex.circuit.elements import Name
from metrolex.disjoint_sets import DisjointSets
from metrolex.job import Display, Input, Sender
from metrolex.twin import addresses
from metrolex.twin.addresses import Address

__all__ = ["pulses_arrive"]

MOST_OHM = 1000.0  # in a line that still pulls its pull-up down to a clear low (common practice, no source)
HELD_LOW = 0.4  # of the reference: a line that stands below it never goes high


def pulses_arrive(
    elements: Sequence[Element],
    across: Callable[[Name, Name], float | None],
    sender: Sender,
    reader: Display,
    stage: Input,
) -> bool:
    """Whether a sender's pulls reach the pin of an input: signal and return by wires that conduct, its supply alive, the line not held low.

    ``elements`` as they stand, faults in them; ``across`` the volts between two nodes of their solution.
    """
    ground = reader.pin_for("ground")
    if ground is None or stage.pin is None:
        return False
    rail, pin = addresses.pin_node(reader, ground.id), addresses.pin_node(reader, stage.pin)
    signal, back = addresses.sender_node(sender.id, "signal"), addresses.sender_node(sender.id, "return")
    joined = DisjointSets[Name]()
    for element in elements:
        wired = isinstance(element.name, Address) and element.name.kind in ("wire", "splice")
        if wired and isinstance(element, Resistor) and element.ohm < MOST_OHM:
            joined.join(element.a, element.b)
    if joined.of(signal) != joined.of(pin):
        return False
    standing, returned = across(pin, rail), across(back, rail)
    if standing is None or returned is None:
        return False
    supply = across(addresses.sender_node(sender.id, "supply"), back)
    alive = sender.wires < 3 or (supply is not None and supply > sender.output.supply_v / 2)
    reference = stage.circuit.reference_v or 0.0
    return alive and standing > HELD_LOW * reference
