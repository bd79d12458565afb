"""Many small changes of one network, each solved from its one LU (rank-one update).

Sherman and Morrison, Annals of Mathematical Statistics 21 (1950): with the matrix changed by u v' and z = A^-1 u, the new
answer is x - z (v.x) / (1 + v.z); for one conductance changed by g between two nodes, u = g v and v = e_a - e_b. A source that gives
another value changes only the right side. All changes are worked out together,
with two steps of iterative refinement, since a broken wire takes away nearly all that holds a node.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit.elements import CurrentSource, Element, Name, Resistor, VoltageFollower, VoltageSource
from metrolex.circuit.equations import Equations, Factors, equations
from metrolex.circuit.faults import OPEN_OHM, SHORT_OHM, Fault
from metrolex.circuit.solve import Solutions

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
    down, along, right = _columns(written, elements, changes)
    right += written.right[:, None]
    factors = Factors.of(written.matrix)
    reach = factors.solve_many(down)
    left_over = 1 + np.einsum("ij,ij->j", along, reach)
    share = 1 / np.where(np.abs(left_over) > LOST, left_over, 1.0)

    def corrected(plain: Array) -> Array:
        return np.asarray(plain - reach * (share * np.einsum("ij,ij->j", along, plain)), dtype=np.float64)

    answer = corrected(factors.solve_many(right))
    for _ in range(REFINED):
        left = right - factors.times(answer) - down * np.einsum("ij,ij->j", along, answer)
        answer = answer + corrected(factors.solve_many(left))
    for j in np.flatnonzero(np.abs(left_over) <= LOST):
        changed = written.matrix + np.outer(down[:, j], along[:, j])
        answer[:, j] = np.linalg.solve(changed, right[:, j])
    return Solutions(written.joints.row, written.joints.floating, answer)


def _columns(
    written: Equations, elements: Sequence[Element], changes: Sequence[Change | Replaced]
) -> tuple[Array, Array, Array]:
    """Each change as what it adds to the equations: the matrix gains ``down`` times ``along``, the right side ``right``."""
    by_name = {element.name: element for element in elements}
    row = written.joints.row
    line = {branch.name: i for i, branch in enumerate(written.joints.branches, start=len(row) - 1)}
    shape = (len(written.right) + 1, len(changes))  # the last row collects battery negative
    down, along, right = np.zeros(shape), np.zeros(shape), np.zeros(shape)
    for j, change in enumerate(changes):
        old = by_name[change.name] if isinstance(change, Replaced) else None
        if isinstance(change, Change):
            _between(row, change, down[:, j], along[:, j])
        elif isinstance(old, Resistor):
            _between(row, Change(old.a, old.b, 1 / change.value - 1 / old.ohm), down[:, j], along[:, j])
        elif isinstance(old, VoltageSource):
            right[line[old.name], j] = change.value - old.volt
        elif isinstance(old, CurrentSource):
            right[row[old.a], j] -= change.value - old.ampere
            right[row[old.b], j] += change.value - old.ampere
        elif isinstance(old, VoltageFollower):
            down[line[old.name], j] = 1.0
            along[row[old.sense_plus], j] -= change.value - old.ratio
            along[row[old.sense_minus], j] += change.value - old.ratio
    return down[:-1], along[:-1], right[:-1]


def _between(row: Mapping[Name, int], change: Change, down: Array, along: Array) -> None:
    """A conductance more between two nodes; where both are the same it does nothing."""
    a, b = row[change.a], row[change.b]
    if a != b:
        along[a], along[b] = 1.0, -1.0
        down[a], down[b] = change.siemens, -change.siemens
