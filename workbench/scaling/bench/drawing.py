"""The sender's curve with the display's table on it, and the error strip below."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from django.utils.safestring import SafeString

from metrolex.job import Input, MeasuringChain, Sender
from metrolex.quantities import in_unit, unit_words
from metrolex.scaling.error import table_error
from metrolex.scaling.reading import ends
from metrolex.senders import is_monotonic, x_at, x_range, y_range
from workbench.axes import axis, decades, ticks
from workbench.drawing import ACT, QUIET, Drawing

__all__ = ["scaling_drawing"]

WIDTH, HEIGHT = 620.0, 430.0
LEFT, RIGHT, TOP, FLOOR = 62.0, 14.0, 18.0, 268.0
STRIP_TOP, STRIP_FLOOR = 318.0, 394.0


def scaling_drawing(
    channel: MeasuringChain, sender: Sender, stage: Input | None, true: float | None
) -> SafeString:
    """What the sender gives over what it measures; the table's rows as squares; the error of the face below."""
    sheet = Drawing(
        WIDTH,
        HEIGHT,
        f"{channel.name}: sender curve, display table and error",
        "drawing scaling",
        holds_links=True,
    )
    if not is_monotonic(sender.curve):
        sheet.text(LEFT, 40, "The curve turns back: one sender value stands for several readings.")
        return sheet.safe()
    low, high = _span(channel, sender)
    across = axis(low, high, LEFT, WIDTH - RIGHT)
    x_low, x_high = x_range(sender.curve)
    xs = [x for x, _ in channel.scaling.table if _same_kind(channel, sender)] + [x_low, x_high]
    logarithmic = min(xs) > 0 and max(xs) / min(xs) > 15
    up = axis(
        *((math.log10(min(xs)), math.log10(max(xs))) if logarithmic else (min(0.0, *xs), max(xs))), FLOOR, TOP
    )

    def height(x: float) -> float:
        return up(math.log10(max(x, 1e-9))) if logarithmic else up(x)

    _grid(sheet, channel, across, low, high)
    _levels(sheet, height, min(xs), max(xs), logarithmic, sender.curve.x_unit)
    _curve(sheet, channel, sender, across, height)
    if _same_kind(channel, sender):
        ends_up = (math.log10(min(xs)), math.log10(max(xs))) if logarithmic else (min(0.0, *xs), max(xs))
        steps = (stage.table.x_step, stage.table.y_step) if stage is not None else (0.0, 0.0)
        sheet.group(
            data_scale="",
            data_low=low,
            data_high=high,
            data_left=LEFT,
            data_right=WIDTH - RIGHT,
            data_top=TOP,
            data_floor=FLOOR,
            data_bottom=ends_up[0],
            data_most=ends_up[1],
            data_log=int(logarithmic),
            data_step_x=steps[0] or (max(xs) - min(xs)) / 400,
            data_step_y=steps[1] or (high - low) / 200,
        )
        sheet.end()
        _table(sheet, channel, across, height)
    if true is not None and low <= true <= high:
        sheet.line(
            across(true), TOP, across(true), STRIP_FLOOR, stroke=ACT, width=1.2, css="act-line", dash="5 4"
        )
        right = across(true) < WIDTH - 110
        sheet.text(
            across(true) + (6 if right else -6),
            TOP + 10,
            f"true {true:g}",
            size=12,
            fill=ACT,
            css="act",
            anchor="start" if right else "end",
        )
    if stage is not None:
        _strip(sheet, channel, sender, stage, across)
    return sheet.safe()


def _same_kind(channel: MeasuringChain, sender: Sender) -> bool:
    return channel.scaling.x_unit == sender.curve.x_unit


def _span(channel: MeasuringChain, sender: Sender) -> tuple[float, float]:
    reach = sorted(in_unit(y, sender.curve.y_unit, channel.unit) for y in y_range(sender.curve))
    low, high = ends(channel.scaling)
    if low is None or high is None:
        return reach[0], reach[1]
    margin = 0.25 * (high - low)
    return max(min(reach[0], low), low - margin), min(max(reach[1], high), high + margin)


def _grid(
    sheet: Drawing, channel: MeasuringChain, across: Callable[[float], float], low: float, high: float
) -> None:
    sheet.rect(LEFT, TOP, WIDTH - RIGHT - LEFT, FLOOR - TOP, css="box", width=1.2)
    for value in ticks(low, high, 8):
        x = across(value)
        sheet.line(x, TOP, x, FLOOR, stroke="#D8D0BF", width=0.7, css="rule")
        sheet.text(x, FLOOR + 17, f"{value:g}", size=12, anchor="middle", mono=True)
    sheet.text(
        WIDTH - RIGHT,
        FLOOR + 33,
        f"what it measures, {unit_words(channel.unit)}",
        size=12,
        anchor="end",
        fill=QUIET,
        css="quiet",
    )


def _levels(
    sheet: Drawing, height: Callable[[float], float], low: float, high: float, logarithmic: bool, unit: str
) -> None:
    values = decades(low, high) if logarithmic else ticks(min(0.0, low), high, 6)
    for value in values:
        y = height(value)
        sheet.line(LEFT, y, WIDTH - RIGHT, y, stroke="#D8D0BF", width=0.7, css="rule")
        words = f"{value / 1000:g}k" if value >= 1000 else f"{value:g}"
        sheet.text(LEFT - 7, y + 4, words, size=12, anchor="end", mono=True)
    sheet.text(8, TOP - 5, f"what it gives, {unit_words(unit)}", size=12, fill=QUIET, css="quiet")


def _curve(
    sheet: Drawing,
    channel: MeasuringChain,
    sender: Sender,
    across: Callable[[float], float],
    height: Callable[[float], float],
) -> None:
    low, high = _span(channel, sender)
    reach = sorted(in_unit(y, sender.curve.y_unit, channel.unit) for y in y_range(sender.curve))
    true = np.linspace(max(low, reach[0]), min(high, reach[1]), 160)
    inner = np.clip([in_unit(v, channel.unit, sender.curve.y_unit) for v in true], *y_range(sender.curve))
    points = [
        (across(float(y)), height(float(x)))
        for y, x in zip(true, x_at(sender.curve, inner), strict=True)
        if np.isfinite(x)
    ]
    sheet.path(points, width=2.4, css="ink")


def _table(
    sheet: Drawing,
    channel: MeasuringChain,
    across: Callable[[float], float],
    height: Callable[[float], float],
) -> None:
    rows = [(across(y), height(x)) for x, y in channel.scaling.table]
    inside = [(x, y) for x, y in rows if LEFT - 1 <= x <= WIDTH - RIGHT + 1]
    if len(inside) > 1:
        sheet.path(inside, stroke=ACT, width=1.4, css="act-line", dash="2 3")
    for i, (x, y) in enumerate(channel.scaling.table):
        at_x, at_y = across(y), height(x)
        if not LEFT - 1 <= at_x <= WIDTH - RIGHT + 1:
            continue
        sheet.group(
            class_="slide",
            data_row=i,
            data_x=x,
            data_y=y,
            tabindex=0,
            role="slider",
            aria_label=f"Row {i + 1}",
            aria_valuenow=y,
            aria_valuetext=f"{x:g} in, {y:g} shown",
        )
        sheet.rect(at_x - 11, at_y - 11, 22, 22, fill="#FFFFFF00", stroke="none", width=0, css="grip")
        sheet.rect(at_x - 4, at_y - 4, 8, 8, fill="#FFFFFF", stroke=ACT, width=2, css="row-mark")
        sheet.end()


def _strip(
    sheet: Drawing, channel: MeasuringChain, sender: Sender, stage: Input, across: Callable[[float], float]
) -> None:
    strip = table_error(channel, sender, stage)
    sheet.rect(LEFT, STRIP_TOP, WIDTH - RIGHT - LEFT, STRIP_FLOOR - STRIP_TOP, css="box", width=1.2)
    if strip is None or not strip.true.size:
        sheet.text(LEFT + 10, STRIP_TOP + 40, "No table entered yet.", fill=QUIET, css="quiet")
        return
    most = max(strip.largest, 10.0**-channel.scaling.decimals)
    down = axis(-most, most, STRIP_FLOOR - 3, STRIP_TOP + 3)
    sheet.line(LEFT, down(0), WIDTH - RIGHT, down(0), stroke="#A89F8C", width=0.8, css="rule")
    sheet.path(
        [(across(float(t)), down(float(e))) for t, e in zip(strip.true, strip.error, strict=True)],
        width=1.6,
        css="ink",
    )
    sheet.text(LEFT - 7, STRIP_TOP + 11, f"+{most:.2g}", size=12, anchor="end", mono=True)
    sheet.text(LEFT - 7, STRIP_FLOOR, f"-{most:.2g}", size=12, anchor="end", mono=True)
    words = f"shown less true: table, converter and rounding, at most ± {strip.largest:.2g} {unit_words(channel.unit)}"
    sheet.text(LEFT, STRIP_FLOOR + 20, words, size=12, fill=QUIET, css="quiet")
