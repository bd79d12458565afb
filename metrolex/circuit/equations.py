"""A network written out as the equations of its nodes (modified nodal analysis), and a matrix taken apart.

Method: Ho, Ruehli and Brennan, 'The modified nodal approach to network analysis', IEEE Transactions on
Circuits and Systems CAS-22 (1975).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit.elements import CurrentSource, Element, Name, Resistor, VoltageFollower, VoltageSource
from metrolex.disjoint_sets import DisjointSets
from metrolex.errors import CircuitError

__all__ = ["GROUND", "TIE_OHM", "Equations", "Factors", "equations", "floating_nodes", "node_names"]

Array = NDArray[np.float64]
GROUND = "battery negative"
TIE_OHM = 1e9


class Factors:
    """A square matrix taken apart once (LU with row exchange), for as many right sides as come."""

    def __init__(self, matrix: Array) -> None:
        from scipy.linalg import lapack  # heavy to load, and not needed before the first network

        self._lapack = lapack
        self._lu, self._rows, fault = lapack.dgetrf(matrix)
        self.singular = fault != 0

    def solve(self, right: Array) -> Array:
        """The unknowns for a right side; all NaN where there is no single answer."""
        if self.singular:
            return np.full_like(right, np.nan)
        answer, _ = self._lapack.dgetrs(self._lu, self._rows, right)
        return np.asarray(answer, dtype=np.float64)

    def inverse(self) -> Array:
        """The inverse, for hundreds of right sides at once: times them it is several times as fast as solving for each."""
        if self.singular:
            return np.full_like(self._lu, np.nan)
        inverse, _ = self._lapack.dgetri(self._lu, self._rows)
        return np.asarray(inverse, dtype=np.float64)


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
