"""Litres against ohms: the curve, the fillings it was dipped with, the reserve."""

from __future__ import annotations

import numpy as np
from django.utils.safestring import SafeString

from metrolex.job import Tank
from metrolex.senders import TableCurve, y_at
from workbench.axes import axis, ticks
from workbench.drawing import ACT, QUIET, Drawing

__all__ = ["tank_drawing"]

WIDTH, HEIGHT = 620.0, 300.0
LEFT, RIGHT, TOP, FLOOR = 52.0, 16.0, 22.0, 248.0


def tank_drawing(tank: Tank, curve: TableCurve) -> SafeString:
    """Ohms across, litres up."""
    sheet = Drawing(WIDTH, HEIGHT, "Litres in the tank over the ohms of its sender", "drawing scaling")
    xs = [x for x, _ in curve.points] + [f.ohm for f in tank.fillings]
    low, high = min(0.0, *xs), max(xs) * 1.04
    across, up = axis(low, high, LEFT, WIDTH - RIGHT), axis(0, tank.capacity_l, FLOOR, TOP)
    sheet.rect(LEFT, TOP, WIDTH - RIGHT - LEFT, FLOOR - TOP, width=1.2)
    if tank.reserve_l:
        fill = sheet.hatch("reserve", "#F6E7C8", "#D9B873", step=8, css="warn")
        sheet.rect(
            LEFT,
            up(tank.reserve_l),
            WIDTH - RIGHT - LEFT,
            FLOOR - up(tank.reserve_l),
            fill=fill,
            stroke="none",
            width=0,
            css="warn-zone",
        )
        sheet.text(
            WIDTH - RIGHT - 8,
            up(tank.reserve_l) - 6,
            f"lamp on, {tank.reserve_l:g} L",
            size=12,
            anchor="end",
            fill=QUIET,
            css="quiet",
        )
    for value in ticks(low, high, 8):
        sheet.line(across(value), TOP, across(value), FLOOR, stroke="#D8D0BF", width=0.7, css="rule")
        sheet.text(across(value), FLOOR + 17, f"{value:g}", size=12, anchor="middle", mono=True)
    for value in ticks(0, tank.capacity_l, 6):
        sheet.line(LEFT, up(value), WIDTH - RIGHT, up(value), stroke="#D8D0BF", width=0.7, css="rule")
        sheet.text(LEFT - 7, up(value) + 4, f"{value:g}", size=12, anchor="end", mono=True)
    at = np.linspace(curve.points[0][0], curve.points[-1][0], 120)
    sheet.path(
        [(across(float(x)), up(float(y))) for x, y in zip(at, y_at(curve, at), strict=True)], width=2.4
    )
    for filling in tank.fillings:
        sheet.circle(
            across(filling.ohm), up(filling.litres), 5, fill="#FFFFFF", stroke=ACT, width=2.2, css="run-mark"
        )
    sheet.text(8, TOP - 8, "litres", size=12, fill=QUIET, css="quiet")
    sheet.text(
        WIDTH - RIGHT, FLOOR + 35, "ohms of the sender", size=12, fill=QUIET, css="quiet", anchor="end"
    )
    return sheet.safe()
