"""Points a fitter can measure in the bay: references at hand, and what looks wrong about a set of points.

Ice water 0 degC (definition of the ice point, stirred slush of clean water); boiling water by altitude (``air.atmosphere``).
Doubt about units: common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from metrolex.air.atmosphere import boiling_degc
from metrolex.findings import Finding
from metrolex.senders.curves import Curve, Point
from metrolex.senders.law import is_monotonic, x_range, y_at

__all__ = ["References", "Suspect", "point_findings", "references", "which_sender"]


@dataclass(frozen=True, slots=True)
class References:
    """Temperatures that need no thermometer, degC: stirred ice water and boiling water where the workshop stands."""

    ice_degc: float
    boiling_degc: float


def references(altitude_m: float) -> References:
    """The two fixed points at an altitude. Raises BadInput outside the troposphere."""
    return References(0.0, boiling_degc(altitude_m=altitude_m))


def point_findings(points: tuple[Point, ...], x_unit: str, y_unit: str) -> list[Finding]:
    """Doubts about measured points: kilo-ohms typed as ohms, Fahrenheit as Celsius, all points in one spot."""
    found: list[Finding] = []
    if len(points) < 2:
        return found
    xs, ys = [x for x, _ in points], [y for _, y in points]
    if x_unit == "ohm" and y_unit == "degC" and max(xs) < 25 and min(ys) < 60:
        found.append(
            Finding(
                "caution",
                "looks_like_kilo_ohm",
                "points",
                f"{max(xs):g} ohm at {ys[xs.index(max(xs))]:g} degC is very low for a temperature sender: is it {max(xs):g} kilo-ohm?",
                figure=f"{max(xs):g} ohm",
                remedy="Look at the meter's range; write 2.2k for kilo-ohms.",
            )
        )
    if y_unit == "degC" and any(200 <= y <= 213 for y in ys) and any(30 <= y <= 34 for y in ys):
        found.append(
            Finding(
                "caution",
                "looks_like_fahrenheit",
                "points",
                "32 and about 212 look like ice and boiling water in degrees Fahrenheit.",
                remedy="Write 212 F, or change the unit of the points.",
            )
        )
    if y_unit == "degC" and max(ys) - min(ys) < 25:
        found.append(
            Finding(
                "caution",
                "points_close",
                "points",
                "All points lie within a few degrees: outside of them the curve is a guess.",
                figure=f"{max(ys) - min(ys):g} degC apart",
                remedy="Add ice water and boiling water.",
            )
        )
    return found


@dataclass(frozen=True, slots=True)
class Suspect:
    """A sender of the library against measured points: rms of its curve less the points in y, points it covers.

    ``ties`` names the others that these points cannot tell from it.
    """

    name: str
    rms: float
    largest: float
    covered: int
    ties: tuple[str, ...] = ()


TIE_SHARE = 0.02  # of the points' span in y: nearer than that two senders are one to these points (common practice, no source)


def which_sender(points: tuple[Point, ...], curves: dict[str, Curve]) -> tuple[Suspect, ...]:
    """The senders whose curve could be this one, nearest first; only those whose range holds every point.

    Curves of another unit of x or y are for the caller to leave out.
    """
    ranked = []
    for name, curve in curves.items():
        low, high = x_range(curve)
        inside = [(x, y) for x, y in points if low <= x <= high]
        if not inside or len(inside) < len(points) or not is_monotonic(curve):
            continue
        off = [float(y_at(curve, x)) - y for x, y in inside]
        rms = (sum(r * r for r in off) / len(off)) ** 0.5
        ranked.append(Suspect(name, rms, max(map(abs, off)), len(inside)))
    ranked.sort(key=lambda s: s.rms)
    ys = [y for _, y in points]
    close = TIE_SHARE * (max(ys) - min(ys)) if ys else 0.0
    return tuple(
        replace(
            s,
            ties=tuple(
                o.name
                for o in ranked
                if o is not s
                and abs(o.rms - s.rms) <= close
                and same_law(curves[o.name], curves[s.name], points, close)
            ),
        )
        for s in ranked
    )


def same_law(one: Curve, other: Curve, points: tuple[Point, ...], close: float) -> bool:
    """Whether two curves read the points alike, to ``close`` in y."""
    return all(abs(float(y_at(one, x)) - float(y_at(other, x))) <= max(close, 1e-9) for x, _ in points)
