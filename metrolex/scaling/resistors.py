"""Resistors one can buy: preferred values and power ratings. IEC 60063; ratings common practice."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from metrolex.errors import BadInput
from metrolex.tables import load_table

__all__ = ["preferred", "rating_for"]


def preferred(series: str, low_ohm: float, high_ohm: float) -> NDArray[np.float64]:
    """All values of a series (E24, E96) from ``low_ohm`` to ``high_ohm``, rising. Raises BadInput for another series.

    >>> preferred('E24', 100, 130).tolist()
    [100.0, 110.0, 120.0, 130.0]
    """
    table = load_table("resistors")
    if series not in ("E24", "E96"):
        raise BadInput("series", series, "E24 | E96")
    decades = range(int(np.floor(np.log10(low_ohm))), int(np.ceil(np.log10(high_ohm))) + 1)
    values = np.array([float(f"{base * 10.0**decade:.4g}") for decade in decades for base in table[series]])
    return np.asarray(values[(values >= low_ohm * (1 - 1e-9)) & (values <= high_ohm * (1 + 1e-9))])


def rating_for(watt: float) -> float | None:
    """The smallest common rating that carries ``watt`` at half its rating, None where none does (common practice).

    >>> rating_for(0.1), rating_for(0.2)
    (0.25, 0.5)
    """
    return next((float(rating) for rating in load_table("resistors")["rating_w"] if 2 * watt <= rating), None)
