"""The readings of rows whose x are given, with the least greatest error: linear programming."""

from __future__ import annotations

import numpy as np

from metrolex.scaling.task import Row, Task

__all__ = ["settled"]

_SAMPLES = 300


def settled(task: Task, rows: tuple[Row, ...]) -> tuple[Row, ...]:
    """Rows at the same x whose y make the greatest error least, over samples spread by the law's bending and at the rows."""
    from scipy.optimize import linprog  # heavy to load, and seldom needed

    knots = np.array([x for x, _ in rows])
    bend = task.bend()
    at = np.searchsorted(bend, np.linspace(0, bend[-1], _SAMPLES))
    xs = np.unique(
        np.concatenate(
            [
                task.x[np.clip(at, 0, len(task.x) - 1)],
                task.x[:: max(len(task.x) // 80, 1)],
                np.clip(knots, task.x[0], task.x[-1]),
            ]
        )
    )
    held = np.clip(xs, knots[0], knots[-1])
    share = np.column_stack([np.interp(held, knots, row) for row in np.eye(len(knots))])
    slack = -1 / np.interp(xs, task.x, task.weight)[:, None]
    upper = np.vstack([np.hstack([share, slack]), np.hstack([-share, slack])])
    y = task.at(xs)
    # In the table's own size: the solver's tolerance is absolute.
    size = max(task.error(rows), 1e-300)
    middle = np.interp(held, knots, [y for _, y in rows])
    limits = np.concatenate([y - middle, middle - y]) / size
    room = [((task.least - y) / size, (task.greatest - y) / size) for _, y in rows]
    answer = linprog([0.0] * len(knots) + [1.0], upper, limits, bounds=[*room, (0, None)], method="highs")
    if answer.x is None:
        return rows
    better = tuple(
        (x, task.inside(y + size * move)) for (x, y), move in zip(rows, answer.x[:-1], strict=True)
    )
    return better if task.error(better) < task.error(rows) else rows
