"""The best continuous line of N - 1 straight pieces along a law: least greatest error, rows free in x and y.

For a bound on the error the law becomes a tunnel; the fewest straight pieces through it are found greedily, each as far as
it goes (Suri, 'A linear time algorithm for minimum link paths inside a simple polygon', 1986; Imai and Iri, 'Optimum uniform
piecewise linear approximation of planar curves', 1986), each piece by two supporting lines kept up to date (O'Rourke, 'An on-line
algorithm for fitting straight lines between data ranges', 1981). The bound itself is narrowed down by halves.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.scaling.settle import settled
from metrolex.scaling.table import look_up
from metrolex.scaling.task import Row, Task

__all__ = ["free_rows"]

Array = NDArray[np.float64]
Line = tuple[float, float, float]  # x, y, slope
_THINNED = 160
_CLOSE = 2e-3
_ROUNDS = 12
_TURNS = 12
_GOOD = 0.993  # of the error found: nothing below this, and it is good enough
_ABOUT = np.array([-0.7, -0.3, -0.1, 0.0, 0.1, 0.3, 0.7])


def free_rows(task: Task) -> tuple[Row, ...]:
    """At most ``task.most`` rows whose greatest error is within 0.7 % of the least there is (over the task's samples).

    Works on few samples and takes in those where the answer fails until none fails by more: the bound of few samples
    is never above that of all.
    """
    bend = task.bend()
    best = _balanced(task, _spread(task, bend))
    error, low = task.error(best), 0.0
    nothing = 1e-12 * max(float(np.abs(task.y).max()), 1e-12)
    xs = np.unique(np.concatenate([_thinned(task.x, bend), _worst(task, task.x, best)]))
    for _ in range(_ROUNDS):
        tube = _Tube(xs, task.at(xs), np.interp(xs, task.x, task.weight), task.most)
        if error <= nothing or tube.path(error * _GOOD) is None:
            break
        low, high = _narrowed(tube, low, error * _GOOD, max(low * 1.002, error * 0.97))
        rows = tube.path(high)
        assert rows is not None  # the bound was passed a moment ago
        better = _balanced(task, rows)
        now = task.error(better)
        if now < error:
            best, error = better, now
        xs = np.unique(np.concatenate([xs, _worst(task, xs, rows), _worst(task, xs, better)]))
    return best


def _spread(task: Task, bend: Array) -> tuple[Row, ...]:
    """Rows on the law with as much bending between them: nearly the best where the law is smooth."""
    xs = np.interp(np.linspace(0, bend[-1], task.most), bend, task.x) if bend[-1] > 0 else task.x[[0, -1]]
    xs = np.unique(np.concatenate([task.x[:1], xs[1:-1], task.x[-1:]]))
    return tuple((float(x), float(y)) for x, y in zip(xs, task.at(xs), strict=True))


def _balanced(task: Task, rows: tuple[Row, ...]) -> tuple[Row, ...]:
    """Rows moved until the chords between them are about equally far off the law, then settled; never worse than ``rows``."""
    knots = np.array([x for x, _ in rows])
    for _ in range(_TURNS):
        starts = np.searchsorted(task.x, knots[:-1])
        if (np.diff([*starts, len(task.x)]) < 3).any():
            break
        off = np.abs(np.interp(task.x, knots, task.at(knots)) - task.y) * task.weight
        each = np.maximum.reduceat(off, starts)
        if each.min() >= 0.999 * each.max():  # a straight law is nowhere off
            break
        lengths = np.diff(knots) * np.maximum(each, 0.2 * each.max()) ** -0.5
        moved = knots[0] + np.cumsum(lengths) * (knots[-1] - knots[0]) / lengths.sum()
        knots = np.concatenate([knots[:1], moved[:-1], knots[-1:]])
    on_the_law = tuple((float(x), float(y)) for x, y in zip(knots, task.at(knots), strict=True))
    return min(settled(task, on_the_law), settled(task, rows), key=task.error)


def _thinned(x: Array, bend: Array) -> Array:
    """x spread by how much the law bends between them, and some evenly."""
    by_bend = np.searchsorted(bend, np.linspace(0, bend[-1], _THINNED))
    even = np.linspace(0, len(x) - 1, 100).round().astype(np.int64)
    return np.asarray(x[np.unique(np.concatenate([np.clip(by_bend, 0, len(x) - 1), even]))])


def _worst(task: Task, xs: Array, rows: tuple[Row, ...]) -> Array:
    """x at which a table's error peaks, and some close about its own rows: between samples its corners stand out."""
    off = np.abs(look_up(rows, task.x) - task.y) * task.weight
    peaks = np.flatnonzero((off[1:-1] >= off[:-2]) & (off[1:-1] >= off[2:])) + 1
    own = np.array([x for x, _ in rows[1:-1]])
    at = np.clip(np.searchsorted(xs, own), 1, len(xs) - 1)
    about = (own[:, None] + (xs[at] - xs[at - 1])[:, None] * _ABOUT).ravel()
    return np.concatenate([task.x[peaks], about[(about > xs[0]) & (about < xs[-1])]])


@dataclass(frozen=True, slots=True)
class _Tube:
    """A law at some x, how much each counts, and how many rows there may be."""

    x: Array
    y: Array
    weight: Array
    most: int

    def path(self, bound: float) -> tuple[Row, ...] | None:
        """A line of at most N - 1 pieces within ``bound`` of the law; None where there is none.

        A piece leaves the one before it between that one's last touch of one wall and its running into the other: it
        need keep off the one wall from that touch on, off the other only beyond the end of the piece before.
        """
        half = bound / self.weight
        xs, ceiling, floor = self.x.tolist(), (self.y + half).tolist(), (self.y - half).tolist()
        lines: list[Line] = []
        floor_from = ceiling_from = 0
        for _ in range(self.most - 1):
            line, reach, floor_from, ceiling_from = _longest(xs, ceiling, floor, floor_from, ceiling_from)
            lines.append(line)
            if reach == len(xs) - 1:
                return _meeting(lines, xs[0], xs[-1])
        return None


def _narrowed(tube: _Tube, low: float, high: float, guess: float) -> tuple[float, float]:
    """The least bound between ``low`` (not passed) and ``high`` (passed) that a path passes, sought from a guess on."""
    stride = 1.03
    while low < guess < high:
        if tube.path(guess) is None:
            low, guess = guess, guess * stride
        else:
            high, guess = guess, guess / stride
        stride = min(stride**2, 8.0)
        if low > 0 and high / low < 1.2:
            break
    while high - low > _CLOSE * high and high > 1e-300:
        middle = high / 8 if low == 0 else (low + high) / 2
        if tube.path(middle) is None:
            low = middle
        else:
            high = middle
    return low, high


class _Hull:
    """The convex side of one wall, and the point on it that a supporting line touches (it only moves on)."""

    __slots__ = ("at", "points", "side", "xs", "ys")

    def __init__(self, xs: list[float], ys: list[float], side: int) -> None:
        self.xs, self.ys, self.side = (
            xs,
            ys,
            side,
        )  # side 1: the ceiling's lower hull; -1: the floor's upper hull
        self.points: list[int] = []
        self.at = 0

    def add(self, i: int) -> None:
        xs, ys, points = self.xs, self.ys, self.points
        while len(points) - self.at >= 2:
            a, b = points[-2], points[-1]
            turn = (xs[b] - xs[a]) * (ys[i] - ys[a]) - (ys[b] - ys[a]) * (xs[i] - xs[a])
            if turn * self.side > 0:
                break
            points.pop()
        points.append(i)

    def touch(self, x: float, y: float) -> int:
        """The point where a line through (x, y), right of all, supports the hull."""
        xs, ys, points = self.xs, self.ys, self.points
        slope = (y - ys[points[self.at]]) / (x - xs[points[self.at]])
        while self.at + 1 < len(points):
            k = points[self.at + 1]
            here = (y - ys[k]) / (x - xs[k])
            if (here - slope) * self.side < 0:
                break
            slope = here
            self.at += 1
        return points[self.at]


def _longest(
    xs: list[float], ceiling: list[float], floor: list[float], floor_from: int, ceiling_from: int
) -> tuple[Line, int, int, int]:
    """The straight line that keeps between the walls furthest.

    Answers the line, the last sample it passes, and from which sample on floor and ceiling count for the next piece.
    """
    top, bottom = _Hull(xs, ceiling, 1), _Hull(xs, floor, -1)
    steep: Line | None = None  # from a point of the floor up to a later one of the ceiling
    flat: Line | None = None  # from a point of the ceiling down to a later one of the floor
    steep_touch = flat_touch = 0
    for i in range(min(floor_from, ceiling_from), len(xs)):
        x = xs[i]
        if i >= ceiling_from and flat is not None and flat[1] + flat[2] * (x - flat[0]) > ceiling[i]:
            return flat, i - 1, flat_touch, i
        if i >= floor_from and steep is not None and steep[1] + steep[2] * (x - steep[0]) < floor[i]:
            return steep, i - 1, i, steep_touch
        if (
            i >= ceiling_from
            and bottom.points
            and (steep is None or steep[1] + steep[2] * (x - steep[0]) > ceiling[i])
        ):
            a = bottom.touch(x, ceiling[i])
            steep, steep_touch = (xs[a], floor[a], (ceiling[i] - floor[a]) / (x - xs[a])), i
        if i >= floor_from and top.points and (flat is None or flat[1] + flat[2] * (x - flat[0]) < floor[i]):
            a = top.touch(x, floor[i])
            flat, flat_touch = (xs[a], ceiling[a], (floor[i] - ceiling[a]) / (x - xs[a])), i
        if i >= ceiling_from:
            top.add(i)
        if i >= floor_from:
            bottom.add(i)
    return _between(steep, flat, xs[-1], (ceiling[-1] + floor[-1]) / 2), len(xs) - 1, len(xs), len(xs)


def _between(steep: Line | None, flat: Line | None, x: float, middle: float) -> Line:
    """A line half way between the two extremes, at ``x``."""
    one, other = steep or flat, flat or steep
    if one is None or other is None:
        return x, middle, 0.0
    return x, sum(y + s * (x - x0) for x0, y, s in (one, other)) / 2, (one[2] + other[2]) / 2


def _meeting(lines: list[Line], first: float, last: float) -> tuple[Row, ...]:
    """The ends of the range and where the pieces meet; pieces of one direction are one."""
    x0, y0, slope = lines[0]
    rows = [(first, y0 + slope * (first - x0))]
    for (x1, y1, s1), (x2, y2, s2) in itertools.pairwise(lines):
        if s1 == s2:
            continue
        x = (y2 - s2 * x2 - y1 + s1 * x1) / (s1 - s2)
        if rows[-1][0] < x < last:
            rows.append((x, y1 + s1 * (x - x1)))
    x0, y0, slope = lines[-1]
    rows.append((last, y0 + slope * (last - x0)))
    return tuple(rows)
