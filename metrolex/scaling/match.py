"""A sender that does not match its gauge: the best series and parallel resistors, or why none can do it.

The parallel resistor stands across the sender, the series resistor between that pair and the gauge. Such a network only
squeezes and shifts the sender's range; it never turns it round (textbook, resistors in series and parallel).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.scaling.resistors import preferred, rating_for

__all__ = ["MAX_SHARE", "Match", "Power", "match_sender", "power_of"]

Array = NDArray[np.float64]
Law = tuple[tuple[float, float], ...]  # (reading, ohm)
#: An error above this share of the gauge's span is a caution (common practice, no source).
MAX_SHARE = 0.05


@dataclass(frozen=True, slots=True)
class Match:
    """The best network (None: no resistor there), its greatest error over the sender's points, and what it was before.

    ``shown`` is what the gauge reads at each of the sender's points. All None where no network can do it.
    """

    series_ohm: float | None
    parallel_ohm: float | None
    max_error: float | None
    bare_error: float | None
    shown: tuple[float, ...] = ()
    findings: tuple[Finding, ...] = ()


@dataclass(frozen=True, slots=True)
class Power:
    """What each resistor has to stand, watt, and the common rating for it (None where none is large enough)."""

    series_w: float
    parallel_w: float
    series_rating_w: float | None
    parallel_rating_w: float | None


def match_sender(sender: Law, gauge: Law, series: str = "E24") -> Match:
    """The network of preferred values with the least greatest error over the sender's points.

    Both laws are (reading, ohm), straight between points; beyond its points the needle stands at its stop. Raises BadInput
    for a law that turns back, for ohms below 0, for fewer than two points.
    """
    sender_y, sender_ohm = _law(sender, "sender_points")
    gauge_y, gauge_ohm = _law(gauge, "gauge_points")
    rises = [bool(ohm[-1] > ohm[0]) for ohm in (sender_ohm, gauge_ohm)]
    if rises[0] != rises[1]:
        words = ["falls", "rises"]
        reason = f"The sender's ohms {words[rises[0]]} with the reading, the gauge wants ohms that {words[not rises[0]][:-1]}: resistors never turn that round."
        remedy = "Fit a sender made for this gauge, a gauge that can be told the curve, or a converter between them."
        return Match(
            None,
            None,
            None,
            None,
            (),
            (Finding("stop", "opposite_direction", "match", reason, remedy=remedy),),
        )
    top = max(float(gauge_ohm.max()), float(sender_ohm.max()), 1.0)
    series_values = np.concatenate([[0.0], preferred(series, 0.1, 10 * top)])
    parallel_values = np.concatenate([preferred(series, 0.5, 1000 * top), [np.inf]])
    order = slice(None) if gauge_ohm[0] < gauge_ohm[-1] else slice(None, None, -1)
    best: tuple[float, int, int, int] | None = None
    for i, series_ohm in enumerate(series_values):
        shunted = sender_ohm[:, None] / (1 + sender_ohm[:, None] / parallel_values)
        shown = np.interp(series_ohm + shunted, gauge_ohm[order], gauge_y[order])
        off = np.abs(shown - sender_y[:, None]).max(axis=0).round(12)
        # Of equals the one with fewer parts, then the larger parallel: it takes the least current.
        parts = (series_ohm > 0) + np.isfinite(parallel_values).astype(int)
        j = int(np.lexsort((-parallel_values, parts, off))[0])
        if best is None or (off[j], parts[j]) < best[:2]:
            best = (float(off[j]), int(parts[j]), i, j)
    assert best is not None  # no resistor at all is among them
    error, _, i, j = best
    series_ohm, parallel_ohm = float(series_values[i]), float(parallel_values[j])
    network = series_ohm + sender_ohm / (1 + sender_ohm / parallel_ohm)
    shown = np.interp(network, gauge_ohm[order], gauge_y[order])
    bare = np.abs(np.interp(sender_ohm, gauge_ohm[order], gauge_y[order]) - sender_y).max()
    span = float(gauge_y.max() - gauge_y.min())
    findings = []
    if error > MAX_SHARE * span:
        findings.append(
            Finding(
                "caution",
                "poor_match",
                "match",
                f"The best resistors still leave the gauge {error:.3g} off, {100 * error / span:.0f} % of its span.",
                figure=f"{error:.3g}",
                remedy="Fit a sender made for this gauge, or a display that can be told the sender's curve.",
            )
        )
    return Match(
        series_ohm or None,
        parallel_ohm if np.isfinite(parallel_ohm) else None,
        float(error),
        float(bare),
        tuple(shown.tolist()),
        tuple(findings),
    )


def power_of(found: Match, sender: Law, supply_v: float, feed_ohm: float) -> Power:
    """The most each resistor has to stand over the sender's range, fed from ``supply_v`` through ``feed_ohm`` in the gauge.

    An open sender is counted too. Raises BadInput for a supply or feed of 0 or less.
    """
    for field, value in (("supply_v", supply_v), ("feed_ohm", feed_ohm)):
        if not value > 0:
            raise BadInput(field, value, "a number above 0")
    ohm = np.append(_law(sender, "sender_points")[1], np.inf)
    series_ohm = found.series_ohm or 0.0
    parallel = found.parallel_ohm
    with np.errstate(divide="ignore"):
        pair = 1 / (1 / np.maximum(ohm, 1e-12) + (1 / parallel if parallel else 0.0))
    current = supply_v / (feed_ohm + series_ohm + pair)
    series_w = float((current**2).max() * series_ohm)
    at_pair = np.where(np.isfinite(pair), current * np.where(np.isfinite(pair), pair, 0.0), supply_v)
    parallel_w = float((at_pair**2).max() / parallel) if parallel else 0.0
    return Power(series_w, parallel_w, rating_for(series_w), rating_for(parallel_w))


def _law(points: Law, field: str) -> tuple[Array, Array]:
    if len(points) < 2:
        raise BadInput(
            field, len(points), "two points or more", f"Expected two points or more, but got {len(points)}."
        )
    y, ohm = np.array(sorted(points), dtype=np.float64).T
    if (np.diff(y) <= 0).any():
        raise BadInput(field, list(y), "each reading once")
    if (ohm < 0).any():
        raise BadInput(field, float(ohm.min()), "ohms of 0 or more")
    steps = np.diff(ohm)
    if not ((steps > 0).all() or (steps < 0).all()):
        raise BadInput(field, ohm.tolist(), "ohms that only rise or only fall with the reading")
    return y, ohm
