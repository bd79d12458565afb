"""A sensor that speaks in pulses: frequency for one quantity, the time the line is low for another.

The fuel content sensor: 50 Hz is no ethanol, 150 Hz all ethanol; the line is low 1 ms at -40 degC and 5 ms at 125 degC
(common practice, no source). Outside 45 to 155 Hz it says that something is wrong with the fuel or with it.
"""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.tables import load_table

__all__ = ["ContentReading", "read_content"]


@dataclass(frozen=True, slots=True)
class ContentReading:
    """What one pulse train says: ethanol in percent by volume, fuel temperature in degC, and findings."""

    ethanol_pct: float
    fuel_degc: float
    findings: tuple[Finding, ...]


def read_content(hertz: float, duty_pct: float) -> ContentReading:
    """Content and temperature of a pulse train of ``hertz`` that is high for ``duty_pct`` of its period.

    Raises BadInput for no pulses or a duty that leaves no edge.
    """
    if not hertz > 0:
        raise BadInput("hertz", hertz, "a frequency above 0 Hz: without pulses there is no reading")
    if not 0 < duty_pct < 100:
        raise BadInput("duty_pct", duty_pct, "above 0 and below 100 %")
    table = load_table("content")
    low_ms = (1 - duty_pct / 100) * 1000 / hertz
    content, warmth = _line(table["hertz"], hertz), _line(table["low_ms"], low_ms)
    findings = []
    fault_low, fault_high = table["fault_outside_hertz"]
    if not fault_low <= hertz <= fault_high:
        findings.append(
            Finding(
                "stop",
                "content_sensor_fault",
                "content sensor",
                f"{hertz:.3g} Hz is outside what fuel can give: water in it, a broken wire or a dead sensor.",
                f"{hertz:.3g} Hz",
                "Drain a sample, check supply and pull-up, then the sensor.",
            )
        )
    if not table["low_ms"][0][0] <= low_ms <= table["low_ms"][1][0]:
        findings.append(
            Finding(
                "caution",
                "low_time_outside",
                "content sensor",
                f"The line is low for {low_ms:.2f} ms: outside 1 to 5 ms it tells no fuel temperature.",
                f"{low_ms:.2f} ms",
                "Check where the pulse is measured and which level counts as low.",
            )
        )
    return ContentReading(min(max(content, 0.0), 100.0), warmth, tuple(findings))


def _line(points: list[list[float]], x: float) -> float:
    (x0, y0), (x1, y1) = points
    return y0 + (x - x0) * (y1 - y0) / (x1 - x0)
