"""A DC network solved, with one 1 Gohm tie for each floating node.

Dense LU with one step of iterative refinement: networks of a job have about a hundred nodes, and conductances
from a broken wire (1 nS) to a joint (1 kS) stand side by side.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit.answers import Answers, Worked
from metrolex.circuit.elements import Element, Name
from metrolex.circuit.equations import GROUND, Equations, Factors, Joints, equations
from metrolex.errors import CircuitError

__all__ = ["Column", "Rows", "Solution", "Solutions", "solve"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Solution:
    """Volts to battery negative of every node (None where it floats) and amperes of every element.

    ``potentials`` holds the numbers behind ``nodes``, floating ones tied by 1 Gohm; ``written`` the equations they answer,
    for the small changes of the same network.
    """

    potentials: Mapping[Name, float]
    floating: frozenset[Name]
    currents: dict[Name, float]
    written: Equations | None = field(default=None, compare=False, repr=False)

    @property
    def nodes(self) -> dict[Name, float | None]:
        """Volts by node name, None for a node that nothing holds."""
        return {name: None if name in self.floating else volt for name, volt in self.potentials.items()}

    def across(self, a: Name, b: Name) -> float:
        """Volts from ``b`` up to ``a``."""
        return self.potentials[a] - self.potentials[b]

    def alone(self) -> Solutions:
        """This one as the only one of its kind."""
        answers = np.array([[volt] for volt in self.potentials.values()])
        return Solutions({name: i for i, name in enumerate(self.potentials)}, self.floating, Worked(answers))


class Column(Mapping[Name, float]):
    """Volts by node, read straight from one answer; ``row`` gives a node's place, -1 for battery negative."""

    __slots__ = ("_column", "_row")

    def __init__(self, row: Mapping[Name, int], column: NDArray[np.float64]) -> None:
        self._row, self._column = row, column

    @property
    def whole(self) -> Array:
        """All unknowns: the volts of the nodes, then the amperes of the sources."""
        return self._column

    def __getitem__(self, name: Name) -> float:
        place = self._row[name]
        return float(self._column[place]) if place >= 0 else 0.0

    def __iter__(self) -> Iterator[Name]:
        return iter(self._row)

    def __len__(self) -> int:
        return len(self._row)


class Rows(Mapping[Name, Array]):
    """Volts by node in many answers at once: an array with one number for each."""

    __slots__ = ("_answers", "_row")

    def __init__(self, row: Mapping[Name, int], answers: Answers) -> None:
        self._row, self._answers = row, answers

    def __getitem__(self, name: Name) -> Array:
        place = self._row[name]
        return self._answers.of(place) if place >= 0 else np.zeros(len(self._answers))

    def __iter__(self) -> Iterator[Name]:
        return iter(self._row)

    def __len__(self) -> int:
        return len(self._row)


class Solutions:
    """One network solved many times with small changes: each a Solution without currents, or all of them by node."""

    def __init__(self, row: Mapping[Name, int], floating: frozenset[Name], answers: Answers) -> None:
        self.potentials = Rows(row, answers)
        self.floating = floating
        self._row, self.answers = row, answers

    def across(self, a: Name, b: Name) -> Array:
        """Volts from ``b`` up to ``a`` in each."""
        return self.potentials[a] - self.potentials[b]

    def some(self, which: Sequence[int]) -> Solutions:
        """Some of them, in the order asked for."""
        return Solutions(self._row, self.floating, Worked(self.answers.whole()[:, list(which)]))

    def __len__(self) -> int:
        return len(self.answers)

    def __iter__(self) -> Iterator[Solution]:
        return (self[i] for i in range(len(self)))

    def __getitem__(self, i: int) -> Solution:
        return Solution(Column(self._row, self.answers.column(i)), self.floating, {})


def solve(elements: Sequence[Element], joints: Joints | None = None) -> Solution:
    """Solve a network; ``joints`` are those of the same elements, if they are known.

    Raises CircuitError, in words, when sources form a loop without resistance, when a current source has
    no way back, or when nothing is joined to battery negative.
    """
    if not elements:
        return Solution({GROUND: 0.0}, frozenset(), {})
    written = equations(elements, joints)
    joints = written.joints
    answer = [*_refined(written).tolist(), 0.0]  # battery negative's place is the last
    volts = dict(zip(joints.row, (answer[place] for place in joints.row.values()), strict=True))
    currents = {
        e.name: (answer[a] - answer[b]) / e.ohm
        for e, (a, b) in zip(joints.resistors, joints.ends, strict=True)
    }
    currents |= {e.name: e.ampere for e in joints.currents}
    sources = answer[len(joints.row) - 1 : -1]
    currents |= {e.name: ampere for e, ampere in zip(joints.branches, sources, strict=True)}
    return Solution(volts, joints.floating, currents, written)


def _refined(written: Equations) -> Array:
    factors = Factors.of(written)
    answer = factors.solve(written.right)
    answer = answer + factors.solve(written.right - factors.times(answer))
    if not np.isfinite(answer).all():
        raise CircuitError(
            "The network has no single answer: two of its sources ask for different volts at one point."
        )
    return answer
