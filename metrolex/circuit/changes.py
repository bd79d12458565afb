"""Many small changes of one network, each solved from the one inverse (rank-one update).

Sherman and Morrison, Annals of Mathematical Statistics 21 (1950): with one conductance changed by g between two
nodes, u = e_a - e_b and z = A^-1 u, the new answer is x - z g (u.x) / (1 + g u.z). All changes are worked out together,
with two steps of iterative refinement, since a broken wire takes away nearly all that holds a node.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit.elements import Element, Name, Resistor
from metrolex.circuit.faults import OPEN_OHM, SHORT_OHM, Fault
from metrolex.circuit.solve import Equations, Solution, equations

__all__ = ["Change", "as_change", "solve_changes"]

Array = NDArray[np.float64]
REFINED = 2  # steps of iterative refinement
LOST = 1e-5  # what is left of a node that a change all but cuts off: below it the update has no digits, and it is solved anew


@dataclass(frozen=True, slots=True)
class Change:
    """``siemens`` more (or fewer) between two nodes that are there."""

    a: Name
    b: Name
    siemens: float


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


def solve_changes(elements: Sequence[Element], changes: Sequence[Change]) -> list[Solution]:
    """The network with each change alone, in the order given; potentials only, no currents.

    Raises CircuitError as ``solve`` does, and KeyError for a change at a node that is not there.
    """
    written = equations(elements)
    inverse = np.linalg.inv(written.matrix)
    siemens = np.array([change.siemens for change in changes])
    across = _unit_columns(written, changes)
    reach = inverse @ across
    base = inverse @ written.right
    left_over = 1 + siemens * np.einsum("ij,ij->j", across, reach)
    factor = siemens / np.where(np.abs(left_over) > LOST, left_over, 1.0)

    def corrected(plain: Array) -> Array:
        return np.asarray(plain - reach * (factor * np.einsum("ij,ij->j", across, plain)), dtype=np.float64)

    answer = corrected(np.repeat(base[:, None], len(changes), axis=1))
    for _ in range(REFINED):
        flow = siemens * np.einsum("ij,ij->j", across, answer)
        left = written.right[:, None] - written.matrix @ answer - across * flow
        answer = answer + corrected(inverse @ left)
    for j in np.flatnonzero(np.abs(left_over) <= LOST):
        changed = written.matrix + siemens[j] * np.outer(across[:, j], across[:, j])
        answer[:, j] = np.linalg.solve(changed, written.right)
    return [
        Solution(
            {name: float(column[i]) if i >= 0 else 0.0 for name, i in written.row.items()},
            written.floating,
            {},
        )
        for column in answer.T
    ]


def _unit_columns(written: Equations, changes: Sequence[Change]) -> Array:
    columns = np.zeros((len(written.right) + 1, len(changes)))  # the last row collects battery negative
    for j, change in enumerate(changes):
        columns[written.row[change.a], j] += 1.0
        columns[written.row[change.b], j] -= 1.0
    return columns[:-1]
