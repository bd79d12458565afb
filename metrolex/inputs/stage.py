"""Pull-up, plain voltage and converter: from sender to volts and back.

Textbook circuits (voltage divider, ideal converter); no source needed beyond them.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

__all__ = ["ohm_from_volts", "quantised", "volts_from_ohm"]

Array = NDArray[np.float64]


def volts_from_ohm(
    ohm: ArrayLike,
    pull_up_ohm: float,
    reference_v: float,
    wire_ohm: float = 0.0,
    ground_offset_v: float = 0.0,
) -> Array:
    """Volts at a pull-up input, against the input's own ground.

    ``wire_ohm`` is the whole loop; ``ground_offset_v`` the sender's ground above the input's ground Vo:
    V = Vo + (Vref - Vo)(R + wire)/(R + wire + R0).

    >>> volts_from_ohm(1000.0, 1000.0, 5.0).item()
    2.5
    """
    loop = np.asarray(ohm, dtype=np.float64) + wire_ohm
    return ground_offset_v + (reference_v - ground_offset_v) * loop / (loop + pull_up_ohm)


def ohm_from_volts(volts: ArrayLike, pull_up_ohm: float, reference_v: float) -> Array:
    """The resistance a pull-up input takes ``volts`` for: R = R0 V/(Vref - V); infinite at Vref.

    >>> ohm_from_volts(2.5, 1000.0, 5.0).item()
    1000.0
    """
    given = np.asarray(volts, dtype=np.float64)
    with np.errstate(divide="ignore"):
        return np.where(
            given < reference_v, pull_up_ohm * given / np.maximum(reference_v - given, 1e-300), np.inf
        )


def quantised(volts: ArrayLike, reference_v: float, bits: int) -> Array:
    """Volts as an ideal converter hands them on: code = floor(V/Vref 2^n), held within 0 and 2^n - 1.

    >>> quantised(2.5001, 5.0, 10).item()
    2.5
    """
    steps = 2.0**bits
    code = np.clip(np.floor(np.asarray(volts, dtype=np.float64) / reference_v * steps), 0, steps - 1)
    return np.asarray(code * reference_v / steps, dtype=np.float64)
