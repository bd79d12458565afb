"""The task of placing rows: a law sampled over a range, how much each sample counts, where rows may stand."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.scaling.table import look_up

__all__ = ["Row", "Task", "bend_of", "multiple", "to_step"]

Row = tuple[float, float]
_FEW = 800
Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Task:
    """Samples (``x`` rising, ``y`` the law there, ``weight`` of each, shape (n,)), the x of the end rows, steps, most rows.

    No row may read below ``least`` or above ``greatest``.
    """

    law: Callable[[Array], Array]
    x: Array
    y: Array
    weight: Array
    first_x: float
    last_x: float
    x_step: float
    y_step: float
    most: int
    least: float = -math.inf
    greatest: float = math.inf

    def error(self, rows: tuple[Row, ...]) -> float:
        """Greatest weighted error of a table over the range, at its own rows too."""
        own = np.array([x for x, _ in rows if self.x[0] < x < self.x[-1]])
        off = np.abs(look_up(rows, self.x) - self.y) * self.weight
        if not own.size:
            return float(off.max())
        at_rows = np.abs(look_up(rows, own) - self.at(own)) * np.interp(own, self.x, self.weight)
        return float(max(off.max(), at_rows.max()))

    def at(self, x: Array) -> Array:
        """The law between its samples: they stand close enough for straight lines."""
        return np.asarray(np.interp(x, self.x, self.y))

    def inside(self, y: float) -> float:
        """The nearest reading between least and greatest."""
        return float(min(max(y, self.least), self.greatest))

    def placed(self, y: float) -> float:
        """The nearest reading a row may have: a multiple of the step, between least and greatest."""
        y = self.inside(y)
        if not self.y_step:
            return y
        at = to_step(y, self.y_step)
        dust = 1e-9 * max(abs(at), self.y_step)
        if at > self.greatest + dust:
            return multiple(math.floor(y / self.y_step), self.y_step)
        if at < self.least - dust:
            return multiple(math.ceil(y / self.y_step), self.y_step)
        return at

    def bend(self) -> Array:
        """How much the law has bent up to each sample, rising, shape (n,): the integral of the root of its curvature.

        Rows of least greatest error share it evenly (de Boor, A Practical Guide to Splines, 1978).
        """
        # Over stretches of some samples: a law that is itself a table bends only at its points.
        few = np.unique(np.linspace(0, len(self.x) - 1, _FEW).round().astype(np.int64))
        return np.asarray(np.interp(self.x, self.x[few], bend_of(self.x[few], self.y[few], self.weight[few])))


def bend_of(x: Array, y: Array, weight: Array) -> Array:
    """See ``Task.bend``."""
    slope = np.diff(y) / np.diff(x)
    between = (x[2:] - x[:-2]) / 2
    root = np.sqrt(np.abs(np.diff(slope)) * between * weight[1:-1])
    return np.concatenate([[0.0], np.cumsum(root), [float(root.sum())]])


def to_step(value: float, step: float) -> float:
    """The nearest multiple of a step, as short a number as it is; the value itself for a step of 0.

    >>> to_step(2.37, 0.05), to_step(0.3, 0.1), to_step(7.0, 0.0)
    (2.35, 0.3, 7.0)
    """
    return multiple(round(value / step), step) if step else value


def multiple(count: int, step: float) -> float:
    """``count`` steps without the dust of binary fractions.

    >>> multiple(3, 0.1)
    0.3
    """
    return float(f"{count * step:.12g}")
