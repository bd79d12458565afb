"""Operating points: what is really there with the engine cold, warm, under load, on overrun, stopped hot."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from metrolex.intake import AnyNumber
from metrolex.job.words import RUNNING_POINTS, EnginePoint, Measurand
from metrolex.quantities import in_unit
from metrolex.tables import load_table

__all__ = ["TruePoint", "said_at", "usual_at", "value_at"]


@dataclass(frozen=True, slots=True)
class TruePoint:
    """What is really there at one operating point, in the channel's unit."""

    point: EnginePoint
    value: AnyNumber


def value_at(
    measurand: Measurand,
    unit: str,
    point: EnginePoint,
    stopped: float | None,
    running: float | None,
    said: tuple[TruePoint, ...],
) -> float | None:
    """What is really there at a point: as said, else as is usual; None where nothing is known of it. In ``unit``."""
    spoken = said_at(point, stopped, running, said)
    return usual_at(measurand, unit, point, stopped, running) if spoken is None else spoken


def said_at(
    point: EnginePoint, stopped: float | None, running: float | None, said: tuple[TruePoint, ...]
) -> float | None:
    """What somebody said is there at a point; None where it is only usual."""
    if point == "stopped":
        return stopped
    if point == "running":
        return running
    return next((one.value for one in said if one.point == point), None)


def usual_at(
    measurand: Measurand, unit: str, point: EnginePoint, stopped: float | None, running: float | None
) -> float | None:
    """What is usually there (points.toml), by what stands there stopped and at warm idle."""
    row: dict[str, Any] | None = load_table("points").get(measurand, {}).get(point)
    if row is None:
        return running if point in RUNNING_POINTS else stopped
    kit_unit = str(load_table("measurands")[measurand]["unit"])
    if "at" in row:
        return _tidy(in_unit(float(row["at"]), kit_unit, unit))
    if stopped is None or running is None:
        return running if point in RUNNING_POINTS else stopped
    more = in_unit(float(row.get("add", 0.0)), kit_unit, unit) - in_unit(0.0, kit_unit, unit)
    return _tidy(stopped + float(row["f"]) * (running - stopped) + more)


def _tidy(value: float) -> float:
    """To three figures: what is usual is not known better."""
    return float(f"{value:.3g}")
