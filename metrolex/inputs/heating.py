"""What a resistance sender warms itself by: the power the pull-up puts into it over its dissipation constant.

The dissipation constant (mW for each kelvin above what surrounds it) is that of IEC 60539-1, from memory.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from metrolex.inputs.loop import sender_watt
from metrolex.quantities import TEMPERATURE, in_unit

__all__ = ["self_heating"]


def self_heating(
    ohm: ArrayLike, pull_up_ohm: float, reference_v: float, dissipation_mw_per_k: float, y_unit: str
) -> NDArray[np.float64]:
    """How much warmer the sender is than what it measures, in ``y_unit``; 0 where that is no temperature. Shape as ``ohm``.

    >>> self_heating(1000.0, 1000.0, 5.0, 5.0, "degC").item()
    1.25
    """
    given = np.asarray(ohm, dtype=np.float64)
    if TEMPERATURE.unit(y_unit) is None:
        return np.zeros_like(given)
    milliwatt = 1000 * sender_watt(given, pull_up_ohm, reference_v)
    per_kelvin = in_unit(1.0, "degC", y_unit) - in_unit(0.0, "degC", y_unit)
    return np.asarray(per_kelvin * milliwatt / dissipation_mw_per_k)
