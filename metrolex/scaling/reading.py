"""What a display shows for the volts at its input: reading, open, short, below and above range.

The one place where an input voltage becomes a shown number; the ``display`` calculation and the twin both
come here.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from metrolex.errors import BadInput
from metrolex.inputs.converter import quantised
from metrolex.inputs.loop import ohm_from_volts
from metrolex.job import Behaviour, Input, MeasuringChain, Scaling
from metrolex.quantities import in_unit, rounded
from metrolex.scaling.table import look_up, rounded_text
from metrolex.senders.thermocouple import degc_at, emf_mv, range_degc

__all__ = ["Shown", "ends", "in_range", "read_couple", "read_supply", "read_volts"]


@dataclass(frozen=True, slots=True)
class Shown:
    """What stands on the face.

    ``text`` is what the driver sees ('91', '--', ''), ``value`` the number in the channel's unit (None
    where no number is shown), ``state`` why, ``at_input`` the ohms or volts it was looked up by.
    """

    text: str
    value: float | None
    state: Literal["reading", "open", "short", "below", "above", "dark", "unfinished"]
    reason: str = ""
    at_input: float | None = None


def read_volts(volts: float, stage: Input, scaling: Scaling, behaviour: Behaviour) -> Shown:
    """The face of a display whose input stage sees ``volts`` against the display's ground.

    Raises BadInput (field ``table``) when nothing has been entered in the display.
    """
    if not scaling.table:
        raise BadInput("table", None, "two rows or more", "Nothing is entered in the display's table yet.")
    reference = stage.reference_v
    if reference is not None:
        if volts >= behaviour.open_above_ratio * reference:
            return _react(
                behaviour.open, "open", f"{volts:.2f} V of {reference:g} V: an open input", scaling, volts
            )
        if volts <= behaviour.short_below_ratio * reference and stage.kind == "pull_up":
            return _react(behaviour.short, "short", f"{volts:.3f} V: a shorted input", scaling, volts)
        if stage.adc_bits is not None:
            volts = float(quantised(volts, reference, stage.adc_bits))
    x = 1000 * volts / stage.input_ohm if stage.kind == "loop" else volts
    if scaling.x_unit == "ohm":
        if stage.pull_up_ohm is None or reference is None:
            raise BadInput("x_unit", "ohm", "volt", "A table in ohms needs an input with a pull-up.")
        x = float(ohm_from_volts(volts, stage.pull_up_ohm, reference))
    return in_range(float(look_up(scaling.table, x)), x, scaling, behaviour)


def read_supply(volts: float, scaling: Scaling, behaviour: Behaviour) -> Shown:
    """The face of a display that reads its own supply; a table, if entered, corrects it."""
    value = float(look_up(scaling.table, volts)) if scaling.table else volts
    return in_range(value, volts, scaling, behaviour)


def read_couple(
    volts: float, stage: Input, channel: MeasuringChain, behaviour: Behaviour, cold_degc: float
) -> Shown:
    """The face of a thermocouple input: the cold junction added, the temperature by the couple's own law.

    Raises BadInput (field ``couple``) for an input that does not say its type.
    """
    if stage.thermocouple_type is None:
        raise BadInput("thermocouple_type", None, "K | J | N | T")
    millivolt = 1000 * volts + emf_mv(stage.thermocouple_type, cold_degc)
    low, high = (emf_mv(stage.thermocouple_type, end) for end in range_degc(stage.thermocouple_type))
    if not low <= millivolt <= high:
        return _react(
            behaviour.open,
            "open",
            f"{millivolt:.1f} mV: no such couple gives that",
            channel.scaling,
            millivolt,
        )
    shown = in_unit(degc_at(stage.thermocouple_type, millivolt), "degC", channel.unit)
    return in_range(shown, millivolt, channel.scaling, behaviour)


def in_range(value: float, x: float, scaling: Scaling, behaviour: Behaviour) -> Shown:
    """The face for a value that was worked out: rounded, held or reacted to at the ends of the range."""
    low, high = ends(scaling)
    if low is not None and value < low:
        return _react(behaviour.below, "below", f"below the range, {low:g}", scaling, x)
    if high is not None and value > high:
        return _react(behaviour.above, "above", f"above the range, {high:g}", scaling, x)
    held = _held_at(scaling.table, x)
    return Shown(rounded_text(value, scaling.decimals), rounded(value, scaling.decimals), "reading", held, x)


def ends(scaling: Scaling) -> tuple[float | None, float | None]:
    """The range of the face: as set, else the ends of its table."""
    values = [y for _, y in scaling.table]
    low = scaling.low if scaling.low is not None else (min(values) if values else None)
    high = scaling.high if scaling.high is not None else (max(values) if values else None)
    return low, high


def _held_at(table: Sequence[tuple[float, float]], x: float) -> str:
    if not table or table[0][0] <= x <= table[-1][0]:
        return ""
    return "beyond its table: the last row is held"


def _react(reaction: str, state: str, reason: str, scaling: Scaling, x: float) -> Shown:
    low, high = ends(scaling)
    word: Literal["open", "short", "below", "above"] = state  # type: ignore[assignment]
    at = x if np.isfinite(x) else None
    if reaction == "lowest" and low is not None:
        return Shown(rounded_text(low, scaling.decimals), rounded(low, scaling.decimals), word, reason, at)
    if reaction == "highest" and high is not None:
        return Shown(rounded_text(high, scaling.decimals), rounded(high, scaling.decimals), word, reason, at)
    return Shown("- -" if reaction == "flash" else "--", None, word, reason, at)
