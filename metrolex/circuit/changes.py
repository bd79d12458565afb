"""Many small changes of one network, each solved from the one inverse (rank-one update).

Sherman and Morrison, Annals of Mathematical Statistics 21 (1950): with the matrix changed by u v' and z = A^-1 u, the new
answer is x - z (v.x) / (1 + v.z); for one conductance changed by g between two nodes, u = g v and v = e_a - e_b. A source that gives
another value changes only the right side. All changes are worked out together,
with two steps of iterative refinement, since a broken wire takes away nearly all that holds a node.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit.elements import CurrentSource, Element, Name, Resistor, VoltageFollower, VoltageSource
from metrolex.circuit.faults import OPEN_OHM, SHORT_OHM, Fault
from metrolex.circuit.solve import Column, Equations, Solution, equations

__all__ = ["Change", "Replaced", "as_change", "solve_changes"]

Array = NDArray[np.float64]
REFINED = 2  # steps of iterative refinement
LOST = 1e-5  # what is left of a node that a change all but cuts off: below it the update has no digits, and it is solved anew


@dataclass(frozen=True, slots=True)
class Change:
    """``siemens`` more (or fewer) between two nodes that are there."""

    a: Name
    b: Name
    siemens: float


@dataclass(frozen=True, slots=True)
class Replaced:
    """An element of the network with another value: its ohms, its volts, its amperes or its ratio; between the same nodes."""

    element: Element


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


def solve_changes(elements: Sequence[Element], changes: Sequence[Change | Replaced]) -> list[Solution]:
    """The network with each change alone, in the order given; potentials only, no currents.

    Raises CircuitError as ``solve`` does, and KeyError for a change at a node or element that is not there.
    """
    if not changes:
        return []
    written = equations(elements)
    inverse = np.linalg.inv(written.matrix)
    down, along, right = _columns(written, elements, changes)
    right += written.right[:, None]
    reach = inverse @ down
    left_over = 1 + np.einsum("ij,ij->j", along, reach)
    share = 1 / np.where(np.abs(left_over) > LOST, left_over, 1.0)

    def corrected(plain: Array) -> Array:
        return np.asarray(plain - reach * (share * np.einsum("ij,ij->j", along, plain)), dtype=np.float64)

    answer = corrected(inverse @ right)
    for _ in range(REFINED):
        left = right - written.matrix @ answer - down * np.einsum("ij,ij->j", along, answer)
        answer = answer + corrected(inverse @ left)
    for j in np.flatnonzero(np.abs(left_over) <= LOST):
        changed = written.matrix + np.outer(down[:, j], along[:, j])
        answer[:, j] = np.linalg.solve(changed, right[:, j])
    return [Solution(Column(written.row, column), written.floating, {}) for column in answer.T]


def _columns(
    written: Equations, elements: Sequence[Element], changes: Sequence[Change | Replaced]
) -> tuple[Array, Array, Array]:
    """Each change as what it adds to the equations: the matrix gains ``down`` times ``along``, the right side ``right``."""
    by_name = {element.name: element for element in elements}
    line = {branch.name: written.node_count + i for i, branch in enumerate(written.branches)}
    shape = (len(written.right) + 1, len(changes))  # the last row collects battery negative
    down, along, right = np.zeros(shape), np.zeros(shape), np.zeros(shape)
    for j, change in enumerate(changes):
        new = change.element if isinstance(change, Replaced) else None
        old = by_name[new.name] if new is not None else None
        siemens = _siemens(change, old)
        if siemens is not None:
            for node, sign in ((siemens.a, 1.0), (siemens.b, -1.0)):
                along[written.row[node], j] += sign
                down[written.row[node], j] += sign * siemens.siemens
        elif isinstance(new, VoltageSource) and isinstance(old, VoltageSource):
            right[line[new.name], j] = new.volt - old.volt
        elif isinstance(new, CurrentSource) and isinstance(old, CurrentSource):
            right[written.row[new.a], j] -= new.ampere - old.ampere
            right[written.row[new.b], j] += new.ampere - old.ampere
        elif isinstance(new, VoltageFollower) and isinstance(old, VoltageFollower):
            down[line[new.name], j] = 1.0
            along[written.row[new.sense_plus], j] -= new.ratio - old.ratio
            along[written.row[new.sense_minus], j] += new.ratio - old.ratio
    return down[:-1], along[:-1], right[:-1]


def _siemens(change: Change | Replaced, old: Element | None) -> Change | None:
    if isinstance(change, Change):
        return change
    new = change.element
    if isinstance(new, Resistor) and isinstance(old, Resistor):
        return Change(new.a, new.b, 1 / new.ohm - 1 / old.ohm)
    return None
