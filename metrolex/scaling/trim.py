"""A controller's analog output trimmed at the dash: rows moved so that the dash shows what the controller shows.

Two displays of one quantity differ by an offset (their grounds) and a gain (their references); both follow from readings taken
side by side, by least squares (textbook).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from metrolex.errors import BadInput

__all__ = ["Trim", "trim_rows"]

Rows = tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Trim:
    """Rows after the trim; what was added to x and what x was stretched by; rms of what is left, in y."""

    rows: Rows
    offset: float
    gain: float
    left: float


def trim_rows(rows: Rows, pairs: Rows) -> Trim:
    """Rows of a straight table corrected by ``pairs`` of (controller shows, dash shows).

    One pair settles an offset, two or more a gain as well. Raises BadInput without pairs, and for a table that is not a line.
    """
    if not pairs:
        raise BadInput("pairs", [], "one pair of readings or more")
    x, y = np.array(rows).T
    slope = (y[-1] - y[0]) / (x[-1] - x[0])
    if not np.allclose(y, y[0] + slope * (x - x[0]), atol=1e-6 * max(float(np.ptp(y)), 1e-9)):
        raise BadInput(
            "table", None, "a straight table: two rows", "Only a straight table can be trimmed by an offset."
        )
    true, shown = np.array(pairs).T
    came_in = x[0] + (shown - y[0]) / slope
    meant = x[0] + (true - y[0]) / slope
    if len(pairs) == 1 or float(np.ptp(meant)) < 1e-9:
        gain, offset = 1.0, float(np.mean(came_in - meant))
    else:
        gain, offset = (float(v) for v in np.polyfit(meant, came_in, 1))
    if not 0.5 <= gain <= 2.0:
        raise BadInput(
            "pairs",
            gain,
            "readings of one quantity",
            "These readings differ by more than two displays of one thing can.",
        )
    fresh = tuple((float(at), float(value)) for at, value in zip(gain * x + offset, y, strict=True))
    left = float(np.sqrt(np.mean((np.interp(came_in, gain * x + offset, y) - true) ** 2)))
    return Trim(fresh, offset, gain, left)
