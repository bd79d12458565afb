"""From the side: the eye, what stands between, the panel, the sight line to the display in hand with its figures."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from metrolex.job import Mounting, Site
from metrolex.mount.eyes import ELLIPSE_MM
from metrolex.mount.seen import View
from metrolex.mount.shadow import middle_lines
from metrolex.mount.space import axes_of
from workbench.drawing import ACT, INK, PAPER, QUIET, Drawing

__all__ = ["side_drawing"]

Array = NDArray[np.float64]
At = Callable[[Array], tuple[float, float]]
WIDE = 430.0
MARGIN = 24.0


def side_drawing(site: Site, mounting: Mounting, view: View) -> Drawing:
    """Seen from the driver's right, the road to the left, to scale."""
    axes = axes_of(site)
    eye = np.array([site.eye.eye_right_mm, site.eye.eye_up_mm, site.eye.eye_back_mm])
    spot = axes.into_vehicle(np.array([mounting.x, mounting.y, mounting.stands_mm]))
    ys = [y for _, y in site.outline]
    panel = axes.into_vehicle(np.array([[0.0, min(ys), 0.0], [0.0, max(ys), 0.0]]))
    rings = [(axes.into_vehicle(line), half) for line, half in middle_lines(site)[:1]]
    points = np.vstack(
        [
            eye + np.array([0.0, 70.0, 60.0]),
            eye - np.array([0.0, 70.0, 0.0]),
            spot,
            panel,
            *[line for line, _ in rings],
        ]
    )
    back, up = points[:, 2], points[:, 1]
    left, top = back.min() - 130, up.max() + 30
    scale = min((WIDE - 2 * MARGIN) / (back.max() - left), 0.62)
    high = (top - up.min() + 20) * scale + 2 * MARGIN

    def at(point: Array) -> tuple[float, float]:
        return MARGIN + (float(point[2]) - left) * scale, MARGIN + (top - float(point[1])) * scale

    sheet = Drawing(WIDE, high, f"{site.name} from the side, the road to the left", "drawing side")
    _screen(sheet, site, at, left, top)
    sheet.path([at(panel[0]), at(panel[1])], width=5, css="ink")
    for line, half in rings:
        _rim(sheet, line, half, at, scale)
    ex, ey = at(eye)
    if site.eye.driver == "any":
        _ellipse(sheet, eye, at)
    sheet.line(ex, ey, MARGIN, ey, stroke=QUIET, width=1, dash="3 4", css="quiet-line")
    sheet.text(MARGIN, ey - 6, "the road", size=12, fill=QUIET, css="quiet")
    sx, sy = at(spot)
    sheet.line(ex, ey, sx, sy, stroke=ACT, width=2, css="act-line")
    sheet.circle(sx, sy, 5, fill=ACT, stroke=PAPER, width=1.5, css="act-fill")
    sheet.circle(ex, ey, 6, fill=PAPER, stroke=INK, width=2, css="box")
    sheet.circle(ex - 2.5, ey, 2.2, fill=INK, stroke="none", width=0, css="dot")
    mx, my = (ex + sx) / 2, (ey + sy) / 2
    sheet.rect(mx - 38, my + 8, 76, 20, stroke="none", width=0, css="label", round_=3)
    sheet.text(
        mx, my + 23, f"{view.distance_mm:.0f} mm", size=15, anchor="middle", bold=True, mono=True, css="act"
    )
    down = f"{abs(view.down_deg):.0f}° {'down' if view.down_deg > 0 else 'up'}"
    if abs(view.down_deg) < 0.5:
        down = "level"
    aside = ELLIPSE_MM[2] * scale + 8 if site.eye.driver == "any" else 14
    sheet.text(ex - aside, ey - 7, down, size=14, anchor="end", mono=True, css="words")
    return sheet


def _rim(sheet: Drawing, line: Array, half: float, at: At, scale: float) -> None:
    """The rim cut at its top and its bottom, its plane between them; the bar as a round."""
    top, bottom = line[line[:, 1].argmax()], line[line[:, 1].argmin()]
    if abs(top[1] - bottom[1]) > 1.0:
        (x1, y1), (x2, y2) = at(top), at(bottom)
        sheet.line(x1, y1, x2, y2, stroke=QUIET, width=1.2, css="quiet-line", dash="6 3")
    for point in (top, bottom):
        x, y = at(point)
        sheet.circle(x, y, max(half * scale, 2.5), fill=QUIET, stroke=INK, width=1.2, css="rim")


def _ellipse(sheet: Drawing, eye: Array, at: At) -> None:
    """Where the eyes of most drivers lie."""
    turn = np.linspace(0, 2 * np.pi, 40)
    around = [at(eye + np.array([0.0, ELLIPSE_MM[1] * np.sin(a), ELLIPSE_MM[2] * np.cos(a)])) for a in turn]
    sheet.path(around, stroke=QUIET, width=1, dash="3 3", css="quiet-line")


def _screen(sheet: Drawing, site: Site, at: At, left: float, top: float) -> None:
    glass = site.glass
    if glass.screen_rake_deg is None or glass.screen_ahead_mm is None:
        return
    rake = np.radians(glass.screen_rake_deg)
    along = np.array([0.0, np.sin(rake), np.cos(rake)])
    foot = np.array([0.0, 0.0, -glass.screen_ahead_mm])
    ends = [
        point
        for point in (foot + along * t for t in np.linspace(-2000, 2000, 400))
        if left < point[2] and point[1] < top and point[1] > -260
    ]
    if len(ends) > 1:
        sheet.path([at(ends[0]), at(ends[-1])], stroke=QUIET, width=2, css="quiet-line", dash="10 3")
