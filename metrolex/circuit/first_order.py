"""How the volts of nodes follow the values of parts, to first order, in a network and in many small changes of it.

The adjoint way (Director and Rohrer, 'The generalized adjoint network and network sensitivities', IEEE Transactions on Circuit Theory
CT-16, 1969): one solution of the transposed equations for each node asked for serves every part. What changes in the network is a correction
of the rank of the change (Woodbury).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
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
    elements: Mapping[Name, Element]
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
            written, by_name, _rows(inverse, places), added_by(written, by_name, near), places, inverse
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
        return self._moved(rows @ self.parts.right, self.parts.pushed_by(rows), unknowns[:, None])

    def effects_of_each(self, changes: Sequence[One], unknowns: Array, only: Sequence[int]) -> Array:
        """The same for each of ``changes`` alone, its unknowns a column of ``unknowns``: changes by nodes by parts."""
        rows, added = self.rows[list(only)], added_by(self.written, self.elements, changes)
        places, which = np.unique(np.hstack([added.push, added.pull]), axis=0, return_inverse=True)
        which = which.reshape(-1)
        wide = np.vstack(
            [self.inverse, np.zeros((1, len(self.inverse)))]
        )  # the last row is battery negative's
        along = wide[places[:, 2]] - wide[places[:, 3]]
        reach = added.pushed_by(np.vstack([rows, along]))  # of the nodes, then of what each change sees
        left_over = 1 + added.gain * added.weight * reach[len(rows) + which, np.arange(len(which))]
        kept = np.abs(left_over) > LOST
        share = added.gain * added.weight * reach[: len(rows)] / np.where(kept, left_over, 1.0)
        pushed, right = (
            self.parts.pushed_by(np.vstack([rows, along])),
            np.vstack([rows, along]) @ self.parts.right,
        )
        found = np.empty((len(which), len(rows), pushed.shape[1]))
        for i in range(len(rows)):
            seen = self._moved(
                right[i] - share[i][:, None] * right[len(rows) + which],
                pushed[i] - share[i][:, None] * pushed[len(rows) + which],
                unknowns,
            )
            found[:, i] = seen
        for i in np.flatnonzero(~kept).tolist():
            found[i] = self.effects((changes[i],), unknowns[:, i], only)
        return found

    def _moved(self, right: Array, pushed: Array, unknowns: Array) -> Array:
        """From what rows of an inverse make of the parts, with one column of unknowns for all of them or one for each."""
        first, second = (
            np.where(place[:, None] < 0, 0.0, unknowns[place])
            for place in (self.parts.pull[:, 0], self.parts.pull[:, 1])
        )
        pulled = self.parts.weight * (first - second).T  # a row for each column
        return np.asarray((right - pushed * self.parts.gain * pulled) / STEP)


def _rows(inverse: Array, places: Sequence[int]) -> Array:
    return np.array([inverse[place] if place >= 0 else np.zeros(len(inverse)) for place in places])


def _towards(element: Element, value: float) -> float:
    """A small step from an element's value to another."""
    (name,) = (name for name in ("ohm", "volt", "ampere", "ratio") if hasattr(element, name))
    now = float(getattr(element, name))
    return now + STEP * (value - now)
