"""Command line: wire, fuse, run, bundle."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from metrolex.cli.calculation import Calculation, findings_out
from metrolex.errors import BadInput
from metrolex.feeds.fuses import choose_fuse
from metrolex.findings import Finding
from metrolex.harness.bundle import MOST_WIRES, Connector, Wires, pass_through
from metrolex.harness.conductors import (
    REFERENCE_AMBIENT_DEGC,
    Surroundings,
    System,
    choose_wire,
    guarded_by_a,
)
from metrolex.harness.runs import plan_run
from metrolex.intake import Limits, NonNegative, Percent, Positive
from metrolex.job import Run, Segment

__all__ = ["CALCULATIONS", "BundleInput", "FuseInput", "RunInput", "WireInput"]


@dataclass(frozen=True, slots=True)
class WireInput:
    """A load at the end of a run."""

    current_a: Positive
    length_m: Positive
    volts: Positive
    max_drop_v: Positive
    system: System
    return_: Literal["body", "wire"]
    temperature_degc: Annotated[float, Limits(low=-60, high=250)] = 20.0
    ambient_degc: Annotated[float, Limits(low=-60, high=240)] = REFERENCE_AMBIENT_DEGC
    bundled: Annotated[int, Limits(low=1, high=200)] = 1
    insulation_degc: Annotated[float, Limits(low=60, high=260)] = 105.0

    def __post_init__(self) -> None:
        if self.max_drop_v >= self.volts:
            raise BadInput("max_drop_v", self.max_drop_v, f"less than the supply, {self.volts:g} V")


def run_wire(asked: WireInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """The smallest size for the current and the drop."""
    choice = choose_wire(
        asked.current_a,
        asked.length_m,
        asked.max_drop_v,
        asked.temperature_degc,
        asked.system,
        asked.return_ == "wire",
        Surroundings(asked.ambient_degc, asked.bundled, asked.insulation_degc),
    )
    findings = list(choice.findings)
    if asked.return_ == "body" and choice.gauge:
        findings.append(
            Finding(
                "note",
                "body_return",
                "wire",
                "The body is counted as nothing; its joints are not nothing.",
                remedy="Measure the drop from the display's ground to battery negative under load.",
            )
        )
    gauge = choice.gauge
    return {
        "size": gauge.size if gauge else None,
        "drop_v": choice.drop_v,
        "resistance_ohm": choice.resistance_ohm,
        "max_fuse_a": choice.max_fuse_a,
        "findings": findings_out(findings),
    }


@dataclass(frozen=True, slots=True)
class FuseInput:
    """A load, the smallest wire behind the fuse, and what the tap carries."""

    load_a: NonNegative
    wire: Positive
    system: System
    tap_limit_a: Positive | None = None
    peak_a: NonNegative = 0.0
    peak_s: NonNegative = 0.0
    ambient_degc: Annotated[float, Limits(low=-60, high=240)] = REFERENCE_AMBIENT_DEGC
    bundled: Annotated[int, Limits(low=1, high=200)] = 1
    insulation_degc: Annotated[float, Limits(low=60, high=260)] = 105.0


def run_fuse(asked: FuseInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """The fuse to fit."""
    try:
        allowed = guarded_by_a(
            asked.wire, asked.system, Surroundings(asked.ambient_degc, asked.bundled, asked.insulation_degc)
        )
    except BadInput as fault:
        raise BadInput("wire" if fault.field == "size" else fault.field, fault.value, fault.allowed) from None
    choice = choose_fuse(asked.load_a, allowed, asked.tap_limit_a, peak_a=asked.peak_a, peak_s=asked.peak_s)
    return {
        "fuse_a": choice.fuse_a,
        "colour": choice.colour,
        "wire_max_fuse_a": allowed,
        "findings": findings_out(choice.findings),
    }


@dataclass(frozen=True, slots=True)
class RunSegment:
    """A stretch of a run."""

    length_m: NonNegative
    peak_degc: Annotated[float, Limits(low=-60, high=1200)]
    moving: bool
    name: str = ""


@dataclass(frozen=True, slots=True)
class RunInput:
    """A run and the lead supplied for it (null: none)."""

    segments: tuple[RunSegment, ...]
    supplied_m: Positive | None
    slack_pct: Percent = 0.0
    ends_m: NonNegative = 0.0

    def __post_init__(self) -> None:
        if not self.segments:
            raise BadInput("segments", [], "at least one segment")


def run_run(asked: RunInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Length, extension, spare and insulation of a run."""
    segments = tuple(
        Segment(part.name or f"segment {i}", part.length_m, part.peak_degc, part.moving)
        for i, part in enumerate(asked.segments, 1)
    )
    plan = plan_run(Run("run", "run", segments, asked.slack_pct, asked.ends_m, asked.supplied_m))
    return {
        "length_m": plan.length_m,
        "extension_m": plan.extension_m,
        "spare_m": plan.spare_m,
        "insulation_class": plan.insulation_class,
        "findings": findings_out(plan.findings),
    }


@dataclass(frozen=True, slots=True)
class BundleWires:
    """Wires of one outside diameter."""

    od_mm: Positive
    count: Annotated[int, Limits(low=1, high=MOST_WIRES)] = 1


@dataclass(frozen=True, slots=True)
class BundleConnector:
    """A connector that must pass."""

    w_mm: Positive
    h_mm: Positive


@dataclass(frozen=True, slots=True)
class BundleInput:
    """Wires and connectors, and the hole they must pass (null: none yet)."""

    wires: tuple[BundleWires, ...]
    connectors: tuple[BundleConnector, ...] = ()
    hole_mm: Positive | None = None

    def __post_init__(self) -> None:
        if not self.wires:
            raise BadInput("wires", [], "at least one wire")
        if sum(w.count for w in self.wires) > MOST_WIRES:
            raise BadInput("wires", sum(w.count for w in self.wires), f"up to {MOST_WIRES} wires")


def run_bundle(asked: BundleInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """The bundle, and whether it passes."""
    passage = pass_through(
        [Wires(w.od_mm, w.count) for w in asked.wires],
        [Connector(c.w_mm, c.h_mm) for c in asked.connectors],
        asked.hole_mm,
    )
    return {
        "bundle_mm": passage.bundle_mm,
        "hole_needed_mm": passage.hole_needed_mm,
        "passes": passage.passes,
        "circles": [{"x": c.x, "y": c.y, "r": c.r} for c in passage.circles],
        "findings": findings_out(passage.findings),
    }


CALCULATIONS = {
    "bundle": Calculation(
        BundleInput,
        run_bundle,
        {
            "wires": [{"od_mm": 1.6, "count": 4}, {"od_mm": 2.1, "count": 3}],
            "connectors": [{"w_mm": 18, "h_mm": 12}],
            "hole_mm": 20,
        },
    ),
    "wire": Calculation(
        WireInput,
        run_wire,
        {
            "current_a": 1.8,
            "length_m": 3.2,
            "volts": 12,
            "max_drop_v": 0.3,
            "temperature_degc": 40,
            "system": "mm2",
            "return": "wire",
        },
    ),
    "fuse": Calculation(
        FuseInput, run_fuse, {"load_a": 1.8, "wire": 0.75, "system": "mm2", "tap_limit_a": 10}
    ),
    "run": Calculation(
        RunInput,
        run_run,
        {
            "segments": [
                {"length_m": 1.1, "peak_degc": 110, "moving": True},
                {"length_m": 0.7, "peak_degc": 70, "moving": False},
                {"length_m": 1.2, "peak_degc": 50, "moving": False},
            ],
            "slack_pct": 5,
            "ends_m": 0.3,
            "supplied_m": 3.0,
        },
    ),
}
