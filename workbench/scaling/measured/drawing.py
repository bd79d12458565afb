"""Measured points on the law fitted to them, with its band of confidence, and the residuals below."""

from __future__ import annotations

import math

import numpy as np
from django.utils.safestring import SafeString

from metrolex.job import Sender
from metrolex.quantities import unit_words
from metrolex.senders import x_range, y_at
from metrolex.senders.fit import Fit
from workbench.axes import axis, decades, ticks
from workbench.drawing import ACT, QUIET, Drawing

__all__ = ["measured_drawing"]

WIDTH, HEIGHT = 620.0, 400.0
LEFT, RIGHT, TOP, FLOOR = 62.0, 16.0, 22.0, 268.0
STRIP_TOP, STRIP_FLOOR = 316.0, 376.0


def measured_drawing(sender: Sender, fit: Fit) -> SafeString:
    """What the meter read across (by decades where it spans many), what it truly was up; residuals as stalks."""
    sheet = Drawing(
        WIDTH, HEIGHT, f"{sender.name}: measured points and the law fitted to them", "drawing scaling"
    )
    xs, ys = np.array(fit.points).T
    log = bool(xs.min() > 0 and xs.max() / xs.min() > 8)
    reach = x_range(fit.curve)
    low, high = (
        (xs.min() / 1.3, xs.max() * 1.3)
        if log
        else (xs.min() - 0.08 * np.ptp(xs), xs.max() + 0.08 * np.ptp(xs))
    )
    low, high = max(float(low), reach[0]), min(float(high), reach[1])
    at = np.geomspace(low, high, 140) if log else np.linspace(low, high, 140)
    line = y_at(fit.curve, at)
    wide = fit.band(at) if fit.band is not None else np.zeros_like(at)
    bottom, top = float(min(np.nanmin(line), ys.min())), float(max(np.nanmax(line), ys.max()))
    up = axis(bottom, top, FLOOR - 6, TOP + 6)
    straight = axis(math.log10(low) if log else low, math.log10(high) if log else high, LEFT, WIDTH - RIGHT)

    def across(x: float) -> float:
        return straight(math.log10(x) if log else x)

    sheet.rect(LEFT, TOP, WIDTH - RIGHT - LEFT, FLOOR - TOP, width=1.2)
    for value in decades(low, high) if log else ticks(low, high, 8):
        sheet.line(across(value), TOP, across(value), FLOOR, stroke="#D8D0BF", width=0.7, css="rule")
        sheet.text(
            across(value),
            FLOOR + 17,
            f"{value / 1000:g}k" if value >= 1000 else f"{value:g}",
            size=12,
            anchor="middle",
            mono=True,
        )
    for value in ticks(bottom, top, 6):
        sheet.line(LEFT, up(value), WIDTH - RIGHT, up(value), stroke="#D8D0BF", width=0.7, css="rule")
        sheet.text(LEFT - 7, up(value) + 4, f"{value:g}", size=12, anchor="end", mono=True)
    if fit.band is not None:
        fill = sheet.hatch("sure", "#E4EBDF", "#C9D6C0", step=7, css="legal")
        upper = [
            (across(float(x)), min(max(up(float(y + w)), TOP), FLOOR))
            for x, y, w in zip(at, line, wide, strict=True)
        ]
        lower = [
            (across(float(x)), min(max(up(float(y - w)), TOP), FLOOR))
            for x, y, w in zip(at, line, wide, strict=True)
        ]
        sheet.path([*upper, *reversed(lower)], fill=fill, stroke="none", width=0, css="legal-band")
    sheet.path([(across(float(x)), up(float(y))) for x, y in zip(at, line, strict=True)], width=2.4)
    most = max(*(abs(r) for r in fit.residuals), 1e-09)
    down = axis(-most, most, STRIP_FLOOR - 6, STRIP_TOP + 6)
    sheet.rect(LEFT, STRIP_TOP, WIDTH - RIGHT - LEFT, STRIP_FLOOR - STRIP_TOP, width=1.2)
    sheet.line(LEFT, down(0), WIDTH - RIGHT, down(0), stroke="#A89F8C", width=0.8, css="rule")
    for i, ((x, y), residual) in enumerate(zip(fit.points, fit.residuals, strict=True)):
        place = across(x)
        sheet.circle(place, up(y), 5.5, fill="#FFFFFF", stroke=ACT, width=2.2, css="run-mark")
        if i in fit.outliers:
            sheet.circle(place, up(y), 10, fill="none", width=2, css="ink")
        sheet.line(place, down(0), place, down(residual), stroke=ACT, width=3, css="act-line")
    sheet.text(8, TOP - 8, f"truly, {unit_words(sender.curve.y_unit)}", size=12, fill=QUIET, css="quiet")
    sheet.text(
        WIDTH - RIGHT,
        FLOOR + 34,
        f"the meter read, {unit_words(sender.curve.x_unit)}",
        size=12,
        fill=QUIET,
        css="quiet",
        anchor="end",
    )
    sheet.text(LEFT - 7, STRIP_TOP + 12, f"+{most:.2g}", size=12, anchor="end", mono=True)
    sheet.text(LEFT - 7, STRIP_FLOOR, f"-{most:.2g}", size=12, anchor="end", mono=True)
    words = "curve less point" + (", the band: 95 % sure" if fit.band is not None else "")
    sheet.text(LEFT, STRIP_FLOOR + 18, words, size=12, fill=QUIET, css="quiet")
    return sheet.safe()
