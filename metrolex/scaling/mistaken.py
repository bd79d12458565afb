"""What a table that does not follow its sender was made for: absolute pressure for gauge, another unit, the wrong way round, twice over.

Each is a straight line from what is true to what is shown; one is named only where it alone explains the table. Atmosphere and units by
definition (ISO 2533, SI); which mistakes are tried: common practice, no source.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from metrolex.air.atmosphere import pressure_kpa
from metrolex.quantities import in_unit, unit_words
from metrolex.scaling.error import ErrorStrip

__all__ = ["PRESSURES", "Mistake", "mistake_in"]

PRESSURES = ("bar", "kPa", "psi")
TEMPERATURES = ("degC", "degF")
#: A face that shows fewer steps than this over the sender's range tells nothing of what was mistaken.
LEAST_STEPS = 10


@dataclass(frozen=True, slots=True)
class Mistake:
    """What was mistaken, in a sentence, and what to do."""

    kind: str
    words: str
    remedy: str


def mistake_in(
    strip: ErrorStrip, unit: str, allowed: float, digit: float = 0.0, altitude_m: float = 0.0
) -> Mistake | None:
    """The one mistake after whose mending the table follows its sender to within ``allowed`` (in the channel's unit; ``digit`` is the last one of the face); None where none does, or several do."""
    true = strip.true
    if true.size < 2 or strip.largest <= allowed:
        return None
    shown = true + strip.error
    fitting: dict[str, Mistake] = {}
    for mistake, factor, offset in _lines(unit, float(true[0]), float(true[-1]), altitude_m):
        # Read in another unit a face is as much coarser or finer; a line lost in that coarseness explains nothing.
        within = allowed * abs(factor)
        off = float(np.abs(shown - (factor * true + offset)).max())
        if off <= max(within, digit) < abs(factor) * (true[-1] - true[0]) / LEAST_STEPS:
            fitting.setdefault(mistake.kind, mistake)
    return next(iter(fitting.values())) if len(fitting) == 1 else None


def _lines(unit: str, low: float, high: float, altitude_m: float) -> Iterator[tuple[Mistake, float, float]]:
    """Each mistake with factor and offset from true to shown."""
    words = unit_words(unit)
    if unit in PRESSURES:
        air = in_unit(pressure_kpa(altitude_m), "kPa", unit)
        yield (
            Mistake(
                "absolute for gauge",
                f"The table counts from a vacuum, the sender from the air outside: it shows {air:.3g} {words} too much throughout.",
                "Enter the table less the pressure of the air, or take the sender's absolute curve.",
            ),
            1.0,
            air,
        )
        yield (
            Mistake(
                "gauge for absolute",
                f"The table counts from the air outside, the sender from a vacuum: it shows {air:.3g} {words} too little throughout.",
                "Say on the sender's curve that it is absolute: the pressure of the air is taken off.",
            ),
            1.0,
            -air,
        )
    for others in (PRESSURES, TEMPERATURES):
        for other in others if unit in others else ():
            if other != unit:
                zero, one = in_unit(0.0, unit, other), in_unit(1.0, unit, other)
                yield (
                    Mistake(
                        f"in {other}",
                        f"The table's readings are in {unit_words(other)}, the face says {words}.",
                        f"Enter them in {words}, or set the face to {unit_words(other)}.",
                    ),
                    one - zero,
                    zero,
                )
    yield (
        Mistake(
            "reversed",
            "The table runs the wrong way: what should be the lowest reading stands where the highest belongs.",
            "Turn the readings of the table round, or look whether the gauge is made for a sender that falls where this one rises.",
        ),
        -1.0,
        low + high,
    )
    yield (
        Mistake(
            "doubled",
            "The table shows twice what is there.",
            "Halve the readings of the table, or look for a second sender on the line.",
        ),
        2.0,
        0.0,
    )
    yield (
        Mistake(
            "halved",
            "The table shows half of what is there.",
            "Double the readings of the table, or look for a second gauge on the same sender.",
        ),
        0.5,
        0.0,
    )
