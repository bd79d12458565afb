"""The unknowns of one network in many answers at once: a row for each unknown, a column for each answer."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["Answers", "Pushed", "Worked"]

Array = NDArray[np.float64]


class Answers(ABC):
    """Asked for by unknown, by answer, or all of them."""

    @abstractmethod
    def __len__(self) -> int:
        """How many answers."""

    @abstractmethod
    def of(self, place: int) -> Array:
        """One unknown, a number for each answer."""

    @abstractmethod
    def column(self, i: int) -> Array:
        """One answer, a number for each unknown."""

    @abstractmethod
    def whole(self) -> Array:
        """All of them."""


@dataclass(frozen=True, slots=True)
class Worked(Answers):
    """All numbers written out."""

    numbers: Array

    def __len__(self) -> int:
        return len(self.numbers.T)

    def of(self, place: int) -> Array:
        return np.asarray(self.numbers[place])

    def column(self, i: int) -> Array:
        return np.asarray(self.numbers[:, i])

    def whole(self) -> Array:
        return self.numbers


@dataclass(frozen=True, slots=True)
class Pushed(Answers):
    """Each is ``start`` less ``share`` times the column ``which`` of ``reach``; those ``anew`` have columns of their own.

    A job at its limits has thousands of parts to move and a few hundred places where it is read: what is not asked for is never written out.
    """

    start: Array
    reach: Array
    which: NDArray[np.intp]
    share: Array
    anew: NDArray[np.intp]
    own: Array

    def __len__(self) -> int:
        return len(self.which)

    def of(self, place: int) -> Array:
        found = np.asarray(self.start[place] - self.reach[place, self.which] * self.share)
        found[self.anew] = self.own[place]
        return found

    def column(self, i: int) -> Array:
        own = np.flatnonzero(self.anew == i)
        if len(own):
            return np.asarray(self.own[:, own[0]])
        return np.asarray(self.start - self.reach[:, self.which[i]] * self.share[i])

    def whole(self) -> Array:
        found = self.start[:, None] - self.reach[:, self.which] * self.share
        found[:, self.anew] = self.own
        return np.asarray(found)
