"""What a display shows for the volts at its input: reading, open, short, below and above range.

The one place where an input voltage becomes a shown number; the ``display`` calculation and the twin both
come here.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, cast

import numpy as np
from numpy.typing import ArrayLike, NDArray

from metrolex.errors import BadInput
from metrolex.inputs.converter import quantised
from metrolex.inputs.loop import ohm_from_volts
from metrolex.job import Behaviour, Input, MeasuringChain, Scaling
from metrolex.quantities import in_unit_array, rounded
from metrolex.scaling.table import look_up, rounded_text
from metrolex.senders.thermocouple import degc_array, emf_mv, range_degc

__all__ = [
    "Faces",
    "Shown",
    "ends",
    "faces_of_supply",
    "faces_of_thermocouple",
    "faces_of_volts",
    "in_range",
    "read_supply",
    "read_thermocouple",
    "read_volts",
]

Array = NDArray[np.float64]
FaceState = Literal["reading", "open", "short", "below", "above"]


@dataclass(frozen=True, slots=True)
class Shown:
    """What stands on the face.

    ``text`` is what the driver sees ('91', '--', ''), ``value`` the number in the channel's unit (None
    where no number is shown), ``state`` why, ``at_input`` the ohms or volts it was looked up by.
    """

    text: str
    value: float | None
    state: FaceState | Literal["dark", "unfinished"]
    reason: str = ""
    at_input: float | None = None


@dataclass(frozen=True, slots=True)
class Faces:
    """What a display makes of many inputs at once, arrays of one shape.

    ``value`` is the number before it is rounded to the digits of the face, NaN where none is shown; ``state`` is why, as in Shown;
    ``x`` what it was looked up by, the volts (or millivolts) themselves where it was not.
    """

    value: Array
    state: NDArray[np.str_]
    x: Array


def faces_of_volts(volts: ArrayLike, stage: Input, scaling: Scaling, behaviour: Behaviour) -> Faces:
    """The faces of a display whose input stage sees ``volts`` against the display's ground.

    Raises BadInput (field ``table``) when nothing has been entered in the display.
    """
    if not scaling.table:
        raise BadInput("table", None, "two rows or more", "Nothing is entered in the display's table yet.")
    reference = stage.circuit.reference_v
    x = np.array(volts, dtype=np.float64)
    opened, shorted = np.zeros(x.shape, dtype=bool), np.zeros(x.shape, dtype=bool)
    if reference is not None:
        opened = x >= behaviour.open_above_ratio * reference
        if stage.kind == "pull_up":
            shorted = ~opened & (x <= behaviour.short_below_ratio * reference)
    read = ~(opened | shorted)
    seen = x[read]
    if reference is not None and stage.converter.adc_bits is not None:
        seen = quantised(seen, reference, stage.converter.adc_bits)
    if stage.kind == "loop":
        seen = 1000 * seen / stage.circuit.input_ohm
    if scaling.x_unit == "ohm":
        if stage.circuit.pull_up_ohm is None or reference is None:
            raise BadInput("x_unit", "ohm", "volt", "A table in ohms needs an input with a pull-up.")
        seen = ohm_from_volts(seen, stage.circuit.pull_up_ohm, reference)
    x[read] = seen
    value = np.full(x.shape, np.nan)
    value[read] = look_up(scaling.table, seen)
    return _faces(value, x, opened, shorted, scaling, behaviour)


def faces_of_supply(volts: ArrayLike, scaling: Scaling, behaviour: Behaviour) -> Faces:
    """The faces of a display that reads its own supply; a table, if entered, corrects it."""
    x = np.array(volts, dtype=np.float64)
    value = look_up(scaling.table, x) if scaling.table else x.copy()
    none = np.zeros(x.shape, dtype=bool)
    return _faces(value, x, none, none, scaling, behaviour)


def faces_of_thermocouple(
    volts: ArrayLike, stage: Input, channel: MeasuringChain, behaviour: Behaviour, cold_degc: float
) -> Faces:
    """The faces of a thermocouple input: the cold junction added, the temperature by the law of its type.

    Raises BadInput (field ``thermocouple_type``) for an input that does not say its type.
    """
    kind = stage.thermocouple_type
    if kind is None:
        raise BadInput("thermocouple_type", None, "K | J | N | T")
    millivolt = 1000 * np.array(volts, dtype=np.float64) + emf_mv(kind, cold_degc)
    low, high = (emf_mv(kind, end) for end in range_degc(kind))
    opened = ~((millivolt >= low) & (millivolt <= high))
    value = np.full(millivolt.shape, np.nan)
    value[~opened] = in_unit_array(degc_array(kind, millivolt[~opened]), "degC", channel.unit)
    return _faces(value, millivolt, opened, np.zeros_like(opened), channel.scaling, behaviour)


def _faces(
    value: Array,
    x: Array,
    opened: NDArray[np.bool_],
    shorted: NDArray[np.bool_],
    scaling: Scaling,
    behaviour: Behaviour,
) -> Faces:
    """Held or reacted to at the ends of the range, and where the input is open or shorted."""
    low, high = ends(scaling)
    state = np.full(x.shape, "reading", dtype="U7")
    if low is not None:
        state[value < low] = "below"
    if high is not None:
        state[value > high] = "above"
    state[shorted], state[opened] = "short", "open"
    for word, reaction in (
        ("open", behaviour.open),
        ("short", behaviour.short),
        ("below", behaviour.below),
        ("above", behaviour.above),
    ):
        shown = low if reaction == "lowest" else high if reaction == "highest" else None
        value[state == word] = np.nan if shown is None else shown
    return Faces(value, state, x)


def read_volts(volts: float, stage: Input, scaling: Scaling, behaviour: Behaviour) -> Shown:
    """The face of a display whose input stage sees ``volts``. Raises BadInput as ``faces_of_volts`` does."""
    reference = stage.circuit.reference_v or 0.0
    return _shown(
        faces_of_volts([volts], stage, scaling, behaviour),
        scaling,
        behaviour,
        {
            "open": f"{volts:.2f} V of {reference:g} V: an open input",
            "short": f"{volts:.3f} V: a shorted input",
        },
    )


def read_supply(volts: float, scaling: Scaling, behaviour: Behaviour) -> Shown:
    """The face of a display that reads its own supply."""
    return _shown(faces_of_supply([volts], scaling, behaviour), scaling, behaviour)


def read_thermocouple(
    volts: float, stage: Input, channel: MeasuringChain, behaviour: Behaviour, cold_degc: float
) -> Shown:
    """The face of a thermocouple input. Raises BadInput as ``faces_of_thermocouple`` does."""
    faces = faces_of_thermocouple([volts], stage, channel, behaviour, cold_degc)
    why = {"open": f"{faces.x.item():.1f} mV: no thermocouple of this type gives that"}
    return _shown(faces, channel.scaling, behaviour, why)


def in_range(value: float, x: float, scaling: Scaling, behaviour: Behaviour) -> Shown:
    """The face for a value that was worked out: rounded, held or reacted to at the ends of the range."""
    none = np.zeros(1, dtype=bool)
    return _shown(
        _faces(
            np.array([value], dtype=np.float64),
            np.array([x], dtype=np.float64),
            none,
            none,
            scaling,
            behaviour,
        ),
        scaling,
        behaviour,
    )


def _shown(
    faces: Faces, scaling: Scaling, behaviour: Behaviour, why: Mapping[str, str] | None = None
) -> Shown:
    """The one face of ``faces``, in words."""
    value, x = faces.value.item(), faces.x.item()
    state = cast(FaceState, faces.state.item())
    low, high = ends(scaling)
    reason = {
        "reading": _held_at(scaling.table, x),
        "below": f"below the range, {low:g}" if low is not None else "",
        "above": f"above the range, {high:g}" if high is not None else "",
        **(why or {}),
    }[state]
    at = x if np.isfinite(x) or state == "reading" else None
    if np.isnan(value) and state != "reading":
        flashes = getattr(behaviour, state) == "flash"
        return Shown("- -" if flashes else "--", None, state, reason, at)
    return Shown(rounded_text(value, scaling.decimals), rounded(value, scaling.decimals), state, reason, at)


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
