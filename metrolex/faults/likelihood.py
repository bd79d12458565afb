"""How well each suspect explains what was seen: Bayes' rule, with tolerances that move readings together and a chance of a misreading.

For one suspect the readings are jointly normal: the value predicted, every toleranced part off by something (uniform within its tolerance, taken as
normal with the same variance), its size anywhere up to the sizes beside, the meter's own error for each. They are taken one after the other, each as
expected after those before it; one that is far from expected may be a misreading and then tells nothing about the next. No suspect ever comes to
exactly nothing.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from metrolex.faults.predicted import Predicted
from metrolex.faults.probes import Probe
from metrolex.job import State
from metrolex.twin.expectations import LIVE_V

__all__ = ["Explained", "Seen", "explain"]

Array = NDArray[np.float64]

MISREAD = 0.01  # chance of a misreading (common practice, no source)
SPAN = {"volts": 15.0, "shown": 200.0, "ohms": 3000.0}  # over which a misreading may lie anywhere
LEAST_SIGMA = 1e-4


@dataclass(frozen=True, slots=True)
class Seen:
    """What was seen at a probe in a state: a number, or a word."""

    state: State
    probe: Probe
    value: float | str


@dataclass(slots=True)
class Explained:
    """How each of many suspects explains what was seen: the log chance of each reading (a row), and which of them fit it.

    The readings a suspect goes by from then on stand in ``moved``, with the triangle of their covariance (Cholesky) and how far each was off,
    made independent of those before it.
    """

    chances: Array
    fits: NDArray[np.bool_]
    moved: list[NDArray[np.floating]] = field(default_factory=list)
    kept: list[NDArray[np.bool_]] = field(default_factory=list)
    triangle: list[list[Array]] = field(default_factory=list)
    off: list[Array] = field(default_factory=list)

    @property
    def log_likelihood(self) -> Array:
        """Of all that was seen, for each suspect."""
        return np.asarray(self.chances.sum(axis=0))

    def expected(self, predicted: Predicted) -> tuple[Array, Array]:
        """Mean and variance of a further reading, given how far those before it were off; NaN for a suspect that shows no value."""
        mean, variance, _ = self._after(predicted)
        return mean, variance

    def some(self, which: NDArray[np.intp]) -> Explained:
        """The same of some of the suspects."""
        return Explained(
            self.chances[:, which],
            self.fits[:, which],
            [one[which] for one in self.moved],
            [one[which] for one in self.kept],
            [[one[which] for one in row] for row in self.triangle],
            [one[which] for one in self.off],
        )

    def _after(self, predicted: Predicted) -> tuple[Array, Array, list[Array]]:
        mean = predicted.value.copy()
        variance = np.einsum("np,np->n", predicted.moved, predicted.moved) / 3 + predicted.own
        row: list[Array] = []
        for k, (moved, kept) in enumerate(zip(self.moved, self.kept, strict=True)):
            shared = np.where(kept, np.einsum("np,np->n", predicted.moved, moved) / 3, 0.0)
            for j in range(k):
                shared = shared - row[j] * self.triangle[k][j]
            row.append(np.where(kept, shared / self.triangle[k][k], 0.0))
            mean += row[k] * self.off[k]
            variance = variance - row[k] ** 2
        return mean, np.maximum(variance, predicted.own) + LEAST_SIGMA**2, row

    def add(self, predicted: Predicted, one: Seen, *, struck: bool) -> None:
        """Take one reading more; ``struck``: as a misreading, whoever is to blame."""
        if isinstance(one.value, str):
            good = np.zeros(len(predicted), dtype=bool) if struck else _say(predicted, one.value)
            self._note(np.where(good, math.log(1 - MISREAD), math.log(MISREAD)), good)
            return
        by_chance = MISREAD * predicted.step / SPAN[one.probe.kind]
        mean, variance, row = self._after(predicted)
        there = ~np.isnan(predicted.value) & (not struck)
        chance = (1 - MISREAD) * np.where(there, _within_step(predicted, one.value, mean, variance), 0.0)
        self._note(np.log(chance + by_chance), chance > by_chance)
        # At its end a face may have meant anything beyond: it tells the next reading nothing.
        kept = (chance > by_chance) & (predicted.low < one.value < predicted.high)
        deep = np.where(kept, np.sqrt(variance), 1.0)
        self.moved.append(predicted.moved)
        self.kept.append(kept)
        self.triangle.append([*(np.where(kept, part, 0.0) for part in row), deep])
        self.off.append(np.where(kept, one.value - np.where(there, mean, 0.0), 0.0) / deep)

    def _note(self, chance: Array, fits: NDArray[np.bool_]) -> None:
        self.chances, self.fits = np.vstack([self.chances, chance]), np.vstack([self.fits, fits])


def _within_step(predicted: Predicted, value: float, mean: Array, variance: Array) -> Array:
    """Chance of a reading of this value, a step wide; at its ends whatever lies beyond."""
    from scipy.special import ndtr  # heavy to load

    low = -math.inf if value <= predicted.low else value - predicted.step / 2
    high = math.inf if value >= predicted.high else value + predicted.step / 2
    sigma = np.sqrt(variance)
    above, below = (low - mean) / sigma, (high - mean) / sigma
    # Far above the mean the difference is taken on the other side, where it has digits.
    return np.asarray(np.where(above > 0, ndtr(-above) - ndtr(-below), ndtr(below) - ndtr(above)))


def explain(
    predicted: Sequence[Predicted], seen: Sequence[Seen], count: int, struck: Collection[int] = ()
) -> Explained:
    """Hold what was seen against what ``count`` suspects predict for it; the readings at the places ``struck`` are taken for misreadings."""
    found = Explained(np.zeros((0, count)), np.zeros((0, count), dtype=bool))
    for i, (one, reading) in enumerate(zip(predicted, seen, strict=True)):
        found.add(one, reading, struck=i in struck)
    return found


def _say(predicted: Predicted, word: str) -> NDArray[np.bool_]:
    """Of which a word is what is predicted; 'live' and 'dead' of a test lamp stand for volts."""
    if word in ("live", "dead"):
        with np.errstate(invalid="ignore"):
            lit = predicted.value >= LIVE_V
        return np.asarray(lit == (word == "live"))
    return np.array([word in words for words in predicted.shows.words], dtype=bool)[predicted.shows.word]
