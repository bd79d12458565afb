"""An opening in cross-section: the hole, the wires packed in it in their colours, the plugs that must pass."""

from __future__ import annotations

from django.utils.safestring import SafeString

from metrolex.harness.openings import Crossing
from workbench.drawing import QUIET, Drawing, wire_paint

__all__ = ["opening_drawing"]

WIDTH, HEIGHT, MIDDLE = 420.0, 250.0, 120.0


def opening_drawing(crossing: Crossing) -> SafeString:
    """Hole and bundle to one scale, plugs beside them."""
    opening, passage = crossing.opening, crossing.passage
    widest = max(
        [opening.hole_mm, passage.hole_needed_mm if passage else 0.0, *(p.w_mm for p in opening.plugs)]
    )
    scale = 200.0 / widest
    sheet = Drawing(
        WIDTH,
        HEIGHT,
        f"{opening.name}: {len(crossing.wires)} wires in a hole of {opening.hole_mm:g} mm",
        "drawing crosscut",
    )
    hole = opening.hole_mm / 2 * scale
    if opening.edge != "bare":
        sheet.circle(MIDDLE, MIDDLE, hole + 5, width=1, fill="#8A8F94", css="rubber")
    sheet.circle(MIDDLE, MIDDLE, hole, width=2)
    if passage is not None:
        for i, circle in enumerate(passage.circles):
            x, y, r = MIDDLE + circle.x * scale, MIDDLE + circle.y * scale, circle.r * scale
            wire = crossing.leads[i].wire
            sheet.circle(
                x, y, r, width=0.9, fill=wire_paint(wire.look.colour) if wire else "#E7E1D3", css="wire-end"
            )
            if wire is not None and r > 9:
                sheet.text(
                    x,
                    y + 3.5,
                    wire.id,
                    size=min(10.0, r),
                    anchor="middle",
                    css="wire-name",
                    fill="#FFFFFF" if wire.look.colour in DARK else "#1B1F22",
                )
        if passage.bundle_mm / 2 * scale < 118:
            sheet.circle(MIDDLE, MIDDLE, passage.bundle_mm / 2 * scale, width=1.1, fill="none", css="ring")
    sheet.text(
        MIDDLE,
        HEIGHT - 4,
        f"hole {opening.hole_mm:g} mm, {opening.edge}",
        size=12.5,
        anchor="middle",
        fill=QUIET,
        css="quiet",
    )
    y = 24.0
    for plug in opening.plugs:
        w, h = plug.w_mm * scale, plug.h_mm * scale
        if y + h > HEIGHT - 20:
            break
        sheet.rect(260, y, min(w, 150), h, width=1.4, round_=2)
        sheet.text(
            260,
            y + h + 14,
            f"{plug.name}, {plug.w_mm:g} x {plug.h_mm:g} mm",
            size=12,
            fill=QUIET,
            css="quiet",
        )
        y += h + 30
    return sheet.safe()


DARK = {"BK", "BN", "RD", "GN", "BU", "VT", "DB", "DG"}
