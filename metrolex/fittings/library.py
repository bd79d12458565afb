"""The generic fittings that ship with the program. Data in ``metrolex/data/fittings.toml``."""

from __future__ import annotations

import functools

from metrolex.fittings.fitting import Fitting
from metrolex.intake import read
from metrolex.tables import load_table

__all__ = ["generic_fittings"]


@functools.cache
def generic_fittings() -> tuple[Fitting, ...]:
    """All generic fittings, in the order of the file."""
    return tuple(
        read(Fitting, row, f"fittings[{i}]") for i, row in enumerate(load_table("fittings")["fittings"])
    )
