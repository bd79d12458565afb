"""A network written out as the equations of its nodes (modified nodal analysis), and a matrix taken apart.

Method: Ho, Ruehli and Brennan, 'The modified nodal approach to network analysis', IEEE Transactions on
Circuits and Systems CAS-22 (1975).
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit.elements import CurrentSource, Element, Name, Resistor, VoltageFollower, VoltageSource
from metrolex.disjoint_sets import DisjointSets
from metrolex.errors import CircuitError

__all__ = ["GROUND", "TIE_OHM", "Equations", "Factors", "Joints", "equations"]

Array = NDArray[np.float64]
GROUND = "battery negative"
TIE_OHM = 1e9


#: From so many unknowns on a network, in which nearly everything is 0, is taken apart as a sparse matrix.
_SPARSE_FROM = 250
#: So many columns of a large network are solved for at once: more of them do not fit a processor's nearest memory.
_AT_ONCE = 64


class Factors(ABC):
    """A square matrix taken apart once (LU with row exchange), for as many right sides as come."""

    singular: bool

    @staticmethod
    def of(written: Equations) -> Factors:
        """Of the matrix of a network, in the way that suits its size."""
        large = len(written.right) >= _SPARSE_FROM
        return _SparseFactors(written) if large else _DenseFactors(written.matrix())

    @abstractmethod
    def solve(self, right: Array) -> Array:
        """The unknowns for a right side, or for a column each; all NaN where there is no single answer."""

    @abstractmethod
    def solve_many(self, right: Array) -> Array:
        """As ``solve``, for hundreds of columns, again and again; what it leaves over is for whoever needs the last digits."""

    @abstractmethod
    def reach(self, right: Array) -> Array:
        """As ``solve_many``, as exact as its way allows."""

    @abstractmethod
    def times(self, unknowns: Array) -> Array:
        """The matrix times unknowns, a column each."""


class _DenseFactors(Factors):
    def __init__(self, matrix: Array) -> None:
        from scipy.linalg import lapack  # heavy to load, and not needed before the first network

        self._matrix, self._lapack = matrix, lapack
        self._lu, self._rows, fault = lapack.dgetrf(matrix)
        self.singular = fault != 0

    def solve(self, right: Array) -> Array:
        if self.singular:
            return np.full_like(right, np.nan)
        answer, _ = self._lapack.dgetrs(self._lu, self._rows, right)
        return np.asarray(answer, dtype=np.float64)

    def solve_many(self, right: Array) -> Array:
        # Times the inverse it is several times as fast as solving for each column.
        return np.asarray(self._inverse @ right, dtype=np.float64)

    def reach(self, right: Array) -> Array:
        answer = self.solve_many(right)  # an inverse leaves more over than factors do
        return answer + self.solve_many(right - self.times(answer))

    def times(self, unknowns: Array) -> Array:
        return np.asarray(self._matrix @ unknowns, dtype=np.float64)

    @cached_property
    def _inverse(self) -> Array:
        if self.singular:
            return np.full_like(self._lu, np.nan)
        inverse, _ = self._lapack.dgetri(self._lu, self._rows)
        return np.asarray(inverse, dtype=np.float64)


class _SparseFactors(Factors):
    """Of a large network, whose matrix is nearly all 0."""

    def __init__(self, written: Equations) -> None:
        from scipy.sparse import coo_array  # heavy to load, and needed for the largest networks only
        from scipy.sparse.linalg import splu

        size = len(written.right)
        self._matrix = coo_array((written.values, tuple(written.at)), shape=(size, size)).tocsc()
        try:
            self._lu = splu(self._matrix, permc_spec="MMD_AT_PLUS_A")  # nearly all of it is symmetric
            self.singular = False
        except RuntimeError:  # exactly singular
            self.singular = True

    def solve(self, right: Array) -> Array:
        if self.singular:
            return np.full_like(right, np.nan)
        return np.asarray(self._lu.solve(np.ascontiguousarray(right)), dtype=np.float64)

    def solve_many(self, right: Array) -> Array:
        answer = np.empty_like(right, order="C")
        for first in range(0, right.shape[1], _AT_ONCE):
            some = slice(first, first + _AT_ONCE)
            answer[:, some] = self.solve(right[:, some])
        return answer

    def reach(self, right: Array) -> Array:
        return self.solve_many(right)

    def times(self, unknowns: Array) -> Array:
        return np.asarray(self._matrix @ unknowns, dtype=np.float64)


class Joints:
    """What of a network is joined to what: its nodes, its elements by kind, and which nodes nothing holds.

    ``row`` gives a node's place among the unknowns: in the order they come, -1 for battery negative, which is none.
    """

    __slots__ = ("branches", "currents", "ends", "floating", "resistors", "row")

    def __init__(self, elements: Sequence[Element]) -> None:
        self.row: dict[Name, int] = {GROUND: -1}
        self.resistors: list[Resistor] = []
        self.branches: list[VoltageSource | VoltageFollower] = []
        self.currents: list[CurrentSource] = []
        self.ends: list[tuple[int, int]] = []  # of the resistors
        row, joined = self.row, list[tuple[int, int]]()  # what conducts beside them
        for element in elements:  # gone through at every solve: nothing is called that need not be
            if isinstance(element, Resistor):
                self.resistors.append(element)
                a = row.setdefault(element.a, len(row) - 1)
                self.ends.append((a, row.setdefault(element.b, len(row) - 1)))
            elif isinstance(element, CurrentSource):
                self.currents.append(element)
                row.setdefault(element.a, len(row) - 1)
                row.setdefault(element.b, len(row) - 1)
            else:
                self.branches.append(element)
                a = row.setdefault(element.plus, len(row) - 1)
                joined.append((a, row.setdefault(element.minus, len(row) - 1)))
                if isinstance(element, VoltageFollower):
                    row.setdefault(element.sense_plus, len(row) - 1)
                    row.setdefault(element.sense_minus, len(row) - 1)
        self.floating = self._unheld((*self.ends, *joined))

    def _unheld(self, joined: Sequence[tuple[int, int]]) -> frozenset[Name]:
        beside: list[list[int]] = [[] for _ in self.row]  # the last is battery negative's, place -1
        for a, b in joined:
            beside[a].append(b)
            beside[b].append(a)
        held, to_go = [False] * len(beside), [-1]
        held[-1] = True
        while to_go:
            for node in beside[to_go.pop()]:
                if not held[node]:
                    held[node] = True
                    to_go.append(node)
        return frozenset(name for name, place in self.row.items() if not held[place])


@dataclass(frozen=True, slots=True)
class Equations:
    """A network written out: the matrix times the unknowns is ``right``.

    The unknowns are the volts of every node but battery negative, then the amperes of every source. The matrix, in which nearly
    everything is 0, is the sum of ``values``, each at its row and column in ``at`` (shape 2 by their number).
    """

    joints: Joints
    at: NDArray[np.intp]
    values: Array
    right: Array

    def matrix(self) -> Array:
        """All of it, zeros too."""
        size = len(self.right)
        added = np.bincount(self.at[0] * size + self.at[1], self.values, size * size)
        return np.asarray(added.reshape(size, size), dtype=np.float64)


def equations(elements: Sequence[Element], joints: Joints | None = None) -> Equations:
    """Write a network out; ``joints`` are those of the same elements, if they are known. Raises CircuitError as ``solve`` does."""
    joints = joints or Joints(elements)
    _refuse_duplicates(elements)
    _refuse_source_loops(joints.branches)
    _refuse_stranded_currents(joints)

    row, branches, count = joints.row, joints.branches, len(joints.row) - 1
    right = np.zeros(count + len(branches) + 1)  # the last collects battery negative
    a, b = np.array(joints.ends, dtype=np.intp).reshape(-1, 2).T
    siemens = np.array([1 / e.ohm for e in joints.resistors])
    tied = np.array([row[name] for name in joints.floating], dtype=np.intp)
    places: list[tuple[int, int]] = []
    shares: list[float] = []
    for current in joints.currents:
        right[row[current.a]] -= current.ampere
        right[row[current.b]] += current.ampere
    for line, branch in enumerate(branches, start=count):
        plus, minus = row[branch.plus], row[branch.minus]
        places += [(plus, line), (minus, line), (line, plus), (line, minus)]
        shares += [-1.0, 1.0, 1.0, -1.0]
        if isinstance(branch, VoltageSource):
            right[line] = branch.volt
        else:
            places += [(line, row[branch.sense_plus]), (line, row[branch.sense_minus])]
            shares += [-branch.ratio, branch.ratio]
    rows, columns = np.array(places, dtype=np.intp).reshape(-1, 2).T
    at = np.array(
        [np.concatenate([a, b, a, b, tied, rows]), np.concatenate([a, b, b, a, tied, columns])], dtype=np.intp
    )
    values = np.concatenate(
        [siemens, siemens, -siemens, -siemens, np.full(len(tied), 1 / TIE_OHM), np.array(shares)]
    )
    inside = (at >= 0).all(axis=0)  # battery negative is no unknown
    return Equations(joints, at[:, inside], values[inside], right[:-1])


def _refuse_duplicates(elements: Sequence[Element]) -> None:
    if len({element.name for element in elements}) == len(elements):
        return
    seen: set[Name] = set()
    for element in elements:
        if element.name in seen:
            raise CircuitError(
                f"Two elements are called '{element.name}': a current could not be told from the other."
            )
        seen.add(element.name)


def _refuse_source_loops(branches: Sequence[VoltageSource | VoltageFollower]) -> None:
    group = DisjointSets[Name]()
    for branch in branches:
        if not group.join(branch.plus, branch.minus):
            raise CircuitError(
                f"'{branch.name}' closes a loop of voltage sources with no resistance in it, "
                f"between '{branch.plus}' and '{branch.minus}': the current has no limit."
            )


def _refuse_stranded_currents(joints: Joints) -> None:
    floating = joints.floating
    for current in joints.currents:
        if current.ampere and (current.a in floating) != (current.b in floating):
            lost = current.a if current.a in floating else current.b
            raise CircuitError(
                f"'{current.name}' drives {current.ampere:g} A at '{lost}', which nothing joins to battery negative: "
                "the current has no way back."
            )
