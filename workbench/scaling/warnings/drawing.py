"""A warning over a simulated drive: the healthy reading, the failing one, when the lamp was lit."""

from __future__ import annotations

import numpy as np
from django.utils.safestring import SafeString

from metrolex.job import MeasuringChain
from metrolex.quantities import unit_words
from metrolex.warning.alarm import Alarm, level_at
from metrolex.warning.drive import Replay
from workbench.axes import axis, ticks
from workbench.drawing import ACT, QUIET, Drawing

__all__ = ["replay_drawing"]

WIDTH, HEIGHT = 620.0, 380.0
LEFT, RIGHT, TOP, FLOOR = 52.0, 16.0, 24.0, 232.0
RPM_TOP, RPM_FLOOR = 292.0, 338.0
THIN = 6


def replay_drawing(channel: MeasuringChain, alarm: Alarm, seen: Replay) -> SafeString:
    """Time across; readings up, level dashed; lamp strips and engine speed below."""
    sheet = Drawing(WIDTH, HEIGHT, f"{channel.name}: the warning over a simulated drive", "drawing scaling")
    healthy, failing = seen.healthy, seen.failing
    t = healthy.seconds[::THIN]
    level = level_at(alarm, healthy["rpm"])[::THIN]
    values = [healthy["reading"], failing["reading"], level[np.isfinite(level)]] + (
        [np.array([alarm.high])] if alarm.high is not None else []
    )
    low, high = min(float(v.min()) for v in values if v.size), max(float(v.max()) for v in values if v.size)
    pad = 0.06 * (high - low or 1.0)
    across, up = axis(0, float(t[-1]), LEFT, WIDTH - RIGHT), axis(low - pad, high + pad, FLOOR, TOP)
    sheet.rect(LEFT, TOP, WIDTH - RIGHT - LEFT, FLOOR - TOP, width=1.2)
    for value in ticks(low, high, 6):
        sheet.line(LEFT, up(value), WIDTH - RIGHT, up(value), stroke="#D8D0BF", width=0.7, css="rule")
        sheet.text(LEFT - 7, up(value) + 4, f"{value:g}", size=12, anchor="end", mono=True)
    sheet.path(
        [(across(float(s)), up(float(v))) for s, v in zip(t, failing["reading"][::THIN], strict=True)],
        stroke=ACT,
        width=1.2,
        css="act-line",
        dash="3 3",
    )
    sheet.path(
        [(across(float(s)), up(float(v))) for s, v in zip(t, healthy["reading"][::THIN], strict=True)],
        width=1.6,
    )
    if np.isfinite(level).all():
        sheet.path(
            [(across(float(s)), up(float(v))) for s, v in zip(t, level, strict=True)],
            stroke="#B3261E",
            width=1.8,
            css="stop-line",
            dash="8 4",
        )
    if alarm.high is not None:
        sheet.line(
            LEFT,
            up(alarm.high),
            WIDTH - RIGHT,
            up(alarm.high),
            stroke="#B3261E",
            width=1.8,
            css="stop-line",
            dash="8 4",
        )
    for row, (words, stretches) in enumerate((("lamp, healthy", seen.false), ("lamp, failing", seen.caught))):
        y = FLOOR + 12 + 18 * row
        sheet.line(LEFT, y + 6, WIDTH - RIGHT, y + 6, stroke="#D8D0BF", width=0.7, css="rule")
        for stretch in stretches:
            x = across(stretch.start)
            sheet.rect(
                x,
                y,
                max(across(stretch.stop) - x, 2.5),
                11,
                fill="#B3261E" if row == 0 else ACT,
                stroke="none",
                width=0,
                css="stop-fill" if row == 0 else "act-fill",
            )
        sheet.text(LEFT + 4, y + 10, words, size=11.5, fill=QUIET, css="quiet")
    turn = axis(0, float(healthy["rpm"].max()), RPM_FLOOR, RPM_TOP)
    sheet.path(
        [(across(float(s)), turn(float(v))) for s, v in zip(t, healthy["rpm"][::THIN], strict=True)],
        stroke=QUIET,
        width=1.2,
        css="quiet-line",
    )
    sheet.text(LEFT - 7, RPM_TOP + 8, f"{float(healthy['rpm'].max()):.0f}", size=12, anchor="end", mono=True)
    sheet.text(LEFT - 7, RPM_FLOOR + 2, "rpm", size=12, anchor="end", fill=QUIET, css="quiet")
    for value in (0, 60, 120, 180, 240, 300):
        sheet.text(across(value), RPM_FLOOR + 18, str(value), size=12, anchor="middle", mono=True)
    sheet.text(WIDTH - RIGHT, RPM_FLOOR + 34, "seconds", size=12, anchor="end", fill=QUIET, css="quiet")
    sheet.text(
        8,
        TOP - 9,
        f"{unit_words(channel.unit)}; line: healthy, dotted: failing from 245 s, dashed: the level",
        size=12,
        fill=QUIET,
        css="quiet",
    )
    return sheet.safe()
