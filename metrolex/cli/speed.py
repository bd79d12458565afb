"""Command line: speed, gps, tach."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from metrolex.cli.calculation import Calculation, findings_out
from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.intake import AnyNumber, Limits, NonNegative, Positive, Text
from metrolex.speed.engine import doubt_of, engine_pulses
from metrolex.speed.gps import GpsRun, calibrate, next_speed_kmh
from metrolex.speed.pulses import input_findings, pulses_per_km
from metrolex.speed.tyres import circumference_m, read_tyre

__all__ = ["CALCULATIONS"]


@dataclass(frozen=True, slots=True)
class SpeedInput:
    """Tyre or circumference, where the sensor sits, pulses a turn."""

    pulses_per_rev: AnyNumber
    sensed: Literal["wheel", "driveline", "cable"]
    tyre: Annotated[str, Text(40, blank=False)] | None = None
    circumference_m: Annotated[float, Limits(low=0.3, high=6)] | None = None
    axle_ratio: Annotated[float, Limits(low=0.2, high=30)] | None = None
    tyre_wear_mm: AnyNumber = 0.0
    cable_turns_per_km: Positive | None = None
    top_kmh: Annotated[float, Limits(above=0, high=600)] = 200.0
    input_limit_hz: Positive | None = None

    def __post_init__(self) -> None:
        if self.tyre is not None and self.circumference_m is not None:
            raise BadInput(
                "circumference_m",
                self.circumference_m,
                "exactly one of tyre and circumference_m",
                "Give exactly one of tyre and circumference_m.",
            )
        if self.tyre is None and self.circumference_m is None and self.sensed != "cable":
            raise BadInput(
                "tyre", None, "a tyre designation or circumference_m", "The key 'tyre' is missing."
            )
        if self.tyre_wear_mm < 0:
            raise BadInput("tyre_wear_mm", self.tyre_wear_mm, "0 or more: the depth of tread that is gone")


def run_speed(asked: SpeedInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Pulses for a distance; what the input makes of them at the top and at a walk."""
    around = asked.circumference_m
    answer: dict[str, Any] = {}
    if asked.tyre is not None:
        tyre = read_tyre(asked.tyre)
        around = circumference_m(tyre, asked.tyre_wear_mm)
        answer["tyre"] = {
            "style": tyre.style,
            "diameter_mm": 1000 * tyre.diameter_m,
            "load_kg": tyre.load_kg,
            "speed_kmh": tyre.speed_kmh,
        }
    pulses = pulses_per_km(
        asked.sensed,
        asked.pulses_per_rev,
        circumference_m=around,
        axle_ratio=asked.axle_ratio,
        cable_turns_per_km=asked.cable_turns_per_km,
    )
    findings = list(
        input_findings(
            pulses,
            asked.pulses_per_rev,
            top_kmh=asked.top_kmh,
            limit_hz=asked.input_limit_hz,
            subject="speed",
        )
    )
    if asked.sensed == "cable" and asked.cable_turns_per_km is None:
        findings.append(
            Finding(
                "note",
                "cable_turns_assumed",
                "speed",
                "A cable is taken to turn 1000 times a mile; older vehicles differ.",
                "621.4 turns a km",
                "Look at the old speedometer's face: the turns often stand there.",
            )
        )
    return {
        "circumference_m": around,
        "revs_per_km": 1000 / around if around else None,
        "pulses_per_km": pulses.per_km,
        "pulses_per_mile": pulses.per_mile,
        "hertz_at_100_kmh": pulses.hertz(100.0),
        **answer,
        "findings": findings_out(findings),
    }


@dataclass(frozen=True, slots=True)
class RunInput:
    """One steady run."""

    gps_kmh: AnyNumber
    shown_kmh: AnyNumber


@dataclass(frozen=True, slots=True)
class GpsInput:
    """The display's setting, runs, what the setting means, its step."""

    setting: AnyNumber
    runs: tuple[RunInput, ...]
    meaning: Literal["pulses_per_distance", "circumference"]
    step: NonNegative = 0.0
    face_step_kmh: Annotated[float, Limits(low=0, high=10)] = 0.0
    never_under: bool = False
    top_kmh: Annotated[float, Limits(above=0, high=600)] = 250.0


def run_gps(asked: GpsInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """A new setting, how far the face can show under with it, and whether it is legal."""
    runs = tuple(GpsRun(run.gps_kmh, run.shown_kmh) for run in asked.runs)
    found = calibrate(
        asked.setting,
        runs,
        asked.meaning,
        asked.step,
        face_step_kmh=asked.face_step_kmh,
        never_under=asked.never_under,
        top_kmh=asked.top_kmh,
    )
    return {
        "setting": found.setting,
        "scale": found.scale,
        "residual_kmh": found.residual_kmh,
        "legal": found.legal,
        "band": [
            {"true_kmh": at.true_kmh, "shown_kmh": at.shown_kmh, "low": at.low, "high": at.high}
            for at in found.band
        ],
        "legal_before": found.legal_before,
        "offset_kmh": None if found.offset_kmh is None else found.offset_kmh[0],
        "offset_95": None if found.offset_kmh is None else found.offset_kmh[1],
        "outliers": list(found.outliers),
        "under_kmh": found.under_kmh,
        "next_speed_kmh": next_speed_kmh(runs, asked.top_kmh),
        "findings": findings_out(found.findings),
    }


@dataclass(frozen=True, slots=True)
class TachInput:
    """The engine, the pick-up, and what is shown at a known speed."""

    cylinders: Annotated[int, Limits(low=1, high=24)]
    strokes: Literal[2, 4]
    pickup: Literal["coil_negative", "wasted_spark_coil", "plug_lead", "wasted_spark_plug_lead", "ecu"]
    pulses_per_rev: AnyNumber | None = None
    redline_rpm: Annotated[float, Limits(above=0, high=30000)] = 7000.0
    shown_rpm: AnyNumber | None = None
    true_rpm: AnyNumber | None = None
    setting: Positive | None = None

    def __post_init__(self) -> None:
        if (self.shown_rpm is None) != (self.true_rpm is None):
            missing = "true_rpm" if self.true_rpm is None else "shown_rpm"
            raise BadInput(missing, None, "both shown_rpm and true_rpm", f"The key '{missing}' is missing.")


def run_tach(asked: TachInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Pulses a turn, and what a wrong reading says."""
    pulses = engine_pulses(asked.cylinders, asked.strokes, asked.pickup, asked.pulses_per_rev)
    findings = (
        doubt_of(pulses, asked.shown_rpm, asked.true_rpm, asked.setting)
        if asked.shown_rpm is not None and asked.true_rpm is not None
        else []
    )
    answer: dict[str, Any] = {
        "pulses_per_rev": pulses.per_rev,
        "hertz_at_redline": pulses.hertz(asked.redline_rpm),
    }
    if asked.shown_rpm is not None and asked.true_rpm is not None:
        answer["ratio"] = asked.shown_rpm / asked.true_rpm
    return answer | {"findings": findings_out(findings)}


CALCULATIONS = {
    "speed": Calculation(
        SpeedInput,
        run_speed,
        {"tyre": "205/55R16 91V", "axle_ratio": 3.73, "pulses_per_rev": 4, "sensed": "driveline"},
    ),
    "gps": Calculation(
        GpsInput,
        run_gps,
        {
            "setting": 8000,
            "meaning": "pulses_per_distance",
            "step": 10,
            "runs": [
                {"gps_kmh": 40, "shown_kmh": 42.6},
                {"gps_kmh": 60, "shown_kmh": 63.4},
                {"gps_kmh": 100, "shown_kmh": 106.1},
            ],
        },
    ),
    "tach": Calculation(
        TachInput,
        run_tach,
        {"cylinders": 4, "strokes": 4, "pickup": "coil_negative", "shown_rpm": 1700, "true_rpm": 850},
    ),
}
