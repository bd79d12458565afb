"""Gear position: taught volts of a lever sensor, or engine speed over road speed; thresholds half way, margins told.

Thresholds half way between neighbours (common practice, no source); ratios from the driveline (textbook).
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.findings import Finding

__all__ = ["Gate", "expected_ratios", "gates_of", "gear_at"]

#: Neighbours nearer than this are told apart by luck (common practice, no source).
CLOSE_VOLT = 0.25
CLOSE_SHARE = 0.08


@dataclass(frozen=True, slots=True)
class Gate:
    """One gear: its taught value, the thresholds to its neighbours, and how far it is from the nearest of them."""

    gear: str
    value: float
    low: float
    high: float

    @property
    def margin(self) -> float:
        return min(self.value - self.low, self.high - self.value)


def gates_of(
    taught: tuple[tuple[str, float], ...], *, by_ratio: bool = False
) -> tuple[tuple[Gate, ...], tuple[Finding, ...]]:
    """Thresholds between taught gears, in rising order of value, and findings where two lie close.

    ``by_ratio``: values are engine rpm per km/h, thresholds stand at the geometric mean. Raises BadInput for fewer than
    two gears, a gear or a value taught twice, a ratio of 0 or less.
    """
    if len(taught) < 2:
        raise BadInput("taught", len(taught), "two gears or more")
    names = [gear for gear, _ in taught]
    if len(set(names)) < len(names):
        raise BadInput("taught", names, "each gear once")
    ordered = sorted(taught, key=lambda pair: pair[1])
    for (first, low), (second, high) in itertools.pairwise(ordered):
        if low == high:
            raise BadInput(
                "taught",
                low,
                "a value of its own for each gear",
                f"{first} and {second} were taught the same value, {low:g}.",
            )
    if by_ratio and ordered[0][1] <= 0:
        raise BadInput("taught", ordered[0][1], "a ratio above 0")
    values = [value for _, value in ordered]
    between = [(a * b) ** 0.5 if by_ratio else (a + b) / 2 for a, b in itertools.pairwise(values)]
    edges = [
        0.0 if by_ratio else values[0] - (values[1] - values[0]) / 2,
        *between,
        values[-1] * (values[-1] / values[-2]) ** 0.5
        if by_ratio
        else values[-1] + (values[-1] - values[-2]) / 2,
    ]
    gates = tuple(Gate(gear, value, edges[i], edges[i + 1]) for i, (gear, value) in enumerate(ordered))
    findings = []
    for one, two in itertools.pairwise(gates):
        apart = two.value / one.value - 1 if by_ratio else two.value - one.value
        if apart < (CLOSE_SHARE if by_ratio else CLOSE_VOLT):
            figure = f"{100 * apart:.0f} %" if by_ratio else f"{apart:.2f} V"
            findings.append(
                Finding(
                    "caution",
                    "gears_close",
                    f"{one.gear} and {two.gear}",
                    f"{one.gear} and {two.gear} are only {figure} apart: a worn linkage or noise will show the wrong one.",
                    figure,
                    "Lengthen the sensor's lever or move it nearer to the shaft, so that it turns further."
                    if not by_ratio
                    else "Check tyre size and axle ratio; otherwise show the gear from a lever sensor.",
                )
            )
    return gates, tuple(findings)


def gear_at(gates: tuple[Gate, ...], value: float) -> str | None:
    """The gear a value stands for; None beyond the outermost thresholds."""
    return next((gate.gear for gate in gates if gate.low <= value < gate.high), None)


def expected_ratios(
    gear_ratios: tuple[float, ...], axle_ratio: float, circumference_m: float
) -> tuple[tuple[str, float], ...]:
    """Engine rpm per km/h of each gear: gear ratio x axle ratio x wheel turns a minute at 1 km/h. Raises BadInput.

    >>> [(gear, round(ratio, 2)) for gear, ratio in expected_ratios((3.0, 1.0), 4.0, 2.0)]
    [('1', 100.0), ('2', 33.33)]
    """
    if not gear_ratios or any(not ratio > 0 for ratio in gear_ratios):
        raise BadInput("gear_ratios", list(gear_ratios), "ratios above 0")
    if not (axle_ratio > 0 and circumference_m > 0):
        raise BadInput(
            "axle_ratio" if not axle_ratio > 0 else "circumference_m",
            axle_ratio if not axle_ratio > 0 else circumference_m,
            "a number above 0",
        )
    per_kmh = axle_ratio * 1000 / 60 / circumference_m
    return tuple((str(i), ratio * per_kmh) for i, ratio in enumerate(gear_ratios, 1))
