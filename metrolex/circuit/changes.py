"""Many small changes of one network, each solved from its one LU (rank-one update, or of the rank of what changes together).

Sherman and Morrison, Annals of Mathematical Statistics 21 (1950): with the matrix changed by u v' and z = A^-1 u, the new
answer is x - z (v.x) / (1 + v.z); Woodbury (1950) has the same for several at once; for one conductance changed by g between two nodes, u = g v and v = e_a - e_b. A source that gives
another value changes only the right side. All changes are worked out together, and refined where a broken wire takes away nearly
all that holds a node.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit.answers import Pushed, Worked
from metrolex.circuit.elements import CurrentSource, Element, Name, Resistor, VoltageFollower, VoltageSource
from metrolex.circuit.equations import Equations, Factors, equations
from metrolex.circuit.faults import OPEN_OHM, SHORT_OHM, Fault, Replaced
from metrolex.circuit.solve import Solutions

__all__ = [
    "Added",
    "Change",
    "InSeries",
    "Replaced",
    "added_by",
    "as_changes",
    "solve_changes",
    "solve_together",
]

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
class InSeries:
    """``ohm`` in series with a voltage source or follower, by name."""

    name: Name
    ohm: float


One = Change | InSeries | Replaced


def as_changes(elements: Mapping[Name, Element], fault: Fault) -> tuple[One, ...] | None:
    """A fault as what changes together in a network, its elements by name; None for a fault that needs it written anew."""
    element = elements.get(fault.element)
    if element is None:
        return None
    if fault.kind == "swap":
        other = elements.get(fault.with_)
        if not isinstance(element, Resistor) or not isinstance(other, Resistor):
            return None
        own_end, other_end = fault.ends
        moved = (
            (element, own_end, other.a if other_end == "a" else other.b),
            (other, other_end, element.a if own_end == "a" else element.b),
        )
        return tuple(
            Change(*pair, siemens)
            for one, end, node in moved
            for pair, siemens in (
                ((one.a, one.b), -1 / one.ohm),
                ((node, one.b) if end == "a" else (one.a, node), 1 / one.ohm),
            )
        )
    ohm = OPEN_OHM if fault.kind == "open" else float(fault.ohm or 0)
    if isinstance(element, (Resistor, CurrentSource)):
        first, second = element.a, element.b
    else:
        first, second = element.plus, element.minus
    if fault.kind == "short":
        return (Change(first, second if fault.to is None else fault.to, 1 / (fault.ohm or SHORT_OHM)),)
    if isinstance(element, Resistor):
        changed = ohm if fault.kind == "open" else element.ohm + ohm
        return (Change(first, second, 1 / changed - 1 / element.ohm),)
    if isinstance(element, CurrentSource):
        return (Replaced(element.name, 0.0),) if fault.kind == "open" else None
    return (InSeries(element.name, ohm),)


def solve_changes(
    elements: Sequence[Element], changes: Sequence[One], written: Equations | None = None
) -> Solutions:
    """The network with each change alone, in the order given; potentials only, no currents.

    ``written`` is what ``solve`` wrote of the same elements, so that they are not written out again. Raises CircuitError as
    ``solve`` does, and KeyError for a change at a node or element that is not there.
    """
    written = written or equations(elements)
    added = added_by(written, {element.name: element for element in elements}, changes)
    factors = Factors.of(written)
    healthy = _refined(factors, written.right[:, None])
    # A part tried at several values moves the same unknowns: what each place reaches is worked out once.
    places, which = np.unique(added.push, axis=0, return_inverse=True)
    which = which.reshape(-1)
    reach = factors.reach(_pushed(places, len(written.right)))
    left_over = 1 + added.gain * added.pulled(reach, which)
    share = added.gain / np.where(np.abs(left_over) > LOST, left_over, 1.0)
    pushed = share * added.pulled(healthy, np.zeros_like(which))

    near, moved = np.flatnonzero(np.abs(left_over) < NEAR), np.flatnonzero(added.right.any(axis=0))
    held, few = healthy - reach[:, which[near]] * pushed[near], added.of(near)
    for _ in range(REFINED):
        seen = few.down(len(held)) * few.pulled(held)
        rest = factors.solve_many(written.right[:, None] - factors.times(held) - seen)
        held += rest - reach[:, which[near]] * (share[near] * few.pulled(rest))
    for j in np.flatnonzero(np.abs(left_over[near]) <= LOST):
        one = few.of(np.array([j]))
        changed = written.matrix() + np.outer(one.down(len(held))[:, 0], one.along(len(held))[:, 0])
        held[:, j] = np.linalg.solve(changed, written.right)
    given = healthy + _refined(factors, added.right[:, moved])
    own = np.hstack([held, given])
    answers = Pushed(healthy[:, 0], reach, which, pushed, np.concatenate([near, moved]), own)
    return Solutions(written.joints.row, written.joints.floating, answers)


def solve_together(
    elements: Sequence[Element], groups: Sequence[Sequence[One]], written: Equations | None = None
) -> Solutions:
    """The network with each group of changes, made at once. As ``solve_changes`` otherwise."""
    written = written or equations(elements)
    single = [i for i, group in enumerate(groups) if len(group) == 1]
    answers = np.empty((len(written.right), len(groups)))
    answers[:, single] = solve_changes(elements, [groups[i][0] for i in single], written).answers.whole()
    factors, by_name = Factors.of(written), {element.name: element for element in elements}
    for i, group in enumerate(groups):
        if len(group) != 1:
            answers[:, i] = _solve_group(written, factors, added_by(written, by_name, group))
    return Solutions(written.joints.row, written.joints.floating, Worked(answers))


def _solve_group(written: Equations, factors: Factors, added: Added) -> Array:
    size = len(written.right)
    down, along, right = added.down(size), added.along(size), written.right + added.right.sum(axis=1)
    reach = _refined(factors, down)
    left_over = np.eye(down.shape[1]) + along.T @ reach
    if left_over.size and np.abs(np.linalg.det(left_over)) <= LOST:
        return np.asarray(np.linalg.solve(written.matrix() + down @ along.T, right), dtype=np.float64)
    answer = np.zeros(size)
    for _ in range(1 + REFINED):
        rest = right - factors.times(answer) - down @ (along.T @ answer)
        plain = factors.solve(rest)
        answer = answer + plain - reach @ np.linalg.solve(left_over, along.T @ plain)
    return answer


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
class Added:
    """What each change adds to the equations: ``gain`` times ``weight`` where the pairs of places ``push`` and ``pull`` cross.

    The matrix gains gain * (e_push0 - e_push1) * weight * (e_pull0 - e_pull1)', the right side ``right``, a column for each.
    """

    push: Places
    gain: Array
    pull: Places
    weight: Array
    right: Array

    def of(self, which: NDArray[np.intp]) -> Added:
        return Added(
            self.push[which], self.gain[which], self.pull[which], self.weight[which], self.right[:, which]
        )

    def down(self, size: int) -> Array:
        return _pushed(self.push, size) * self.gain

    def along(self, size: int) -> Array:
        return _pushed(self.pull, size) * self.weight

    def pushed_by(self, rows: Array) -> Array:
        """What each row of an inverse gives for a push at each pair of places, a column each."""
        wide = np.hstack([rows, np.zeros((len(rows), 1))])  # the last column stands for battery negative
        return np.asarray(wide[:, self.push[:, 0]] - wide[:, self.push[:, 1]])

    def pulled(self, unknowns: Array, column: NDArray[np.intp] | None = None) -> Array:
        """What each change sees of its ``column`` of unknowns; each has its own where none are named."""
        one_each = np.arange(unknowns.shape[1]) if column is None else column
        first, second = (
            np.where(place < 0, 0.0, unknowns[place, one_each])
            for place in (self.pull[:, 0], self.pull[:, 1])
        )
        return np.asarray(self.weight * (first - second))


def added_by(written: Equations, by_name: Mapping[Name, Element], changes: Sequence[One]) -> Added:
    """What changes add to the equations of a network, its elements by name. Raises KeyError for one at a node or element that is not there."""
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
        elif isinstance(change, InSeries):  # the amperes of a source count out of its plus
            push[j] = pull[j] = line[change.name], -1
            gain[j] = change.ohm
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
    return Added(push, gain, pull, weight, right[:-1])
