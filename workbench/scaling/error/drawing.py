"""The error budget as bands stacked over the range: each part's size, the likely total as a line."""

from __future__ import annotations

import numpy as np
from django.utils.safestring import SafeString

from metrolex.job import MeasuringChain
from metrolex.quantities import unit_words
from metrolex.scaling.budget import TERMS, Budget
from workbench.axes import axis, ticks
from workbench.drawing import ACT, INK, QUIET, Drawing

__all__ = ["TERM_WORDS", "budget_drawing"]

WIDTH, HEIGHT = 620.0, 372.0
LEFT, RIGHT, TOP, FLOOR = 52.0, 158.0, 24.0, 318.0
TERM_WORDS = {
    "sender": "sender",
    "self_heating": "its own warmth",
    "pull_up": "pull-up",
    "reference": "reference",
    "cold_junction": "cold junction",
    "wire": "wire",
    "ground_offset": "ground offset",
    "converter": "converter",
    "converter_offset": "converter's zero",
    "table": "table",
    "rounding": "rounding",
    "place": "place of the port",
}
#: Paper-like tints, light and dark in turn so that neighbours part without colour too; each with its own hatching angle.
_TINTS = (
    "#C9B48A",
    "#E6DAB9",
    "#9FB3B0",
    "#D5E0DC",
    "#B98F6F",
    "#EBD3C2",
    "#8E9A7B",
    "#D6DDC8",
    "#A7A2B5",
    "#DCD8E6",
    "#B0A79A",
    "#EDE8DC",
)
_ANGLES = (45, 0, 135, 90, 60, 20, 110, 70, 160, 30, 120, 80)


def budget_drawing(channel: MeasuringChain, budget: Budget, at: float) -> SafeString:
    """Readings across, sizes of the errors stacked up; the dashed line is the root of squares."""
    sheet = Drawing(
        WIDTH, HEIGHT, f"{channel.name}: the error of each part over the range", "drawing scaling"
    )
    y = budget.y
    high = max(float(budget.worst_case.max()), 1e-9) * 1.04
    across, up = axis(float(y[0]), float(y[-1]), LEFT, WIDTH - RIGHT), axis(0, high, FLOOR, TOP)
    floor = np.zeros_like(y)
    labels = []
    for i, name in enumerate(TERMS):
        size = np.abs(budget.terms[name])
        if float(size.max()) < 1e-3 * high:
            continue
        fill = sheet.hatch(f"term{i}", _TINTS[i], INK, angle=_ANGLES[i], step=9, css=f"term{i}")
        upper = floor + size
        shape = [(across(float(v)), up(float(e))) for v, e in zip(y, upper, strict=True)]
        shape += [(across(float(v)), up(float(e))) for v, e in zip(y[::-1], floor[::-1], strict=True)]
        sheet.path(shape, fill=fill, stroke=INK, width=0.8, css="term")
        labels.append((fill, TERM_WORDS[name], "term"))
        floor = upper
    _names(sheet, labels)
    sheet.path(
        [
            (across(float(v)), up(float(e)))
            for v, e in zip(y, np.abs(budget.shift) + budget.half_95, strict=True)
        ],
        stroke=ACT,
        width=2.8,
        css="act-line",
        dash="9 5",
    )
    sheet.line(LEFT, FLOOR, WIDTH - RIGHT, FLOOR)
    for value in ticks(float(y[0]), float(y[-1]), 7):
        sheet.line(across(value), FLOOR, across(value), FLOOR + 5, width=1)
        sheet.text(across(value), FLOOR + 19, f"{value:g}", size=12, anchor="middle", mono=True)
    for value in ticks(0, high, 6):
        sheet.line(LEFT - 5, up(value), LEFT, up(value), width=1)
        sheet.text(LEFT - 9, up(value) + 4, f"{value:g}", size=12, anchor="end", mono=True)
    sheet.line(across(at), TOP, across(at), FLOOR, stroke=INK, width=1.4, css="ink", dash="2 4")
    unit = unit_words(channel.unit)
    sheet.text(8, TOP - 9, f"error, {unit}, all parts at their worst", size=12, fill=QUIET, css="quiet")
    sheet.text(WIDTH - RIGHT, FLOOR + 38, f"reading, {unit}", size=12, fill=QUIET, css="quiet", anchor="end")
    sheet.text(LEFT, FLOOR + 38, "dashed: 95 % of such jobs stay under it", size=12, fill=QUIET, css="quiet")
    return sheet.safe()


def _names(sheet: Drawing, labels: list[tuple[str, str, str]]) -> None:
    """The bands' names beside the drawing, from the top of the stack down, each with a patch of its tint."""
    for row, (fill, word, css) in enumerate(reversed(labels)):
        y = TOP + 8 + 24 * row
        sheet.rect(WIDTH - RIGHT + 16, y - 11, 18, 15, fill=fill, stroke=INK, width=0.8, css=css)
        sheet.text(WIDTH - RIGHT + 42, y + 1, word, size=12.5)
