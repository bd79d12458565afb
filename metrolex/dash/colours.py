"""Whether two colours of light differ for drivers who lack red or green.

Colour vision without long or middle cones: Machado, Oliveira and Fernandes (2009), severity 1. Difference: CIE 1976 in Lab, D65.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from metrolex.tables import load_table

__all__ = ["alike_for", "as_seen", "difference"]

Array = NDArray[np.float64]
#: What is lacking, and what linear sRGB becomes without it.
LACKING: dict[str, Array] = {
    "red": np.array(
        [
            [0.152286, 1.052583, -0.204868],
            [0.114503, 0.786281, 0.099216],
            [-0.003882, -0.048116, 1.051998],
        ]
    ),
    "green": np.array(
        [
            [0.367322, 0.860646, -0.227968],
            [0.280085, 0.672501, 0.047413],
            [-0.011820, 0.042940, 0.968881],
        ]
    ),
}
_XYZ = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)
_WHITE = np.array([0.95047, 1.0, 1.08883])


def alike_for(first: str, second: str) -> tuple[str, ...]:
    """Which of 'red' and 'green' a driver may lack to take one named colour for the other; none for a colour and itself."""
    table = load_table("faces")
    if first == second or first not in table["colours"] or second not in table["colours"]:
        return ()
    one, two = (table["colours"][name] for name in (first, second))
    return tuple(
        lacking
        for lacking in LACKING
        if difference(as_seen(one, lacking), as_seen(two, lacking)) < table["colours"]["apart"]
    )


def as_seen(rgb: ArrayLike, lacking: str) -> Array:
    """A colour, sRGB 0 to 255, as somebody sees it who lacks a cone: sRGB again."""
    linear = LACKING[lacking] @ _linear(rgb)
    clipped = np.clip(linear, 0.0, 1.0)
    curved = np.where(clipped <= 0.0031308, 12.92 * clipped, 1.055 * clipped ** (1 / 2.4) - 0.055)
    found: Array = 255 * curved
    return found


def difference(first: ArrayLike, second: ArrayLike) -> float:
    """How far two colours are from one another, CIE 1976."""
    return float(np.linalg.norm(_lab(first) - _lab(second)))


def _linear(rgb: ArrayLike) -> Array:
    share = np.asarray(rgb, dtype=np.float64) / 255
    found: Array = np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)
    return found


def _lab(rgb: ArrayLike) -> Array:
    xyz = (_XYZ @ _linear(rgb)) / _WHITE
    f = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.array([116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])])
