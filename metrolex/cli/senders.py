"""Command line: sender, display."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Annotated, Any

import numpy as np

from metrolex.cli.calculation import Calculation, findings_out
from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.inputs.loop import ohm_from_volts
from metrolex.intake import AnyNumber, Limits, NonNegative, Percent, Positive, Temperature
from metrolex.quantities import DIMENSIONS, dimension_of, rounded
from metrolex.scaling.chain import Chain
from metrolex.scaling.table import look_up
from metrolex.senders import Curve, ThermocoupleCurve, x_at, x_range, y_at, y_range
from metrolex.senders.curves import Point, sort_points
from metrolex.senders.thermocouple import emf_mv

__all__ = [
    "CALCULATIONS",
    "NTC_EXAMPLE",
    "DisplayInput",
    "InputStage",
    "SenderInput",
    "plain",
    "sorted_table",
]


@dataclass(frozen=True, slots=True)
class SenderInput:
    """A curve and either sender outputs or readings."""

    curve: Curve
    x: tuple[AnyNumber, ...] | None = None
    y: tuple[AnyNumber, ...] | None = None
    cold_junction_degc: Temperature | None = None

    def __post_init__(self) -> None:
        couple = isinstance(self.curve, ThermocoupleCurve)
        if couple and self.cold_junction_degc is None:
            raise BadInput(
                "cold_junction_degc",
                None,
                "degC of the joint at the gauge",
                "The key 'cold_junction_degc' is missing.",
            )
        if not couple and self.cold_junction_degc is not None:
            raise BadInput(
                "cold_junction_degc",
                self.cold_junction_degc,
                "nothing: only a thermocouple has a cold junction",
            )
        if (self.x is None) == (self.y is None):
            raise BadInput(
                "y" if self.x is not None else "x",
                None,
                "exactly one of x and y",
                "Give exactly one of x and y.",
            )
        if not (self.x or self.y):
            raise BadInput("x" if self.x is not None else "y", [], "at least one value")
        check_units(self.curve)
        if self.curve.x_unit == "ohm":
            for i, value in enumerate(self.x or ()):
                if value < 0:
                    raise BadInput(f"x[{i}]", value, "ohms of 0 or more")


X_UNITS = ("ohm", "volt", "millivolt", "milliampere", "hertz", "millisecond")
Y_WORDS = ("lambda", "gear", "afr", "l")


def check_units(curve: Curve) -> None:
    """Raises BadInput for a unit nobody gives or shows."""
    if curve.x_unit not in X_UNITS:
        raise BadInput("curve.x_unit", curve.x_unit, " | ".join(X_UNITS))
    if dimension_of(curve.y_unit) is None and curve.y_unit not in Y_WORDS:
        known = ", ".join(kind.words() for kind in DIMENSIONS.values())
        raise BadInput(
            "curve.y_unit",
            curve.y_unit,
            f"a unit: {known}, {', '.join(Y_WORDS)}",
            f"'{curve.y_unit:.20}' is not a unit.",
        )


def run_sender(asked: SenderInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Evaluate a curve one way; values outside it are null with a finding."""
    cold = _cold_junction_mv(asked)
    low, high = x_range(asked.curve)
    if asked.x is not None:
        xs = np.array(asked.x)
        ys = y_at(asked.curve, xs + cold)
        outside, span, unit = xs[np.isnan(ys)], (low - cold, high - cold), asked.curve.x_unit
    else:
        ys = np.array(asked.y)
        xs = x_at(asked.curve, ys) - cold
        outside, span, unit = ys[np.isnan(xs)], y_range(asked.curve), asked.curve.y_unit
    findings = [
        Finding(
            "caution",
            "outside_curve",
            "curve",
            f"{value:g} {unit} lies outside the curve, {span[0]:g} to {span[1]:g} {unit}.",
            f"{value:g} {unit}",
            "Get more points of the curve; nothing is extrapolated.",
        )
        for value in outside
    ]
    return {"x": plain(xs), "y": plain(ys), "findings": findings_out(findings)}


def _cold_junction_mv(asked: SenderInput) -> float:
    """What the input adds to a thermocouple's millivolts; 0 for any other sender. Raises BadInput."""
    if not isinstance(asked.curve, ThermocoupleCurve) or asked.cold_junction_degc is None:
        return 0.0
    try:
        return emf_mv(asked.curve.type, asked.cold_junction_degc)
    except BadInput as fault:
        raise BadInput("cold_junction_degc", fault.value, fault.allowed) from None


@dataclass(frozen=True, slots=True)
class InputStage:
    """The input of a display as the command line takes it."""

    pull_up_ohm: Positive | None = None
    reference_v: Positive | None = None
    adc_bits: Annotated[int, Limits(low=1, high=32)] | None = None
    pull_up_tolerance_pct: Percent = 0.0
    reference_tolerance_pct: Percent = 0.0
    ratiometric: bool = False
    adc_offset_lsb: NonNegative = 0.0
    cold_junction_k: NonNegative = 0.0

    def __post_init__(self) -> None:
        if self.reference_v is None and (self.pull_up_ohm is not None or self.adc_bits is not None):
            raise BadInput(
                "reference_v",
                None,
                "volts above 0 with a pull-up or a converter",
                "The key 'reference_v' is missing.",
            )

    def chain(
        self, curve: Curve, table: tuple[Point, ...], wire_ohm: float = 0.0, ground_offset_v: float = 0.0
    ) -> Chain:
        """The chain behind this input."""
        return Chain(
            curve,
            table,
            self.pull_up_ohm,
            self.reference_v,
            self.adc_bits,
            wire_ohm,
            ground_offset_v,
            ratiometric=self.ratiometric,
        )


@dataclass(frozen=True, slots=True)
class DisplayInput:
    """A sender's curve, the display's table and input, and the true values to look at."""

    curve: Curve
    table: tuple[Point, ...]
    true: tuple[AnyNumber, ...]
    input: InputStage = field(default=InputStage())
    wire_ohm: NonNegative = 0.0
    ground_offset_v: AnyNumber = 0.0
    decimals: Annotated[int, Limits(low=0, high=9)] = 0

    def __post_init__(self) -> None:
        object.__setattr__(self, "table", sorted_table(self.table))
        if not self.true:
            raise BadInput("true", [], "at least one value")


def run_display(asked: DisplayInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """What the display shows at each true value; null outside the sender's curve."""
    stage = asked.input
    chain = stage.chain(asked.curve, asked.table, asked.wire_ohm, asked.ground_offset_v)
    x = x_at(asked.curve, asked.true)
    seen = chain.seen(x)
    shown = [None if np.isnan(v) else rounded(v, asked.decimals) for v in look_up(asked.table, seen).tolist()]
    low, high = y_range(asked.curve)
    unit = asked.curve.y_unit
    findings = [
        Finding(
            "caution",
            "outside_curve",
            "curve",
            f"The sender's curve goes from {low:g} to {high:g} {unit}.",
            f"{value:g} {unit}",
            "Get more points of the curve; nothing is extrapolated.",
        )
        for value, face in zip(asked.true, shown, strict=True)
        if face is None
    ]
    working = {"sender_x": plain(x), "at_input": plain(seen)}
    if stage.pull_up_ohm is not None and stage.reference_v is not None:
        working["taken_for_ohm"] = plain(ohm_from_volts(seen, stage.pull_up_ohm, stage.reference_v))
    return {"shown": shown, "working": working, "findings": findings_out(findings)}


def sorted_table(table: tuple[Point, ...]) -> tuple[Point, ...]:
    try:
        return sort_points(table, at_least=1)
    except BadInput as fault:
        raise BadInput("table", fault.value, fault.allowed, fault.message) from None


def plain(values: np.ndarray[Any, np.dtype[np.float64]]) -> list[float | None]:
    return [value if np.isfinite(value) else None for value in values.tolist()]


NTC_EXAMPLE = {
    "kind": "table",
    "x_unit": "ohm",
    "y_unit": "degC",
    "interpolation": "log_x",
    "points": [[2480, 20], [1150, 40], [577, 60], [311, 80], [179, 100], [108.5, 120]],
}

CALCULATIONS = {
    "sender": Calculation(SenderInput, run_sender, {"curve": NTC_EXAMPLE, "y": [40, 90, 130]}),
    "display": Calculation(
        DisplayInput,
        run_display,
        {
            "curve": NTC_EXAMPLE,
            "table": [[0.49, 120], [0.76, 100], [1.19, 80], [1.83, 60], [2.67, 40]],
            "input": {"pull_up_ohm": 1000, "reference_v": 5, "adc_bits": 10},
            "true": [60, 90, 105],
            "wire_ohm": 0.2,
            "ground_offset_v": 0.02,
            "decimals": 0,
        },
    ),
}
