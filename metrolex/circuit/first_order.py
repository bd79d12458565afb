"""How the volts of nodes follow the values of parts, to first order, in a network and in many small changes of it.

The adjoint way (Director and Rohrer, 'The generalized adjoint network and network sensitivities', IEEE Transactions on Circuit Theory
CT-16, 1969): one solution of the transposed equations for each node asked for serves every part. What changes in the network is a correction
of the rank of the change (Woodbury).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit.changes import LOST, Added, One, Replaced, added_by
from metrolex.circuit.elements import Element, Name
from metrolex.circuit.equations import Equations

__all__ = ["FirstOrder"]

Array = NDArray[np.float64]
STEP = 1e-3  # of the way to the value asked for


@dataclass(frozen=True, slots=True)
class FirstOrder:
    """``rows`` of the inverse for some nodes of a network, and what each of some parts adds when its value is moved."""

    written: Equations
    elements: Sequence[Element]
    rows: Array
    parts: Added
    nodes: tuple[int, ...]
    inverse: Array

    @staticmethod
    def of(
        written: Equations, elements: Sequence[Element], nodes: Sequence[Name], moved: Sequence[Replaced]
    ) -> FirstOrder:
        """For ``nodes``, and for parts ``moved`` to another value each. Raises KeyError for a node or part that is not there."""
        inverse = np.asarray(np.linalg.inv(written.matrix()), dtype=np.float64)
        places = tuple(written.joints.row[node] for node in nodes)
        by_name = {element.name: element for element in elements}
        near = [Replaced(one.name, _towards(by_name[one.name], one.value)) for one in moved]
        return FirstOrder(
            written, elements, _rows(inverse, places), added_by(written, elements, near), places, inverse
        )

    def effects(self, changes: Sequence[One], unknowns: Array, only: Sequence[int] | None = None) -> Array:
        """Volts more at each node (a row) when each part (a column) is moved alone, with ``changes`` in the network and its ``unknowns``.

        ``only``: of some nodes, by their places among those it was made for.
        """
        rows = self.rows if only is None else self.rows[list(only)]
        if changes:
            added = added_by(self.written, self.elements, changes)
            down, along = added.down(len(unknowns)), added.along(len(unknowns))
            left_over = np.eye(down.shape[1]) + along.T @ self.inverse @ down
            if np.abs(np.linalg.det(left_over)) > LOST:
                rows = rows - (rows @ down) @ np.linalg.solve(left_over, along.T @ self.inverse)
            else:  # all but cut off: the correction has no digits
                places = self.nodes if only is None else [self.nodes[i] for i in only]
                asked = np.zeros((len(unknowns), len(places)))
                for column, place in enumerate(places):
                    if place >= 0:
                        asked[place, column] = 1.0
                changed = self.written.matrix() + down @ along.T
                rows = np.asarray(np.linalg.solve(changed.T, asked).T, dtype=np.float64)
        pushed = self.parts.pushed_by(rows)
        pulled = self.parts.pulled(unknowns[:, None], np.zeros(pushed.shape[1], dtype=np.intp))
        return np.asarray((rows @ self.parts.right - pushed * self.parts.gain * pulled) / STEP)


def _rows(inverse: Array, places: Sequence[int]) -> Array:
    return np.array([inverse[place] if place >= 0 else np.zeros(len(inverse)) for place in places])


def _towards(element: Element, value: float) -> float:
    """A small step from an element's value to another."""
    (name,) = (name for name in ("ohm", "volt", "ampere", "ratio") if hasattr(element, name))
    now = float(getattr(element, name))
    return now + STEP * (value - now)
