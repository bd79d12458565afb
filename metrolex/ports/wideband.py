"""Where a wideband lambda sensor stands along the exhaust: distance by practice, turbine, catalyst, tip, open end.

All common practice, no source: practitioners disagree on the distance, so the practice is chosen by name.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from metrolex.findings import Finding

__all__ = ["LEAST_OPEN_END_MM", "LEAST_TIP_DEG", "PRACTICES", "Practice", "WidebandPlace", "judge_wideband"]

Practice = Literal["12_to_36_in", "18_in", "24_in"]
#: Allowed distance from the head port, or from the turbine where there is one, in millimetres by practice.
PRACTICES: dict[Practice, tuple[float, float]] = {
    "12_to_36_in": (305.0, 914.0),
    "18_in": (457.0, 914.0),
    "24_in": (534.0, 686.0),
}
LEAST_TIP_DEG = 10.0
LEAST_OPEN_END_MM = 450.0


@dataclass(frozen=True, slots=True)
class WidebandPlace:
    """Whether a place will do, the distance its practice allows, and what is wrong."""

    ok: bool
    allowed_mm: tuple[float, float]
    findings: tuple[Finding, ...]


def judge_wideband(
    distance_mm: float,
    after_turbine: bool | None,
    before_catalyst: bool | None,
    tip_angle_deg: float | None,
    open_end_distance_mm: float | None,
    practice: Practice = "12_to_36_in",
) -> WidebandPlace:
    """Judge one place. ``distance_mm`` is along the pipe from the head port, or from the turbine's outlet.

    ``after_turbine`` None: no turbine; ``before_catalyst`` None: no catalyst; an unknown angle or open end is not
    judged. The place is ok when nothing above a note is found.
    """
    low, high = PRACTICES[practice]
    found: list[Finding] = []

    def say(grade: Literal["stop", "caution"], code: str, reason: str, figure: str, remedy: str) -> None:
        found.append(Finding(grade, code, "lambda sensor", reason, figure, remedy, "ports"))

    if after_turbine is False:
        say(
            "stop",
            "before_turbine",
            "Before the turbine pressure and heat spoil the reading and the sensor.",
            "before the turbine",
            "Move it behind the turbine.",
        )
    if before_catalyst is False:
        say(
            "stop",
            "after_catalyst",
            "The catalyst has changed the gas: the reading is no mixture any more.",
            "behind the catalyst",
            "Move it between engine and catalyst.",
        )
    if distance_mm < low:
        say(
            "caution",
            "lambda_too_close",
            "So close the sensor runs too hot and dies early.",
            f"{distance_mm:.0f} mm, at least {low:.0f}",
            f"Move it {low - distance_mm:.0f} mm downstream.",
        )
    if distance_mm > high:
        say(
            "caution",
            "lambda_too_far",
            "So far down the gas is cool and the answer late.",
            f"{distance_mm:.0f} mm, at most {high:.0f}",
            f"Move it {distance_mm - high:.0f} mm upstream.",
        )
    if tip_angle_deg is not None and tip_angle_deg < LEAST_TIP_DEG:
        say(
            "caution",
            "lambda_lies_flat",
            "Condensate runs into the sensor and cracks it.",
            f"{tip_angle_deg:g}° above level, at least {LEAST_TIP_DEG:g}°",
            "Turn the bung up the side of the pipe.",
        )
    if open_end_distance_mm is not None and open_end_distance_mm < LEAST_OPEN_END_MM:
        say(
            "caution",
            "near_open_end",
            "Air comes back in at the open end: it reads lean at idle.",
            f"{open_end_distance_mm:.0f} mm, at least {LEAST_OPEN_END_MM:.0f}",
            "Move it upstream or lengthen the pipe.",
        )
    return WidebandPlace(not found, (low, high), tuple(found))
