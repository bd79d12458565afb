"""Command line: blend, lambda, boost, consumption."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from metrolex.air.boost import barometer_findings, boost_of
from metrolex.cli.calculation import Calculation, findings_out
from metrolex.errors import BadInput
from metrolex.fuel.blend import plan_blend
from metrolex.fuel.consumption import consumption_of
from metrolex.fuel.mixture import PETROL_RATIO, blend_ratio, mixture_of, ratio_of
from metrolex.intake import AnyNumber, Limits, NonNegative, Percent, Positive, Text

__all__ = ["CALCULATIONS"]


@dataclass(frozen=True, slots=True)
class BlendInput:
    """The tank, what is in it, what the pump has, and the content wanted."""

    tank_l: Positive
    in_tank_l: AnyNumber
    in_tank_ethanol_pct: Percent
    added_ethanol_pct: Percent
    target_pct: Percent
    added_range_pct: tuple[Percent, Percent] | None = None
    ceiling_pct: Percent | None = None


def run_blend(asked: BlendInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Litres to add, or the nearest that can be had."""
    found = plan_blend(
        asked.tank_l,
        asked.in_tank_l,
        asked.in_tank_ethanol_pct,
        asked.added_ethanol_pct,
        asked.target_pct,
        pump_range=asked.added_range_pct,
        ceiling_pct=asked.ceiling_pct,
    )
    answer: dict[str, Any] = {
        "add_l": found.add_l,
        "result_pct": found.result_pct,
        "stoich_ratio": found.stoich_ratio,
    }
    if found.result_range is not None:
        answer["result_range_pct"] = list(found.result_range)
    return answer | {"findings": findings_out(found.findings)}


@dataclass(frozen=True, slots=True)
class LambdaInput:
    """Lambda or a shown ratio, what the gauge multiplies by, and the fuel."""

    lambda_: AnyNumber | None = None
    shown_ratio: AnyNumber | None = None
    display_stoich: Positive = PETROL_RATIO
    fuel: Annotated[str, Text(40, blank=False)] | None = None
    ethanol_pct: Percent | None = None

    def __post_init__(self) -> None:
        if self.fuel is None and self.ethanol_pct is None:
            raise BadInput("fuel", None, "a fuel or ethanol_pct", "The key 'fuel' is missing.")


def run_lambda(asked: LambdaInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Lambda, the ratio shown, the ratio burnt."""
    if asked.fuel is not None:
        ratio_of(asked.fuel)
    stoich = blend_ratio(asked.ethanol_pct) if asked.ethanol_pct is not None else ratio_of(asked.fuel or "")
    found = mixture_of(
        lambda_=asked.lambda_,
        shown_ratio=asked.shown_ratio,
        display_stoich=asked.display_stoich,
        stoich_ratio=stoich,
    )
    return {
        "lambda": found.lambda_,
        "shown_ratio": found.shown_ratio,
        "true_ratio": found.true_ratio,
        "stoich_ratio": stoich,
        "findings": [],
    }


@dataclass(frozen=True, slots=True)
class BoostInput:
    """Absolute pressure, and the barometer or the altitude."""

    absolute_kpa: AnyNumber
    altitude_m: AnyNumber | None = None
    barometer_kpa: AnyNumber | None = None


def run_boost(asked: BoostInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Pressure above the air of the day."""
    found = boost_of(asked.absolute_kpa, altitude_m=asked.altitude_m, barometer_kpa=asked.barometer_kpa)
    findings = (
        barometer_findings(found.barometer_kpa, asked.altitude_m) if asked.barometer_kpa is not None else []
    )
    return {
        "gauge_kpa": found.gauge_kpa,
        "gauge_psi": found.gauge_psi,
        "gauge_bar": found.gauge_bar,
        "barometer_kpa": found.barometer_kpa,
        "barometer_from": found.barometer_from,
        "vacuum_inhg": found.vacuum_inhg,
        "findings": findings_out(findings),
    }


@dataclass(frozen=True, slots=True)
class ConsumptionInput:
    """How long an injector stands open, at which engine speed; how many there are and what one flows; the road speed."""

    open_ms: Positive
    rpm: Positive
    injectors: Annotated[int, Limits(low=1, high=48)]
    flow_cc_min: Positive
    dead_ms: NonNegative = 0.0
    strokes: Literal[2, 4] = 4
    openings: Annotated[int, Limits(low=1, high=8)] = 1
    rated_bar: Positive | None = None
    rail_bar: Positive | None = None
    kmh: Positive | None = None


def run_consumption(asked: ConsumptionInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Litres an hour and over 100 km."""
    found = consumption_of(
        asked.open_ms,
        asked.rpm,
        asked.injectors,
        asked.flow_cc_min,
        dead_ms=asked.dead_ms,
        strokes=asked.strokes,
        openings=asked.openings,
        rated_bar=asked.rated_bar,
        rail_bar=asked.rail_bar,
        kmh=asked.kmh,
    )
    return {
        "litre_per_h": found.litre_per_h,
        "litre_per_100km": found.litre_per_100km,
        "duty": found.duty,
        "findings": findings_out(found.findings),
    }


CALCULATIONS = {
    "consumption": Calculation(
        ConsumptionInput,
        run_consumption,
        {"open_ms": 3.4, "rpm": 2400, "injectors": 4, "flow_cc_min": 240, "dead_ms": 0.8, "kmh": 80},
    ),
    "blend": Calculation(
        BlendInput,
        run_blend,
        {
            "tank_l": 50,
            "in_tank_l": 20,
            "in_tank_ethanol_pct": 5,
            "added_ethanol_pct": 85,
            "target_pct": 30,
            "added_range_pct": [51, 85],
        },
    ),
    "lambda": Calculation(LambdaInput, run_lambda, {"lambda": 0.85, "fuel": "E85"}),
    "boost": Calculation(BoostInput, run_boost, {"absolute_kpa": 220, "altitude_m": 500}),
}
