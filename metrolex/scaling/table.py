"""The table entered in a display: straight lines between rows, the end rows held beyond them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike, NDArray

from metrolex.quantities import rounded

__all__ = ["look_up", "rounded_array", "rounded_text"]


def look_up(table: Sequence[tuple[float, float]], x: ArrayLike) -> NDArray[np.float64]:
    """The display's value at input ``x``, an array of the same shape; rows sorted by rising x.

    >>> look_up(((0.0, 0.0), (10.0, 100.0)), [5.0, 12.0]).tolist()
    [50.0, 100.0]
    """
    xs, ys = np.array(table, dtype=np.float64).T
    return np.asarray(np.interp(np.asarray(x, dtype=np.float64), xs, ys), dtype=np.float64)


def rounded_text(value: float, decimals: int) -> str:
    """The digits on the face, rounded half away from zero.

    >>> rounded_text(90.5, 0), rounded_text(3.14, 1)
    ('91', '3.1')
    """
    return f"{rounded(value, decimals):.{decimals}f}"


def rounded_array(values: NDArray[np.float64], decimals: int) -> NDArray[np.float64]:
    """Numbers rounded as on the face, each as ``rounded`` does it; NaN stays NaN."""
    scale = 10.0**decimals
    nudged = np.abs(values) * scale * (1 + 4e-16)
    return np.asarray(np.copysign(np.floor(nudged + 0.5) / scale, values) + 0.0)
