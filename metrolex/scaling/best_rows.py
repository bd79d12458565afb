"""Where the rows of a display's table should stand so that the greatest error over the range is least.

The table is read by straight lines between rows, so the task is the best continuous line of N - 1 pieces (``tunnel``). Where
the display takes only multiples of a step, rows are chosen among those multiples (``grid_rows``).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.errors import BadInput
from metrolex.limits import limit
from metrolex.scaling.grid_rows import rows_on_grid
from metrolex.scaling.settle import settled
from metrolex.scaling.task import Row, Task, bend_of, multiple, to_step
from metrolex.scaling.tunnel import free_rows

__all__ = ["MOST_ROWS", "Rows", "best_rows", "equal_rows"]

Array = NDArray[np.float64]
Law = Callable[[Array], Array]
#: No display holds more (common practice, no source); more are refused as not meant.
MOST_ROWS = 256
_SAMPLES = 2500
#: A law this near to its chord, as a share of its span, is a straight line.
_STRAIGHT = 1e-9


@dataclass(frozen=True, slots=True)
class Rows:
    """A table and its greatest (weighted) error in y against the law; the same for rows equally spaced in x."""

    rows: tuple[Row, ...]
    max_error: float
    equal_rows: tuple[Row, ...]
    equal_error: float


def best_rows(
    law: Law,
    x_range: tuple[float, float],
    points: int,
    *,
    x_step: float = 0.0,
    y_step: float = 0.0,
    reach: tuple[float, float] | None = None,
    knots: tuple[float, ...] = (),
    weight: Law | None = None,
    limits: tuple[float, float] = (-math.inf, math.inf),
) -> Rows:
    """At most ``points`` rows (x rising, x and y multiples of their steps) with the least greatest error over ``x_range``.

    ``law`` gives y at an array of x; ``reach`` is where it holds (the range itself by default): with a step the end rows are
    rounded outward where it allows, else inward. ``knots`` are x at which the law has corners. ``weight`` counts the error
    at some x more than at others. No row reads outside ``limits``. A straight law gets two rows. Never worse than rows equally spaced. Raises BadInput for fewer than 2 or more than
    ``MOST_ROWS`` rows and for a step coarser than the range.
    """
    task = _task(law, x_range, points, x_step, y_step, reach or x_range, knots, weight, limits)
    equal = tuple(
        (x, task.placed(y))
        for x, y in equal_rows(law, (task.first_x, task.last_x), task.most, x_step, y_step)
    )
    equal_error = task.error(equal)
    found = free_rows(task)
    if any(not limits[0] <= y <= limits[1] for _, y in found):
        found = settled(task, tuple((x, task.inside(y)) for x, y in found))
    if x_step or y_step:
        found = rows_on_grid(task, found, equal)
    error = task.error(found)
    if equal_error <= error:
        return Rows(equal, equal_error, equal, equal_error)
    return Rows(found, error, equal, equal_error)


def _task(
    law: Law,
    x_range: tuple[float, float],
    points: int,
    x_step: float,
    y_step: float,
    reach: tuple[float, float],
    knots: tuple[float, ...],
    weight: Law | None,
    limits: tuple[float, float],
) -> Task:
    if not 2 <= points <= MOST_ROWS:
        raise BadInput("points", points, f"2 to {MOST_ROWS} rows")
    low, high = x_range
    if not low < high:
        raise BadInput("x_range", list(x_range), "two rising numbers")
    if x_step > high - low:
        raise BadInput("x_step", x_step, f"a step no coarser than the range, {high - low:g}")
    _refuse_finer("x_step", x_step, high - low)
    inside = [x for x in knots if low < x < high]
    even = np.linspace(low, high, _SAMPLES)
    bend = bend_of(even, law(even), np.ones_like(even))
    bent = np.interp(np.linspace(0, bend[-1], _SAMPLES), bend, even) if bend[-1] > 0 else even
    x = np.unique(np.concatenate([even, bent, np.array(inside, dtype=np.float64)]))
    # Two samples a hair apart make walls of no length.
    x = x[np.concatenate([[True], np.diff(x) > 1e-9 * (high - low)])]
    x[-1] = high
    y = law(x)
    if y_step > float(y.max() - y.min()):
        raise BadInput(
            "y_step", y_step, f"a step no coarser than the readings' span, {float(y.max() - y.min()):g}"
        )
    _refuse_finer("y_step", y_step, float(y.max() - y.min()))
    first = _end(low, x_step, reach, outward=-1)
    last = _end(high, x_step, reach, outward=1)
    counts = np.ones_like(x) if weight is None else np.asarray(weight(x), dtype=np.float64)
    off_chord = np.abs(y - np.interp(x, x[[0, -1]], y[[0, -1]]))
    straight = off_chord.max() <= _STRAIGHT * float(y.max() - y.min())
    return Task(law, x, y, counts, first, last, x_step, y_step, 2 if straight else points, *limits)


def _refuse_finer(field: str, step: float, span: float) -> None:
    most = limit("rows", "steps_in_range")
    if step and span / step > most:
        raise BadInput(
            field,
            step,
            f"0 for any, or a step of {span / most:.2g} or more",
            f"A step of {step:g} is finer than any display takes: the range has {span / step:.0f} of them, {most:.0f} are the most.",
        )


def _end(x: float, step: float, reach: tuple[float, float], outward: int) -> float:
    if not step:
        return x
    steps = x / step
    near = round(steps)
    if abs(steps - near) < 1e-9 * max(abs(steps), 1.0):
        return to_step(x, step)
    out, inward = (math.floor, math.ceil) if outward < 0 else (math.ceil, math.floor)
    wanted = multiple(out(steps), step)
    slack = 1e-9 * max(abs(reach[0]), abs(reach[1]))
    return wanted if reach[0] - slack <= wanted <= reach[1] + slack else multiple(inward(steps), step)


def equal_rows(
    law: Law, ends: tuple[float, float], points: int, x_step: float, y_step: float
) -> tuple[Row, ...]:
    """Rows equally spaced in x from end to end, on the law, rounded to the steps; rows that fall together are one."""
    xs = sorted({to_step(float(x), x_step) for x in np.linspace(*ends, points)})
    ys = law(np.array(xs))
    return tuple((x, to_step(float(y), y_step)) for x, y in zip(xs, ys, strict=True))
