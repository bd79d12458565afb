"""Rows on the multiples a display takes, with the least greatest error.

Dynamic programming over the multiples: for a bound on the error, which rows can be reached with how few pieces. From a row
the straight lines within the bound are a cone that narrows with every sample. Where only x has a step the readings are
settled at the end by linear programming.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.scaling.settle import settled
from metrolex.scaling.task import Row, Task, multiple, to_step

__all__ = ["rows_on_grid"]

Array = NDArray[np.float64]
_CANDIDATES = 260
_SAMPLES = 520
_ACROSS = 8  # places across half the bound where y has no step
_MOST_ACROSS = (
    128  # places across the whole of it where y has one: of finer steps only every so many are tried
)
_MOST_CROSSINGS = 160
_ROUNDS = 12


@dataclass(frozen=True, slots=True)
class _Field:
    """Where rows may stand for one bound: x of the columns, lowest y in each and step of y (shape (columns,) and one)."""

    x: Array
    base: Array
    step: float
    height: int


def rows_on_grid(task: Task, free: tuple[Row, ...], equal: tuple[Row, ...]) -> tuple[Row, ...]:
    """The best rows whose x and y are multiples of the task's steps; ``free`` are the best without steps."""
    columns = _columns(task, free)
    samples = _samples(task, columns)
    best = min((_rounded(task, free), equal), key=task.error)
    low, high = task.error(free) * 0.999, task.error(best)
    for _ in range(_ROUNDS):
        if high - low <= 2e-3 * high:
            break
        bound = (low + high) / 2
        found = _reach(task, columns, samples, bound)
        if found is None:
            low = bound
            continue
        if not task.y_step:
            found = settled(task, found)
        error = task.error(found)
        if error < high:
            best, high = found, error
        else:
            high = bound
    return best


def _rounded(task: Task, rows: tuple[Row, ...]) -> tuple[Row, ...]:
    kept = {task.first_x: rows[0][1]}
    for x, y in rows[1:-1]:
        at = to_step(x, task.x_step)
        if task.first_x < at < task.last_x:
            kept[at] = y
    kept[task.last_x] = rows[-1][1]
    return tuple((x, task.placed(y)) for x, y in sorted(kept.items()))


def _columns(task: Task, free: tuple[Row, ...]) -> Array:
    """x at which rows may stand: all multiples, or where there are too many, evenly thinned and close about the free rows."""
    step = task.x_step
    if step:
        count = round((task.last_x - task.first_x) / step)
        steps = np.unique(np.linspace(0, count, min(count + 1, _CANDIDATES)).round().astype(int))
        if count >= _CANDIDATES:
            near = [round((x - task.first_x) / step) + k for x, _ in free for k in (-1, 0, 1)]
            steps = np.unique(np.concatenate([steps, [k for k in near if 0 <= k <= count]]))
        first = round(task.first_x / step)
        return np.array([multiple(first + int(k), step) for k in steps])
    own = [x for x, _ in free]
    if task.y_step:
        own += _crossings(task)
    even = np.linspace(task.first_x, task.last_x, max(_CANDIDATES - len(own), 64))
    return np.unique(np.concatenate([even, np.clip(own, task.first_x, task.last_x)]))


def _crossings(task: Task) -> list[float]:
    """x at which the law passes a multiple of the step of y: a row there is exact."""
    first, last = math.ceil(task.y.min() / task.y_step), math.floor(task.y.max() / task.y_step)
    levels = np.arange(first, last + 1, max((last - first) // _MOST_CROSSINGS, 1))
    if not (np.diff(task.y) > 0).all() and not (np.diff(task.y) < 0).all():
        return []
    levels = levels * task.y_step
    order = 1 if task.y[0] < task.y[-1] else -1
    return np.interp(levels, task.y[::order], task.x[::order]).tolist()  # type: ignore[no-any-return]


def _samples(task: Task, columns: Array) -> NDArray[np.int64]:
    even = np.linspace(0, len(task.x) - 1, min(_SAMPLES, len(task.x))).round().astype(np.int64)
    near = np.clip(np.searchsorted(task.x, columns), 0, len(task.x) - 1)
    return np.unique(np.concatenate([even, near]))


def _field(task: Task, columns: Array, bound: float) -> _Field:
    at = task.law(np.clip(columns, task.x[0], task.x[-1])) if not task.x_step else task.law(columns)
    room = bound / np.interp(columns, task.x, task.weight)
    if not task.y_step:
        return _Field(columns, at - room.max(), room.max() / _ACROSS, 2 * _ACROSS + 1)
    beyond = (columns < task.x[0]) | (columns > task.x[-1])
    room = np.where(beyond, room + 2 * task.y_step, room)
    step = task.y_step * max(math.ceil(2 * room.max() / task.y_step / _MOST_ACROSS), 1)
    base = np.ceil((at - room) / step - 1e-9) * step
    height = int(np.floor(2 * room.max() / step + 1e-9)) + 1
    return _Field(columns, base, step, height)


def _reach(task: Task, columns: Array, at: NDArray[np.int64], bound: float) -> tuple[Row, ...] | None:
    """A path over the field from its first column to its last with at most N - 1 pieces within the bound."""
    field = _field(task, columns, bound)
    xs, half = task.x[at], bound / task.weight[at] * (1 + 1e-9)
    ceiling, floor = task.y[at] + half, task.y[at] - half
    count, height = len(columns), field.height
    parent = np.full((count, height), -1, dtype=np.int64)
    seen = np.zeros((count, height), dtype=bool)
    levels = field.base[:, None] + field.step * np.arange(height)
    allowed = (levels >= task.least - 1e-9 * task.y_step) & (levels <= task.greatest + 1e-9 * task.y_step)
    ends = [_held(xs, ceiling, floor, columns[k], levels[k], side) for k, side in ((0, -1), (-1, 1))]
    seen[0] = ends[0] & allowed[0]
    front = seen.copy()
    # The last sample at or before each column, so that a cone is read off there.
    before = np.searchsorted(xs, columns, side="right") - 1
    walls = _Walls(xs, ceiling, floor, field, before, max(3 * len(xs) // task.most, 8))
    for _ in range(task.most - 1):
        found = np.zeros_like(seen)
        for j in np.flatnonzero(front[:-1].any(axis=1)).tolist():
            rows = np.flatnonzero(front[j])
            for q, reached in zip(rows.tolist(), walls.cones(j, levels[j, rows]), strict=True):
                begin, cells = reached
                fresh = cells & allowed[begin : begin + len(cells)] & ~seen[begin : begin + len(cells)]
                seen[begin : begin + len(cells)] |= fresh
                found[begin : begin + len(cells)] |= fresh
                parent[begin : begin + len(cells)][fresh] = j * height + q
        done = np.flatnonzero(seen[-1] & ends[1])
        if done.size:
            return _traced(columns, levels, parent, int(done[len(done) // 2]), task.y_step)
        if not found.any():
            return None
        front = found
    return None


def _held(xs: Array, ceiling: Array, floor: Array, x: float, levels: Array, side: int) -> NDArray[np.bool_]:
    """Which end rows may be held over the samples beyond them."""
    beyond = xs < x if side < 0 else xs > x
    if not beyond.any():
        return np.ones(len(levels), dtype=bool)
    return np.asarray((levels <= ceiling[beyond].min()) & (levels >= floor[beyond].max()))


@dataclass(frozen=True, slots=True)
class _Walls:
    """The tube about the law at its samples, and the field of rows it stands over; ``window`` samples are looked at first."""

    xs: Array
    ceiling: Array
    floor: Array
    field: _Field
    before: NDArray[np.int64]
    window: int

    def cones(self, j: int, ys: Array) -> list[tuple[int, NDArray[np.bool_]]]:
        """For each y at column ``j``: the first column and which rows of the columns from there a straight line reaches."""
        here = self.before[j]
        x = self.field.x[j]
        start = int(np.searchsorted(self.xs, x, side="right"))
        stop = min(start + self.window, len(self.xs))
        high, low = self._slopes(x, ys, start, stop)
        while stop < len(self.xs) and (low[:, -1] <= high[:, -1]).any():
            stop = min(start + 3 * (stop - start), len(self.xs))
            high, low = self._slopes(x, ys, start, stop)
        inside = np.ones(len(ys), dtype=bool)
        if here >= 0 and self.xs[here] == x:
            inside = (ys >= self.floor[here]) & (ys <= self.ceiling[here])
        last_column = (
            int(np.searchsorted(self.field.x, self.xs[stop - 1], side="right")) if stop > start else j + 1
        )
        if stop == len(self.xs):
            last_column = len(self.field.x)
        columns = np.arange(j + 1, max(last_column, j + 2))
        columns = columns[columns < len(self.field.x)]
        at = self.before[columns] - start
        run = self.field.x[columns] - x
        # A column before the next sample has no wall of its own: any row of its field will do.
        free = at < 0
        at = np.clip(at, 0, max(high.shape[1] - 1, 0))
        if high.shape[1]:
            upper = np.where(free, np.inf, high[:, at] * run + ys[:, None])
            lower = np.where(free, -np.inf, low[:, at] * run + ys[:, None])
        else:
            upper = np.full((len(ys), len(columns)), np.inf)
            lower = -upper
        base, step, height = self.field.base[columns], self.field.step, self.field.height
        first = np.ceil(np.clip((lower - base) / step - 1e-7, 0, height + 1))
        final = np.floor(np.clip((upper - base) / step + 1e-7, -2, height - 1))
        final = np.where((lower <= upper) & inside[:, None], final, -2)
        rung = np.arange(height)
        cells = (rung >= first[:, :, None]) & (rung <= final[:, :, None])
        return [(j + 1, reached) for reached in cells]

    def _slopes(self, x: float, ys: Array, start: int, stop: int) -> tuple[Array, Array]:
        """Highest and lowest slope a line from (x, y) may have to keep within the tube up to each sample."""
        run = self.xs[start:stop] - x
        high = np.minimum.accumulate((self.ceiling[start:stop] - ys[:, None]) / run, axis=1)
        low = np.maximum.accumulate((self.floor[start:stop] - ys[:, None]) / run, axis=1)
        return high, low


def _traced(
    columns: Array, levels: Array, parent: NDArray[np.int64], last: int, y_step: float
) -> tuple[Row, ...]:
    height = levels.shape[1]
    place = (len(columns) - 1) * height + last
    rows = []
    while place >= 0:
        j, q = divmod(place, height)
        rows.append((float(columns[j]), to_step(float(levels[j, q]), y_step)))
        place = int(parent[j, q])
    return tuple(reversed(rows))
