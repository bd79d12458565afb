"""Shift lamps: lit ahead of the shift point by what the engine gains while the driver reacts; steps below it.

Lead = engine acceleration x reaction time (kinematics). A driver who waits for the lamp takes about 0.3 s, one who watches the
road 0.5 s (common practice, no source).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from metrolex.errors import BadInput

__all__ = ["REACTION_S", "ShiftLamps", "engine_gain", "lamps_for", "shift_rpm"]

REACTION_S = 0.3


@dataclass(frozen=True, slots=True)
class ShiftLamps:
    """Engine speeds at which the lamps light, rising, the last of them the order to shift; the point that is then hit."""

    steps_rpm: tuple[float, ...]
    order_rpm: float
    shift_rpm: float
    lead_rpm: float


def engine_gain(
    power_kw: float, mass_kg: float, ratio_total: float, circumference_m: float, speed_kmh: float
) -> float:
    """Engine acceleration, rpm/s, at full power and a road speed: P = m a v, taken through the gearing (losses left out).

    Raises BadInput for anything of 0 or less.
    """
    given = {
        "power_kw": power_kw,
        "mass_kg": mass_kg,
        "ratio_total": ratio_total,
        "circumference_m": circumference_m,
        "speed_kmh": speed_kmh,
    }
    for field, value in given.items():
        if not value > 0:
            raise BadInput(field, value, "a number above 0")
    acceleration = power_kw * 1000 / mass_kg / (speed_kmh / 3.6)
    return acceleration / circumference_m * 60 * ratio_total


def shift_rpm(
    curve: tuple[tuple[float, float], ...], ratio: float, next_ratio: float, redline_rpm: float
) -> float:
    """Engine speed at which the next gear pulls as hard: where power after the shift is that before; the redline where it never is.

    ``curve`` is (rpm, power), straight between points. Raises BadInput for a curve of fewer than three points or gears out of order.
    """
    if len(curve) < 3:
        raise BadInput("power", len(curve), "three points or more of engine speed and power")
    if not ratio > next_ratio > 0:
        raise BadInput("gear_ratios", [ratio, next_ratio], "ratios that fall from gear to gear")
    rpm, power = np.array(sorted(curve)).T
    if (np.diff(rpm) <= 0).any():
        raise BadInput("power", rpm.tolist(), "each engine speed once")
    top = min(redline_rpm, float(rpm[-1]))
    grid = np.arange(float(rpm[int(power.argmax())]), top + 1, 10.0)
    after = np.interp(grid * next_ratio / ratio, rpm, power)
    better = np.flatnonzero(after >= np.interp(grid, rpm, power))
    return float(grid[better[0]]) if better.size else redline_rpm


def lamps_for(
    shift_at_rpm: float,
    gain_rpm_per_s: float,
    reaction_s: float = REACTION_S,
    lamps: int = 5,
    step_s: float = 0.25,
    redline_rpm: float | None = None,
) -> ShiftLamps:
    """Lamps a step of time apart, the last one ahead of the shift point by the driver's reaction.

    Raises BadInput for no lamps, a reaction below 0 and a shift point at or beyond the redline's reach.

    >>> lamps_for(6500, 1000).order_rpm, lamps_for(6500, 1000, lamps=3).steps_rpm
    (6200.0, (5700.0, 5950.0, 6200.0))
    """
    if not 1 <= lamps <= 24:
        raise BadInput("lamps", lamps, "1 to 24 lamps")
    if not 0 <= reaction_s <= 2:
        raise BadInput("reaction_s", reaction_s, "0 to 2 s")
    if not (gain_rpm_per_s > 0 and step_s > 0):
        raise BadInput(
            "gain_rpm_per_s" if not gain_rpm_per_s > 0 else "step_s",
            min(gain_rpm_per_s, step_s),
            "a number above 0",
        )
    if redline_rpm is not None and shift_at_rpm > redline_rpm:
        raise BadInput("shift_rpm", shift_at_rpm, f"no more than the redline, {redline_rpm:g} rpm")
    lead = gain_rpm_per_s * reaction_s
    order = shift_at_rpm - lead
    if order <= 0:
        raise BadInput(
            "reaction_s", reaction_s, f"under {shift_at_rpm / gain_rpm_per_s:.2f} s at this acceleration"
        )
    steps = tuple(max(order - gain_rpm_per_s * step_s * k, 0.0) for k in range(lamps - 1, -1, -1))
    return ShiftLamps(steps, order, shift_at_rpm, lead)
