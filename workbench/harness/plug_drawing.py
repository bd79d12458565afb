"""A connector as it lies in the hand, seen from one side."""

from __future__ import annotations

from metrolex.harness.translate import function_words, places_of
from metrolex.job import Cavity, Connector, Display
from workbench.drawing import INK, QUIET, Drawing, wire_paint

__all__ = ["plug_drawing"]

CELL_W, CELL_H, EDGE = 106.0, 64.0, 14.0


def plug_drawing(connector: Connector, view: str, display: Display | None = None) -> Drawing:
    """Cavities by row and column as seen from ``view``; wires in their colours with the printed code."""
    places = places_of(connector, view)
    columns = max((c for _, _, c in places), default=1)
    rows = max((r for _, r, _ in places), default=1)
    width, height = columns * CELL_W + 2 * EDGE, rows * CELL_H + 2 * EDGE + 24
    words = "; ".join(f"pin {c.pin} {_said(c, display) or 'not said'}" for c, _, _ in places)
    sheet = Drawing(width, height, f"{connector.name} from the {view}: {words}", "drawing plug")
    sheet.rect(3, 3, width - 6, height - 30, width=2.5, round_=8)
    sheet.rect(width / 2 - 18, 0, 36, 7, width=2, css="box")  # the latch, so that top and bottom are known
    for cavity, row, column in places:
        x, y = EDGE + (column - 1) * CELL_W, EDGE + (row - 1) * CELL_H
        sheet.rect(x + 3, y + 3, CELL_W - 6, CELL_H - 6, width=1.2, round_=3)
        sheet.text(x + 9, y + 20, cavity.pin, size=15, bold=True, mono=True)
        if cavity.colour:
            code = cavity.code
            sheet.circle(
                x + CELL_W - 20,
                y + 15,
                8,
                fill=wire_paint(cavity.colour),
                stroke=INK,
                width=1.5,
                css="wire-end",
            )
            if cavity.stripe:
                sheet.circle(
                    x + CELL_W - 20,
                    y + 15,
                    3.5,
                    fill=wire_paint(cavity.stripe),
                    stroke=INK,
                    width=0.6,
                    css="wire-end",
                )
            if cavity.stripe_2:
                sheet.circle(
                    x + CELL_W - 20,
                    y + 15,
                    1.6,
                    fill=wire_paint(cavity.stripe_2),
                    stroke=INK,
                    width=0.5,
                    css="wire-end",
                )
            sheet.text(
                x + CELL_W - 32, y + 20, code, size=11, anchor="end", mono=True, fill=QUIET, css="quiet"
            )
        for i, line in enumerate(_two_lines(_said(cavity, display) or "not used")):
            sheet.text(
                x + 9,
                y + 37 + 13 * i,
                line,
                size=11.5,
                fill=INK if _said(cavity, display) else QUIET,
                css="words" if _said(cavity, display) else "quiet",
            )
    sheet.text(
        width / 2, height - 6, f"seen from the {view}", size=12.5, anchor="middle", fill=QUIET, css="quiet"
    )
    return sheet


def _said(cavity: Cavity, display: Display | None) -> str:
    """What a place is for: as entered, or as the display names that pin."""
    pin = next((p for p in display.pins if p.id == cavity.pin), None) if display else None
    return function_words(cavity.function) or (pin.name if pin else "")


def _two_lines(words: str) -> list[str]:
    most = 14
    if len(words) <= most:
        return [words]
    cut = words.rfind(" ", 0, most + 1)
    cut = cut if cut > 0 else most
    rest = words[cut:].strip()
    return [words[:cut], rest if len(rest) <= most else rest[: most - 1] + "…"]
