"""What some cases show at one probe, and what moves it: an entry for each."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

__all__ = ["Predicted", "Shows", "Steps", "predicted_together", "shown_together"]

Array = NDArray[np.float64]
Steps = tuple[float, float, float]  # the step a reading comes in, its least, its greatest
Places = list[int]


@dataclass(frozen=True, slots=True)
class Shows:
    """A value each (NaN for none), and by ``word`` the place in ``words`` of all that may be said of it.

    A face that stands at its end because its sender is shorted is 'short' and 'high' to who looks at it. Where there is no value the first is its own word.
    """

    value: Array
    word: NDArray[np.intp]
    words: tuple[tuple[str, ...], ...]

    def __len__(self) -> int:
        return len(self.value)

    def some(self, which: NDArray[np.intp]) -> Shows:
        """The same of some of the cases."""
        return Shows(self.value[which], self.word[which], self.words)

    def said(self, i: int) -> str:
        """The word of one that shows no value; '' for one that does."""
        return next(iter(self.words[self.word[i]]), "") if math.isnan(self.value[i]) else ""

    def own_words(self) -> NDArray[np.intp]:
        """A number for each word that stands in place of a value, the same for the same word."""
        numbers: dict[str, int] = {}
        of = [numbers.setdefault(next(iter(one), ""), len(numbers)) for one in self.words]
        return np.array(of, dtype=np.intp)[self.word]


@dataclass(frozen=True, slots=True)
class Predicted:
    """``shows``, and by how much each toleranced part off by its whole tolerance moves the value (``moved``, a row each; the last column is half the
    way to the sizes beside); ``own`` its own error squared. Readings come in steps of ``step`` from ``low`` to ``high``: whatever lies beyond reads as these.
    """

    shows: Shows
    moved: NDArray[np.floating]
    own: Array
    step: float = 0.01
    low: float = -math.inf
    high: float = math.inf

    def __len__(self) -> int:
        return len(self.shows)

    @property
    def value(self) -> Array:
        """The values shown, NaN for none."""
        return self.shows.value

    def some(self, which: NDArray[np.intp]) -> Predicted:
        """The same of some of the cases."""
        return replace(self, shows=self.shows.some(which), moved=self.moved[which], own=self.own[which])


def shown_together(count: int, parts: Iterable[tuple[Places, Shows]]) -> Shows:
    """What ``count`` cases show, told in parts: the places of each part's among them."""
    value, word, words = np.full(count, np.nan), np.zeros(count, dtype=np.intp), list[tuple[str, ...]]()
    for here, one in parts:
        value[here], word[here] = one.value, one.word + len(words)
        words += one.words
    return Shows(value, word, tuple(words))


def predicted_together(
    count: int, width: int, parts: Iterable[tuple[Places, Predicted]], steps: Steps
) -> Predicted:
    """The same of predictions with ``width`` columns of what moves them."""
    listed = list(parts)
    moved, own = np.zeros((count, width), dtype=np.float32), np.zeros(count)
    for here, one in listed:
        moved[here], own[here] = one.moved, one.own
    return Predicted(shown_together(count, ((here, one.shows) for here, one in listed)), moved, own, *steps)
