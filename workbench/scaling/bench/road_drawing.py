"""Runs against GPS as a fan: what was shown more than true, over true, with the legal band and the line of the new setting."""

from __future__ import annotations

from django.utils.safestring import SafeString

from metrolex.speed.gps import Calibration, GpsRun
from metrolex.speed.legal import band_kmh
from workbench.axes import axis, ticks
from workbench.drawing import ACT, INK, QUIET, Drawing

__all__ = ["runs_drawing"]

WIDTH, HEIGHT = 620.0, 330.0
LEFT, RIGHT, TOP, FLOOR = 52.0, 16.0, 26.0, 268.0


def runs_drawing(runs: tuple[GpsRun, ...], found: Calibration, ratio: float | None) -> SafeString:
    """Each run as a dot; the band that may be shown shaded; the line as it was, and as it is set now."""
    sheet = Drawing(
        WIDTH,
        HEIGHT,
        "Runs against GPS: shown less true over true speed, with the legal band",
        "drawing scaling",
    )
    top = max(130.0, 10 * (int(max(r.gps_kmh for r in runs) / 10) + 2))
    off = [r.shown_kmh - r.gps_kmh for r in runs]
    high = max(band_kmh(top)[1] - top, max(off) + 2)
    low = min(-4.0, min(off) - 2)
    across, up = axis(0, top, LEFT, WIDTH - RIGHT), axis(low, high, FLOOR, TOP)
    fill = sheet.hatch("legal", "#E4EBDF", "#C9D6C0", step=8, css="legal")
    band = [(across(v), up(band_kmh(v)[1] - v)) for v in (0.0, top)]
    sheet.path(
        [*band, (across(top), up(0)), (across(0), up(0))], fill=fill, stroke="none", width=0, css="legal-band"
    )
    sheet.text(
        across(top) - 6,
        up(high) + 14,
        "may be shown (UNECE R39)",
        size=12,
        fill=QUIET,
        css="quiet",
        anchor="end",
    )
    for value in ticks(0, top, 8):
        sheet.line(across(value), TOP, across(value), FLOOR, stroke="#D8D0BF", width=0.7, css="rule")
        sheet.text(across(value), FLOOR + 17, f"{value:g}", size=12, anchor="middle", mono=True)
    for value in ticks(low, high, 6):
        sheet.line(LEFT, up(value), WIDTH - RIGHT, up(value), stroke="#D8D0BF", width=0.7, css="rule")
        sheet.text(LEFT - 7, up(value) + 4, f"{value:+g}" if value else "0", size=12, anchor="end", mono=True)
    sheet.line(LEFT, up(0), WIDTH - RIGHT, up(0), width=1.6)
    was = (found.ratio - 1) * top
    sheet.line(across(0), up(0), across(top), up(was), stroke=INK, width=1.2, css="ink", dash="5 4")
    if ratio is not None:
        sheet.line(
            across(0), up(0), across(top), up((ratio - 1) * top), stroke=ACT, width=2.4, css="act-line"
        )
    for i, run in enumerate(runs):
        x, y = across(run.gps_kmh), up(run.shown_kmh - run.gps_kmh)
        if i in found.outliers:
            sheet.line(x - 6, y - 6, x + 6, y + 6, width=2.2)
            sheet.line(x - 6, y + 6, x + 6, y - 6, width=2.2)
        else:
            sheet.circle(x, y, 5, fill="#FFFFFF", width=2.2, css="run-mark")
        sheet.text(x, y - 10, str(i + 1), size=12, anchor="middle", mono=True)
    sheet.text(LEFT, TOP - 10, "shown less true, km/h", size=12, fill=QUIET, css="quiet")
    sheet.text(WIDTH - RIGHT, FLOOR + 35, "true by GPS, km/h", size=12, fill=QUIET, css="quiet", anchor="end")
    sheet.text(
        LEFT, FLOOR + 35, "dashed: as driven; line: as it is set now", size=12, fill=QUIET, css="quiet"
    )
    sheet.text(
        LEFT,
        FLOOR + 53,
        "crossed: does not fit the others" if found.outliers else "",
        size=12,
        fill=QUIET,
        css="quiet",
    )
    return sheet.safe()
