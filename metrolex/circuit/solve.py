"""Modified nodal analysis of a DC network, with one 1 Gohm tie for each floating node.

Method: Ho, Ruehli and Brennan, 'The modified nodal approach to network analysis', IEEE Transactions on
Circuits and Systems CAS-22 (1975). Dense LU with one step of iterative refinement: networks of a job have
about a hundred nodes, and conductances from a broken wire (1 nS) to a joint (1 kS) stand side by side.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit.elements import CurrentSource, Element, Name, Resistor, VoltageFollower, VoltageSource
from metrolex.disjoint_sets import DisjointSets
from metrolex.errors import CircuitError

__all__ = [
    "GROUND",
    "TIE_OHM",
    "Column",
    "Equations",
    "Solution",
    "equations",
    "floating_nodes",
    "node_names",
    "solve",
]

GROUND = "battery negative"
TIE_OHM = 1e9


@dataclass(frozen=True, slots=True)
class Solution:
    """Volts to battery negative of every node (None where it floats) and amperes of every element.

    ``potentials`` holds the numbers behind ``nodes``, floating ones tied by 1 Gohm.
    """

    potentials: Mapping[Name, float]
    floating: frozenset[Name]
    currents: dict[Name, float]

    @property
    def nodes(self) -> dict[Name, float | None]:
        """Volts by node name, None for a node that nothing holds."""
        return {name: None if name in self.floating else volt for name, volt in self.potentials.items()}

    def across(self, a: Name, b: Name) -> float:
        """Volts from ``b`` up to ``a``."""
        return self.potentials[a] - self.potentials[b]


class Column(Mapping[Name, float]):
    """Volts by node, read straight from one column of an answer; ``row`` gives a node's place, -1 for battery negative."""

    __slots__ = ("_column", "_row")

    def __init__(self, row: Mapping[Name, int], column: NDArray[np.float64]) -> None:
        self._row, self._column = row, column

    def __getitem__(self, name: Name) -> float:
        place = self._row[name]
        return float(self._column[place]) if place >= 0 else 0.0

    def __iter__(self) -> Iterator[Name]:
        return iter(self._row)

    def __len__(self) -> int:
        return len(self._row)


@dataclass(frozen=True, slots=True)
class Equations:
    """The network written out: ``matrix`` times the unknowns is ``right``.

    The unknowns are the volts of every node but battery negative, then the amperes of every source. ``row`` gives
    a node's place among them, -1 for battery negative.
    """

    names: list[Name]
    row: dict[Name, int]
    branches: list[VoltageSource | VoltageFollower]
    floating: frozenset[Name]
    matrix: NDArray[np.float64]
    right: NDArray[np.float64]

    @property
    def node_count(self) -> int:
        return len(self.names) - 1


def solve(elements: Sequence[Element]) -> Solution:
    """Solve a network.

    Raises CircuitError, in words, when sources form a loop without resistance, when a current source has
    no way back, or when nothing is joined to battery negative.
    """
    if not elements:
        return Solution({GROUND: 0.0}, frozenset(), {})
    written = equations(elements)
    answer = _refined(written.matrix, written.right)
    potentials = {name: float(answer[i]) if i >= 0 else 0.0 for name, i in written.row.items()}
    branch = {b.name: float(answer[written.node_count + i]) for i, b in enumerate(written.branches)}
    return Solution(potentials, written.floating, _currents(elements, potentials, branch))


def equations(elements: Sequence[Element]) -> Equations:
    """Write a network out. Raises CircuitError as ``solve`` does."""
    _refuse_duplicates(elements)
    _refuse_source_loops(elements)
    names = node_names(elements)
    row = {name: i - 1 for i, name in enumerate(names)}  # battery negative is row -1: left out
    floating = _floating(elements, row)
    _refuse_stranded_currents(elements, floating)

    branches = [e for e in elements if isinstance(e, (VoltageSource, VoltageFollower))]
    count = len(names) - 1
    size = count + len(branches)
    matrix = np.zeros((size + 1, size + 1))  # the last row and column collect battery negative
    right = np.zeros(size + 1)

    resistors = [e for e in elements if isinstance(e, Resistor)]
    a = np.array([row[e.a] for e in resistors], dtype=np.intp)
    b = np.array([row[e.b] for e in resistors], dtype=np.intp)
    siemens = np.array([1 / e.ohm for e in resistors])
    np.add.at(matrix, (a, a), siemens)
    np.add.at(matrix, (b, b), siemens)
    np.add.at(matrix, (a, b), -siemens)
    np.add.at(matrix, (b, a), -siemens)
    for name in floating:
        matrix[row[name], row[name]] += 1 / TIE_OHM
    for element in elements:
        if isinstance(element, CurrentSource):
            right[row[element.a]] -= element.ampere
            right[row[element.b]] += element.ampere
    for i, branch in enumerate(branches):
        line = count + i
        for node, sign in ((branch.plus, 1.0), (branch.minus, -1.0)):
            matrix[row[node], line] -= sign
            matrix[line, row[node]] += sign
        if isinstance(branch, VoltageSource):
            right[line] = branch.volt
        else:
            matrix[line, row[branch.sense_plus]] -= branch.ratio
            matrix[line, row[branch.sense_minus]] += branch.ratio
    return Equations(names, row, branches, floating, matrix[:size, :size], right[:size])


def node_names(elements: Iterable[Element]) -> list[Name]:
    """All node names, battery negative first, the others as they come."""
    names: dict[Name, None] = {GROUND: None}
    for element in elements:
        for node in _nodes(element):
            names.setdefault(node)
    return list(names)


def floating_nodes(elements: Sequence[Element]) -> frozenset[Name]:
    """Nodes with no conducting way to battery negative."""
    return _floating(elements, {name: i - 1 for i, name in enumerate(node_names(elements))})


def _floating(elements: Sequence[Element], row: dict[Name, int]) -> frozenset[Name]:
    group = DisjointSets[int]()
    for element in elements:
        if not isinstance(element, CurrentSource):
            a, b = _ends(element)
            group.join(row[a], row[b])
    held = group.of(-1)
    return frozenset(name for name, i in row.items() if group.of(i) != held)


def _ends(element: Element) -> tuple[Name, Name]:
    if isinstance(element, (Resistor, CurrentSource)):
        return element.a, element.b
    return element.plus, element.minus


def _nodes(element: Element) -> tuple[Name, ...]:
    if isinstance(element, VoltageFollower):
        return element.plus, element.minus, element.sense_plus, element.sense_minus
    return _ends(element)


def _refuse_duplicates(elements: Sequence[Element]) -> None:
    seen: set[Name] = set()
    for element in elements:
        if element.name in seen:
            raise CircuitError(
                f"Two elements are called '{element.name}': a current could not be told from the other."
            )
        seen.add(element.name)


def _refuse_source_loops(elements: Sequence[Element]) -> None:
    group = DisjointSets[Name]()
    for element in elements:
        if isinstance(element, (VoltageSource, VoltageFollower)) and not group.join(
            element.plus, element.minus
        ):
            raise CircuitError(
                f"'{element.name}' closes a loop of voltage sources with no resistance in it, "
                f"between '{element.plus}' and '{element.minus}': the current has no limit."
            )


def _refuse_stranded_currents(elements: Sequence[Element], floating: frozenset[Name]) -> None:
    for element in elements:
        if (
            isinstance(element, CurrentSource)
            and element.ampere
            and (element.a in floating) != (element.b in floating)
        ):
            lost = element.a if element.a in floating else element.b
            raise CircuitError(
                f"'{element.name}' drives {element.ampere:g} A at '{lost}', which nothing joins to battery negative: "
                "the current has no way back."
            )


def _refined(matrix: NDArray[np.float64], right: NDArray[np.float64]) -> NDArray[np.float64]:
    try:
        answer = np.linalg.solve(matrix, right)
        answer = answer + np.linalg.solve(matrix, right - matrix @ answer)
    except np.linalg.LinAlgError:
        answer = np.full_like(right, np.nan)
    if not np.isfinite(answer).all():
        raise CircuitError(
            "The network has no single answer: two of its sources ask for different volts at one point."
        )
    return np.asarray(answer, dtype=np.float64)


def _currents(
    elements: Sequence[Element], potentials: dict[Name, float], branch: dict[Name, float]
) -> dict[Name, float]:
    currents = {}
    for element in elements:
        if isinstance(element, Resistor):
            currents[element.name] = (potentials[element.a] - potentials[element.b]) / element.ohm
        elif isinstance(element, CurrentSource):
            currents[element.name] = element.ampere
        else:
            currents[element.name] = branch[element.name]
    return currents
