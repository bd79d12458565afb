"""An ideal analog-to-digital converter (textbook)."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

__all__ = ["quantised"]


def quantised(volts: ArrayLike, reference_v: float, bits: int) -> NDArray[np.float64]:
    """Volts as an ideal converter hands them on: code = floor(V/Vref 2^n), held within 0 and 2^n - 1.

    >>> quantised(2.5001, 5.0, 10).item()
    2.5
    """
    steps = 2.0**bits
    code = np.clip(np.floor(np.asarray(volts, dtype=np.float64) / reference_v * steps), 0, steps - 1)
    return np.asarray(code * reference_v / steps, dtype=np.float64)
