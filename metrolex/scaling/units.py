"""Between the unit of a sender's curve and the unit a channel is shown in."""

from __future__ import annotations

from metrolex.errors import BadInput
from metrolex.quantities import DIMENSIONS, convert

__all__ = ["in_unit"]


def in_unit(value: float, from_unit: str, to_unit: str) -> float:
    """``value`` in another unit of the same kind.

    Raises BadInput (field ``unit``) when the two do not measure the same thing.

    >>> round(in_unit(1.0, 'bar', 'psi'), 3)
    14.504
    """
    if from_unit == to_unit:
        return value
    for dimension in DIMENSIONS.values():
        start, end = dimension.unit(from_unit), dimension.unit(to_unit)
        if start and end:
            return convert(value, start, end)
    raise BadInput("unit", to_unit, f"a unit of the same kind as {from_unit}")
