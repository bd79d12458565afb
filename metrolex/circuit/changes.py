"""Many small changes of one network, each solved from its one LU (rank-one update).

Sherman and Morrison, Annals of Mathematical Statistics 21 (1950): with the matrix changed by u v' and z = A^-1 u, the new
answer is x - z (v.x) / (1 + v.z); for one conductance changed by g between two nodes, u = g v and v = e_a - e_b. A source that gives
another value changes only the right side. All changes are worked out together, and refined where a broken wire takes away nearly
all that holds a node.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit.elements import CurrentSource, Element, Name, Resistor, VoltageFollower, VoltageSource
from metrolex.circuit.equations import Equations, Factors, equations
from metrolex.circuit.faults import OPEN_OHM, SHORT_OHM, Fault
from metrolex.circuit.solve import Solutions

__all__ = ["Change", "Replaced", "as_change", "solve_changes"]

Array = NDArray[np.float64]
Places = NDArray[np.intp]  # pairs of unknowns, -1 for battery negative
REFINED = 2  # steps of iterative refinement where a change takes away nearly all that holds a node
NEAR = 1e-2  # what is left of such a node
LOST = 1e-5  # what is left of a node that a change all but cuts off: below it the update has no digits, and it is solved anew


@dataclass(frozen=True, slots=True)
class Change:
    """``siemens`` more (or fewer) between two nodes that are there."""

    a: Name
    b: Name
    siemens: float


@dataclass(frozen=True, slots=True)
class Replaced:
    """An element of the network, by name, with another value: its ohms, its volts, its amperes or its ratio."""

    name: Name
    value: float


def as_change(elements: Sequence[Element], fault: Fault) -> Change | None:
    """A fault of a resistor as a change of conductance; None for a fault that needs the network written anew."""
    element = next((e for e in elements if e.name == fault.element), None)
    if not isinstance(element, Resistor) or fault.kind == "swap":
        return None
    if fault.kind == "short":
        other = fault.to if fault.to is not None else element.b
        return Change(element.a, other, 1 / SHORT_OHM)
    ohm = OPEN_OHM if fault.kind == "open" else element.ohm + float(fault.ohm or 0)
    return Change(element.a, element.b, 1 / ohm - 1 / element.ohm)


def solve_changes(
    elements: Sequence[Element], changes: Sequence[Change | Replaced], written: Equations | None = None
) -> Solutions:
    """The network with each change alone, in the order given; potentials only, no currents.

    ``written`` is what ``solve`` wrote of the same elements, so that they are not written out again. Raises CircuitError as
    ``solve`` does, and KeyError for a change at a node or element that is not there.
    """
    written = written or equations(elements)
    added = _added(written, elements, changes)
    factors = Factors.of(written)
    healthy = _refined(factors, written.right[:, None])
    # A part tried at several values moves the same unknowns: what each place reaches is worked out once.
    places, which = np.unique(added.push, axis=0, return_inverse=True)
    reach = _refined(factors, _pushed(places, len(written.right)))[:, which.reshape(-1)] * added.gain
    left_over = 1 + added.pulled(reach)
    share = 1 / np.where(np.abs(left_over) > LOST, left_over, 1.0)
    plain = np.repeat(healthy, len(changes), axis=1)
    moved = np.flatnonzero(added.right.any(axis=0))
    plain[:, moved] += _refined(factors, added.right[:, moved])
    answer = plain - reach * (share * added.pulled(plain))

    near = np.flatnonzero(np.abs(left_over) < NEAR)
    right, few = written.right[:, None] + added.right[:, near], added.of(near)
    for _ in range(REFINED):
        held = answer[:, near]
        rest = factors.solve_many(right - factors.times(held) - few.down(len(right)) * few.pulled(held))
        answer[:, near] += rest - reach[:, near] * (share[near] * few.pulled(rest))
    for j in np.flatnonzero(np.abs(left_over) <= LOST):
        one = added.of(np.array([j]))
        changed = written.matrix() + np.outer(one.down(len(right))[:, 0], one.along(len(right))[:, 0])
        answer[:, j] = np.linalg.solve(changed, written.right + added.right[:, j])
    return Solutions(written.joints.row, written.joints.floating, answer)


def _refined(factors: Factors, right: Array) -> Array:
    answer = factors.solve_many(right)
    return answer + factors.solve_many(right - factors.times(answer))


def _pushed(places: Places, size: int) -> Array:
    """A column for each pair of places: 1 at the first, -1 at the second, nothing at battery negative."""
    columns = np.zeros((size + 1, len(places)))  # the last row collects battery negative
    one_each = np.arange(len(places))
    columns[places[:, 0], one_each] += 1.0
    columns[places[:, 1], one_each] -= 1.0
    return columns[:-1]


@dataclass(frozen=True, slots=True)
class _Added:
    """What each change adds to the equations: ``gain`` times ``weight`` where the pairs of places ``push`` and ``pull`` cross.

    The matrix gains gain * (e_push0 - e_push1) * weight * (e_pull0 - e_pull1)', the right side ``right``, a column for each.
    """

    push: Places
    gain: Array
    pull: Places
    weight: Array
    right: Array

    def of(self, which: NDArray[np.intp]) -> _Added:
        return _Added(
            self.push[which], self.gain[which], self.pull[which], self.weight[which], self.right[:, which]
        )

    def down(self, size: int) -> Array:
        return _pushed(self.push, size) * self.gain

    def along(self, size: int) -> Array:
        return _pushed(self.pull, size) * self.weight

    def pulled(self, unknowns: Array) -> Array:
        """What each change sees of its own column of unknowns."""
        one_each = np.arange(unknowns.shape[1])
        first, second = (
            np.where(place < 0, 0.0, unknowns[place, one_each])
            for place in (self.pull[:, 0], self.pull[:, 1])
        )
        return np.asarray(self.weight * (first - second))


def _added(written: Equations, elements: Sequence[Element], changes: Sequence[Change | Replaced]) -> _Added:
    by_name = {element.name: element for element in elements}
    row = written.joints.row
    line = {branch.name: i for i, branch in enumerate(written.joints.branches, start=len(row) - 1)}
    count = len(changes)
    push, pull = np.full((count, 2), -1, dtype=np.intp), np.full((count, 2), -1, dtype=np.intp)
    gain, weight = np.zeros(count), np.ones(count)
    right = np.zeros((len(written.right) + 1, count))  # the last row collects battery negative
    for j, change in enumerate(changes):
        old = by_name[change.name] if isinstance(change, Replaced) else None
        if isinstance(change, Change):
            push[j] = pull[j] = row[change.a], row[change.b]
            gain[j] = change.siemens
        elif isinstance(old, Resistor):
            push[j] = pull[j] = row[old.a], row[old.b]
            gain[j] = 1 / change.value - 1 / old.ohm
        elif isinstance(old, VoltageSource):
            right[line[old.name], j] = change.value - old.volt
        elif isinstance(old, CurrentSource):
            right[row[old.a], j] -= change.value - old.ampere
            right[row[old.b], j] += change.value - old.ampere
        elif isinstance(old, VoltageFollower):
            push[j] = line[old.name], -1
            pull[j] = row[old.sense_plus], row[old.sense_minus]
            gain[j], weight[j] = 1.0, old.ratio - change.value
    return _Added(push, gain, pull, weight, right[:-1])
