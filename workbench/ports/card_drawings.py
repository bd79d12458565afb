"""Small drawings of a work card: the drills in real size, the tip of a lambda sensor above level."""

from __future__ import annotations

import math

from django.utils.safestring import SafeString

from workbench.drawing import QUIET, Drawing

__all__ = ["drill_strip", "tip_angle_drawing"]


def drill_strip(sizes_mm: tuple[float, ...]) -> SafeString:
    """The drills in order as circles; one unit is a millimetre, so that print comes out in real size."""
    gap = 9.0
    width = sum(sizes_mm) + gap * (len(sizes_mm) + 1)
    height = max(sizes_mm) + 7
    sheet = Drawing(width, height, "Drills in order, real size", "drawing drill-strip")
    sheet.root.set("width", f"{width:.1f}mm")
    sheet.root.set("height", f"{height:.1f}mm")
    x = gap
    for i, size in enumerate(sizes_mm):
        sheet.circle(
            x + size / 2,
            max(sizes_mm) / 2 + 0.5,
            size / 2,
            width=0.35,
            fill="#F1E3B4" if i == len(sizes_mm) - 1 else "#FCFAF4",
        )
        sheet.text(x + size / 2, height - 1.2, f"{size:g}", size=3.6, anchor="middle", mono=True)
        x += size + gap
    return sheet.safe()


def tip_angle_drawing(angle_deg: float | None, least_deg: float) -> SafeString:
    """The pipe from its end with the sensor in it: how far its tip stands above level, against what condensate asks for."""
    sheet = Drawing(300, 200, "Tip of the sensor above level", "drawing tip-angle")
    x, y, radius = 118.0, 122.0, 52.0
    sheet.circle(x, y, radius, width=5)
    sheet.circle(x, y, radius - 5, width=1)
    sheet.line(x - 20, y, 290, y, width=1, dash="8 4")
    sheet.text(290, y + 15, "level", size=12, anchor="end", fill=QUIET, css="quiet")
    shown = least_deg if angle_deg is None else angle_deg
    for angle, kind in ((least_deg, "least"), (shown, "now")):
        turn = math.radians(angle)
        dx, dy = math.cos(turn), -math.sin(turn)
        if kind == "least":
            sheet.line(x, y, x + 165 * dx, y + 165 * dy, width=1.2, dash="3 4")
            sheet.text(
                x + 168 * dx,
                y + 168 * dy - 4,
                f"{least_deg:g}° at least",
                size=12,
                anchor="end",
                fill=QUIET,
                css="quiet",
            )
            continue
        sheet.line(
            x + (radius - 22) * dx,
            y + (radius - 22) * dy,
            x + radius * dx,
            y + radius * dy,
            width=11,
            stroke="#8D8574",
            css="probe-tip",
        )
        sheet.line(
            x + radius * dx,
            y + radius * dy,
            x + (radius + 46) * dx,
            y + (radius + 46) * dy,
            width=17,
            stroke="#A98A2C",
            css="probe-body",
        )
    words = f"{shown:g}°" if angle_deg is not None else "measure it"
    sheet.text(6, 20, words, size=20, bold=True, mono=True)
    sheet.text(6, 36, "tip above level", size=12, fill=QUIET, css="quiet")
    return sheet.safe()
