"""One point of the circuit: what the meter should read there in each state, and what hangs on it."""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.job import KEY_STATES, State
from metrolex.twin.build import Network
from metrolex.twin.run import solve

__all__ = ["PointFacts", "facts_of"]


@dataclass(frozen=True, slots=True)
class PointFacts:
    """Volts to battery negative by state in words (None: floating there); elements with the amperes through them now."""

    node: str
    volts: tuple[tuple[str, float | None], ...]
    hanging: tuple[tuple[str, float | None], ...]


def facts_of(network: Network, state: State, node: str) -> PointFacts | None:
    """Facts of a node; None where the circuit has no node of that name."""
    now = solve(network, state)
    joined = [element for element in now.elements if node in _nodes(element)]
    if not joined:
        return None
    states = [*(State(key) for key in KEY_STATES), State("run", "park"), State("run", "head", "running")]
    volts: list[tuple[str, float | None]] = []
    for one in states:
        try:
            volts.append((one.words(), solve(network, one).volts(node)))
        except BadInput:
            volts.append((one.words(), None))
    hanging = tuple((e.name, now.solution.currents.get(e.name)) for e in joined)
    return PointFacts(node, tuple(volts), hanging)


def _nodes(element: object) -> set[str]:
    return {
        value
        for name in ("a", "b", "plus", "minus")
        if isinstance(value := getattr(element, name, None), str)
    }
