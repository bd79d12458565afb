"""Where along a path a reading is good: zones shaded on the drawing, and the verdict on a pin. One set of rules for both.

Rules stand in ``data/zones.toml`` (common practice, no source); the distance of a lambda sensor follows its practice.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from metrolex.findings import Finding, Grade
from metrolex.job.place import FlowPath
from metrolex.ports.paths import LinePart, line_of, upstream
from metrolex.ports.wideband import PRACTICES, Practice
from metrolex.tables import load_table

__all__ = ["Zone", "clear_stretches", "lambda_start_m", "verdicts_at", "zones_of"]


@dataclass(frozen=True, slots=True)
class Zone:
    """A part of a path and what is wrong with a sender there."""

    from_m: float
    to_m: float
    grade: Grade
    code: str
    reason: str
    remedy: str

    def holds(self, at_m: float) -> bool:
        return self.from_m <= at_m <= self.to_m


def zones_of(
    measurand: str, path: FlowPath, paths: Sequence[FlowPath] = (), lambda_practice: Practice = "12_to_36_in"
) -> tuple[Zone, ...]:
    """The zones of a path for a measurand, by what lies on it, before it and behind it. Empty where the path has no scale."""
    if path.length_m is None:
        return ()
    found = list(_rules(measurand, path, line_of(path, paths)))
    if measurand == "lambda" and path.kind == "exhaust":
        found.extend(_lambda_distance(path, paths, lambda_practice))
    return tuple(sorted(found, key=lambda zone: (zone.from_m, zone.to_m)))


def verdicts_at(zones: Sequence[Zone], at_m: float, subject: str, channel: str = "") -> tuple[Finding, ...]:
    """What the zones say of a pin, each as a finding with the pin and the stretch it lies in as the figure."""
    found = []
    for zone in zones:
        if zone.holds(at_m):
            where = (
                f"at {1000 * at_m:.0f} mm, this stretch {1000 * zone.from_m:.0f} to {1000 * zone.to_m:.0f} mm"
            )
            found.append(
                Finding(zone.grade, zone.code, subject, zone.reason, where, zone.remedy, "ports", channel)
            )
    return tuple(found)


def clear_stretches(zones: Sequence[Zone], length_m: float) -> list[tuple[float, float]]:
    """Where no stop and no caution stands, from start to end of the path."""
    barred = sorted((z.from_m, z.to_m) for z in zones if z.grade != "note")
    found, here = [], 0.0
    for start, end in barred:
        if start > here + 1e-6:
            found.append((here, start))
        here = max(here, end)
    if here < length_m - 1e-6:
        found.append((here, length_m))
    return found


def lambda_start_m(path: FlowPath, paths: Sequence[FlowPath]) -> float:
    """Where the distance of a lambda sensor counts from, on this path: the turbine's outlet, else the head port.

    Negative where that lies on a path upstream.
    """
    turbine = path.last("turbine")
    if turbine is not None:
        return turbine.end_m
    offset = 0.0
    for before in upstream(paths, path):
        offset -= before.length_m or 0.0
        turbine = before.last("turbine")
        if turbine is not None:
            return offset + turbine.end_m
    return offset


def _lambda_distance(path: FlowPath, paths: Sequence[FlowPath], practice: Practice) -> Iterator[Zone]:
    low, high = PRACTICES[practice]
    length = path.length_m or 0.0
    start = lambda_start_m(path, paths)
    near, far = start + low / 1000, start + high / 1000
    begin = max(start, 0.0)
    if near > begin:
        yield Zone(
            begin,
            min(near, length),
            "caution",
            "lambda_too_close",
            f"Closer than {low:.0f} mm the sensor runs too hot and dies early.",
            "Move it downstream.",
        )
    if far < length:
        yield Zone(
            max(far, 0.0),
            length,
            "caution",
            "lambda_too_far",
            f"Beyond {high:.0f} mm the gas is cool and the answer late.",
            "Move it upstream.",
        )


def _rules(measurand: str, path: FlowPath, line: Sequence[LinePart]) -> Iterator[Zone]:
    length = path.length_m or 0.0
    for row in load_table("zones").get(measurand, ()):
        start, end = _end(path, line, row["from"]), _end(path, line, row["to"])
        if start is None or end is None:
            continue
        low = min(max(start + row.get("from_by_m", 0.0), 0.0), length)
        high = min(max(end + row.get("to_by_m", 0.0), 0.0), length)
        if low < high:
            yield Zone(low, high, row["grade"], row["code"], row["reason"], row["remedy"])


def _end(path: FlowPath, line: Sequence[LinePart], words: str) -> float | None:
    for word in words.split("|"):
        kind, _, end = word.partition(".")
        if kind == "start":
            return 0.0
        if kind == "end":
            return path.length_m
        parts = [part for part in line if part.kind == kind]
        if parts:
            return parts[-1].end_m if end else parts[0].at_m
    return None
