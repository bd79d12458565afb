"""A stencil as SVG of its real size: for a file, and cut into sheets of paper with a bar to check the scale by."""

from __future__ import annotations

import math
from collections.abc import Iterator

from metrolex.mount.stencil import CHECK_BAR_MM, Disc, Line, Stencil
from workbench.drawing import INK, QUIET, Drawing

__all__ = ["SHEETS", "sheets_of", "stencil_drawing"]

#: What of a sheet of paper can be printed on inside the margins of css/book.css, less head and check bar, mm.
SHEETS = {"A4": (178.0, 225.0), "letter": (184.0, 207.0)}
OVERLAP_MM = 10.0
STROKES = {"cut": (INK, 0.35, ""), "mark": (QUIET, 0.2, "2 1.5"), "size": (QUIET, 0.2, "")}


def stencil_drawing(stencil: Stencil, window: tuple[float, float, float, float] | None = None) -> Drawing:
    """The stencil, or the part of it in a window (left, bottom, right, top), one unit a millimetre."""
    left, bottom, right, top = window or stencil.box
    sheet = Drawing(right - left, top - bottom, stencil.name, "stencil", left=left, top=-top)
    sheet.root.set("width", f"{right - left:.3f}mm")
    sheet.root.set("height", f"{top - bottom:.3f}mm")
    for shape in stencil.shapes:
        if isinstance(shape, Disc):
            stroke, width, _ = STROKES[shape.layer]
            sheet.circle(
                shape.x, -shape.y, shape.r, fill="none", stroke=stroke, width=width, css=f"st-{shape.layer}"
            )
        elif isinstance(shape, Line):
            stroke, width, dash = STROKES[shape.layer]
            points = [(x, -y) for x, y in shape.points]
            if shape.closed:
                sheet.area([points], fill="none", stroke=stroke, width=width, css=f"st-{shape.layer}")
            else:
                sheet.path(points, stroke=stroke, width=width, css=f"st-{shape.layer}", dash=dash)
        else:
            sheet.text(
                shape.x,
                -shape.y + shape.high * 0.35,
                shape.words,
                size=shape.high,
                anchor="middle",
                css="st-words",
            )
    return sheet


def check_bar() -> Drawing:
    """A bar of 100 mm with ticks each 10 mm: what the ruler is held against before anything is cut."""
    bar = Drawing(CHECK_BAR_MM + 4, 9, "Bar of 100 mm to check the scale by", "stencil", left=-2, top=-1)
    bar.root.set("width", f"{CHECK_BAR_MM + 4:g}mm")
    bar.root.set("height", "9mm")
    bar.line(0, 4, CHECK_BAR_MM, 4, width=0.3, css="st-cut")
    for i in range(11):
        high = 3.0 if i % 5 == 0 else 1.8
        bar.line(10.0 * i, 4 - high, 10.0 * i, 4 + high, width=0.3, css="st-cut")
    return bar


def sheets_of(stencil: Stencil, size: str) -> Iterator[tuple[str, Drawing]]:
    """The stencil on as many sheets as it needs, each with its place ('row 1 of 2, column 1 of 3'); '' where one does."""
    wide, high = SHEETS[size]
    left, bottom, _, top = stencil.box
    across, down = stencil.size
    columns = _count(across, wide)
    rows = _count(down, high)
    for row in range(rows):
        for column in range(columns):
            x = left + column * (wide - OVERLAP_MM)
            y = top - row * (high - OVERLAP_MM)
            window = (x, max(y - high, bottom), min(x + wide, left + across), y)
            said = "" if rows * columns == 1 else f"row {row + 1} of {rows}, column {column + 1} of {columns}"
            yield said, stencil_drawing(stencil, window)


def _count(length: float, sheet: float) -> int:
    return 1 if length <= sheet else 1 + math.ceil((length - sheet) / (sheet - OVERLAP_MM))
