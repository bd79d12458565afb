"""Command line: fit, table, budget, match."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray

from metrolex.cli.calculation import Calculation, findings_out
from metrolex.cli.senders import NTC_EXAMPLE, InputStage, sorted_table
from metrolex.errors import BadInput
from metrolex.inputs.loop import ohm_from_volts
from metrolex.intake import AnyNumber, Limits, NonNegative, Percent, Positive, Text, dump
from metrolex.scaling.best_rows import MOST_ROWS, best_rows
from metrolex.scaling.budget import ON_DEMAND, TERMS, Tolerances, budget, remedy_of
from metrolex.scaling.match import match_sender, power_of
from metrolex.senders import Curve, TableCurve, is_monotonic, x_at, x_range, y_at, y_range
from metrolex.senders.bay import point_findings
from metrolex.senders.curves import Point
from metrolex.senders.fit import fit_curve

__all__ = ["CALCULATIONS"]

Unit = Annotated[str, Text(20, blank=False)]


@dataclass(frozen=True, slots=True)
class FitInput:
    """Measured points and the law to fit."""

    kind: Literal["steinhart_hart", "beta", "linear", "pchip"]
    points: tuple[Point, ...]
    x_unit: Unit = "ohm"
    y_unit: Unit = "degC"


def run_fit(asked: FitInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """A law by least squares in y."""
    found = fit_curve(asked.kind, asked.points, asked.x_unit, asked.y_unit)
    findings = [*point_findings(asked.points, asked.x_unit, asked.y_unit), *found.findings]
    xs = np.array([x for x, _ in found.points])
    return {
        "curve": dump(found.curve) | {"x_unit": found.curve.x_unit, "y_unit": found.curve.y_unit},
        "max_residual": found.max_residual,
        "rms_residual": found.rms_residual,
        "residuals": list(found.residuals),
        "points": [list(point) for point in found.points],
        "confidence_95": None if found.band is None else found.band(xs).tolist(),
        "outliers": [found.points[i][0] for i in found.outliers],
        "findings": findings_out(findings),
    }


@dataclass(frozen=True, slots=True)
class TableInput:
    """A curve, the range, how many rows the display has and the resolution of its entries."""

    curve: Curve
    points: Annotated[int, Limits(low=2, high=MOST_ROWS)]
    x_range: tuple[AnyNumber, AnyNumber] | None = None
    y_range: tuple[AnyNumber, AnyNumber] | None = None
    x_step: NonNegative = 0.0
    y_step: NonNegative = 0.0
    input: InputStage = field(default=InputStage())

    def __post_init__(self) -> None:
        if self.x_range is not None and self.y_range is not None:
            raise BadInput(
                "y_range",
                list(self.y_range),
                "exactly one of x_range and y_range",
                "Give exactly one of x_range and y_range.",
            )
        for name, span in (("x_range", self.x_range), ("y_range", self.y_range)):
            if span is not None and not span[0] < span[1]:
                raise BadInput(name, list(span), "two rising numbers")


def run_table(asked: TableInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """The rows whose greatest error over the range is least, beside rows equally spaced in x."""
    curve, stage = asked.curve, asked.input
    pulled = stage.pull_up_ohm is not None
    reach = _as_input(stage, x_range(curve))
    span = _x_span(asked, reach)

    def law(x: NDArray[np.float64]) -> NDArray[np.float64]:
        at = ohm_from_volts(x, stage.pull_up_ohm, stage.reference_v) if pulled else x  # type: ignore[arg-type]
        return y_at(curve, np.clip(at, *x_range(curve)))

    corners = [x for x, _ in curve.points] if isinstance(curve, TableCurve) else []
    knots = tuple(_as_input(stage, tuple(corners)))
    found = best_rows(
        law,
        span,
        asked.points,
        x_step=asked.x_step,
        y_step=asked.y_step,
        reach=(reach[0], reach[1]),
        knots=knots,
    )
    return {
        "points": [list(row) for row in found.rows],
        "max_error": found.max_error,
        "equal_spacing_max_error": found.equal_error,
        "equal_spacing_points": [list(row) for row in found.equal_rows],
        "x_range": list(span),
        "x_unit": "volt" if pulled else curve.x_unit,
        "y_unit": curve.y_unit,
        "check_sum": [float(f"{sum(x):.12g}") for x in zip(*found.rows, strict=True)],
        "findings": [],
    }


def _as_input(stage: InputStage, xs: tuple[float, ...]) -> tuple[float, ...]:
    if stage.pull_up_ohm is None or stage.reference_v is None:
        return xs
    return tuple(stage.reference_v * x / (x + stage.pull_up_ohm) for x in xs)


def _x_span(asked: TableInput, reach: tuple[float, ...]) -> tuple[float, float]:
    """The range in the table's x. Raises BadInput for one outside the curve."""
    low, high = reach
    if asked.y_range is not None:
        if not is_monotonic(asked.curve):
            raise BadInput(
                "curve", asked.curve.kind, "a curve that always rises or always falls, or an x_range"
            )
        ends = x_at(asked.curve, asked.y_range)
        if np.isnan(ends).any():
            bounds = y_range(asked.curve)
            raise BadInput(
                "y_range",
                list(asked.y_range),
                f"within the curve, {bounds[0]:g} to {bounds[1]:g} {asked.curve.y_unit}",
            )
        first, last = sorted(_as_input(asked.input, tuple(ends.tolist())))
        return max(first, low), min(last, high)
    if asked.x_range is None:
        return low, high
    slack = 1e-9 * max(abs(low), abs(high))
    if not low - slack <= asked.x_range[0] or not asked.x_range[1] <= high + slack:
        raise BadInput("x_range", list(asked.x_range), f"within the curve, {low:g} to {high:g}")
    return max(asked.x_range[0], low), min(asked.x_range[1], high)


@dataclass(frozen=True, slots=True)
class ToleranceInput:
    """How far the sender may be from its curve."""

    x_pct: Percent = 0.0
    y: NonNegative = 0.0


@dataclass(frozen=True, slots=True)
class BudgetInput:
    """A chain with the tolerances of its parts, and the reading to look at."""

    curve: dict[str, Any]
    table: tuple[Point, ...]
    at: AnyNumber
    input: InputStage = field(default=InputStage())
    wire_ohm: NonNegative = 0.0
    ground_offset_v: AnyNumber = 0.0
    decimals: Annotated[int, Limits(low=0, high=9)] = 0
    dissipation_mw_per_k: Positive | None = None

    def __post_init__(self) -> None:
        object.__setattr__(self, "table", sorted_table(self.table))


def run_budget(asked: BudgetInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """The error of each part at one reading; worst case and root of squares."""
    curve, tolerance = _with_tolerance(asked.curve)
    stage = asked.input
    chain = replace(
        stage.chain(curve, asked.table, asked.wire_ohm, asked.ground_offset_v),
        dissipation_mw_per_k=asked.dissipation_mw_per_k,
    )
    parts = Tolerances(
        tolerance.x_pct,
        tolerance.y,
        stage.pull_up_tolerance_pct,
        stage.reference_tolerance_pct,
        asked.decimals,
        adc_offset_lsb=stage.adc_offset_lsb,
        cold_junction_k=stage.cold_junction_k,
    )
    found = budget(chain, parts, asked.at)
    names = [name for name in TERMS if name != "place" and (name not in ON_DEMAND or found.terms[name].any())]
    biggest = max(names, key=lambda name: abs(float(found.terms[name][0])))
    return {
        "terms": [
            {
                "name": name.replace("_", "-" if name == "pull_up" else " "),
                "error": float(found.terms[name][0]),
            }
            for name in names
        ],
        "worst_case": float(found.worst_case[0]),
        "rss": float(found.rss[0]),
        "shift": float(found.shift[0]),
        "half_95": float(found.half_95[0]),
        "biggest": biggest,
        "remedy": remedy_of(biggest),
        "findings": [],
    }


def _with_tolerance(data: dict[str, Any]) -> tuple[Curve, ToleranceInput]:
    """The curve of a budget carries its tolerance."""
    from metrolex.intake import read

    plain = dict(data)
    tolerance = read(ToleranceInput, plain.pop("tolerance", {}), "curve.tolerance")
    return read(Curve, plain, "curve"), tolerance  # type: ignore[arg-type]


@dataclass(frozen=True, slots=True)
class MatchInput:
    """What the sender gives and what the gauge wants, as (reading, ohm)."""

    sender_points: tuple[tuple[AnyNumber, NonNegative], ...]
    gauge_points: tuple[tuple[AnyNumber, NonNegative], ...]
    series: Literal["E24", "E96"] = "E24"
    supply_v: Positive | None = None
    feed_ohm: Positive | None = None

    def __post_init__(self) -> None:
        if (self.supply_v is None) != (self.feed_ohm is None):
            missing = "feed_ohm" if self.feed_ohm is None else "supply_v"
            raise BadInput(
                missing, None, "both supply_v and feed_ohm for the power", f"The key '{missing}' is missing."
            )


def run_match(asked: MatchInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """The best series and parallel resistors, or why none will do."""
    found = match_sender(asked.sender_points, asked.gauge_points, asked.series)
    answer: dict[str, Any] = {
        "series_ohm": found.series_ohm,
        "parallel_ohm": found.parallel_ohm,
        "max_error": found.max_error,
        "without_resistors": found.bare_error,
        "shown": list(found.shown),
        "findings": findings_out(found.findings),
    }
    if asked.supply_v is not None and asked.feed_ohm is not None and found.max_error is not None:
        power = power_of(found, asked.sender_points, asked.supply_v, asked.feed_ohm)
        answer["power"] = {
            "series_w": power.series_w,
            "parallel_w": power.parallel_w,
            "series_rating_w": power.series_rating_w,
            "parallel_rating_w": power.parallel_rating_w,
        }
    return answer


CALCULATIONS = {
    "fit": Calculation(
        FitInput,
        run_fit,
        {"kind": "steinhart_hart", "points": [[32650, 0], [10000, 25], [3602, 50], [1481, 75], [678, 100]]},
    ),
    "table": Calculation(
        TableInput,
        run_table,
        {
            "curve": {"kind": "beta", "r0_ohm": 2200, "beta_k": 3600, "x_range": [40, 40000]},
            "y_range": [40, 150],
            "points": 8,
            "x_step": 0.01,
            "y_step": 1,
            "input": {"pull_up_ohm": 1000, "reference_v": 5},
        },
    ),
    "budget": Calculation(
        BudgetInput,
        run_budget,
        {
            "curve": NTC_EXAMPLE | {"tolerance": {"x_pct": 4}},
            "table": [[0.49, 120], [0.76, 100], [1.19, 80], [1.83, 60], [2.67, 40]],
            "input": {
                "pull_up_ohm": 1000,
                "reference_v": 5,
                "adc_bits": 10,
                "pull_up_tolerance_pct": 1,
                "reference_tolerance_pct": 1,
            },
            "wire_ohm": 0.2,
            "ground_offset_v": 0.02,
            "decimals": 0,
            "at": 90,
        },
    ),
    "match": Calculation(
        MatchInput,
        run_match,
        {
            "sender_points": [[0, 10], [50, 92], [100, 180]],
            "gauge_points": [[0, 0], [50, 45], [100, 90]],
            "series": "E24",
            "supply_v": 5,
            "feed_ohm": 220,
        },
    ),
}
