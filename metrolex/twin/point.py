"""One point of the circuit: what the meter should read there in each state, and what hangs on it."""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.circuit.elements import CurrentSource, Element, Name, Resistor
from metrolex.errors import BadInput
from metrolex.job import KEY_STATES, State
from metrolex.twin.build import Network
from metrolex.twin.run import solve
from metrolex.twin.spoken import node_called

__all__ = ["PointFacts", "facts_of"]


@dataclass(frozen=True, slots=True)
class PointFacts:
    """Volts to battery negative by state in words (None: floating there); elements with the amperes through them now."""

    node: str
    volts: tuple[tuple[str, float | None], ...]
    hanging: tuple[tuple[str, float | None], ...]


def facts_of(network: Network, state: State, words: str) -> PointFacts | None:
    """Facts of a node by its name; None where the circuit has no node of that name."""
    now = solve(network, state)
    try:
        node = node_called(now, words, "point")
    except BadInput:
        return None
    joined = [element for element in now.elements if node in _nodes(element)]
    states = [*(State(key) for key in KEY_STATES), State("run", "park"), State("run", "head", "running")]
    volts: list[tuple[str, float | None]] = []
    for one in states:
        try:
            volts.append((one.words(), solve(network, one).volts(node)))
        except BadInput:
            volts.append((one.words(), None))
    hanging = tuple((str(e.name), now.solution.currents.get(e.name)) for e in joined)
    return PointFacts(words, tuple(volts), hanging)


def _nodes(element: Element) -> tuple[Name, Name]:
    if isinstance(element, (Resistor, CurrentSource)):
        return element.a, element.b
    return element.plus, element.minus
