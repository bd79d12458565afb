"""A page of a display as it stands on the dash: bezel, screen, faces on their grid; faces can be taken hold of."""

from __future__ import annotations

from collections.abc import Mapping

from metrolex.dash.faces import FaceNow, PageNow
from metrolex.dash.lit import DARK, Lit
from metrolex.job import Display
from metrolex.mount.body import bezel_size, screen_size
from metrolex.scaling.reading import Shown
from workbench.dash.face_drawing import DAY, Box, Light, draw_face
from workbench.drawing import INK, RULE, Drawing

__all__ = ["draw_screen", "page_drawing"]

WIDE = 560.0
ROUND_WIDE = 300.0


def page_drawing(
    display: Display,
    page: PageNow,
    shown: Mapping[str, Shown],
    *,
    lit: Lit = DARK,
    light: Light = DAY,
    chosen: str = "",
    moves: bool = False,
    turn_deg: float = 0.0,
    wide: float | None = None,
) -> Drawing:
    """One page in its bezel; ``moves``: its faces can be dragged to other cells."""
    round_ = display.housing.shape != "square"
    bezel = bezel_size(display)
    width = wide or (ROUND_WIDE if round_ else WIDE)
    scale = width / bezel[0]
    sheet = Drawing(
        width + 8,
        bezel[1] * scale + 8,
        f"{display.name}, {page.page.name}",
        f"drawing page-face {'round-face ' if round_ else ''}{light.css}".strip(),
        holds_links=moves,
    )
    middle = (4 + width / 2, 4 + bezel[1] * scale / 2)
    if round_:
        sheet.circle(*middle, width / 2, fill="#23282B", stroke=INK, width=2, css="bezel")
    else:
        sheet.rect(4, 4, width, bezel[1] * scale, fill="#23282B", stroke=INK, width=2, css="bezel", round_=12)
    draw_screen(
        sheet,
        display,
        page,
        shown,
        middle,
        scale,
        lit=lit,
        light=light,
        chosen=chosen,
        moves=moves,
        turn_deg=turn_deg,
    )
    return sheet


def draw_screen(
    sheet: Drawing,
    display: Display,
    page: PageNow,
    shown: Mapping[str, Shown],
    middle: tuple[float, float],
    scale: float,
    *,
    lit: Lit = DARK,
    light: Light = DAY,
    chosen: str = "",
    moves: bool = False,
    turn_deg: float = 0.0,
) -> None:
    """What is read of a display about a point of a drawing, ``scale`` units a millimetre."""
    wide, high = (size * scale for size in screen_size(display))
    left, top = middle[0] - wide / 2, middle[1] - high / 2
    screen = display.screen
    css = "dial" if light is DAY else f"dial-{light.css}"
    if display.housing.shape != "square":
        sheet.circle(*middle, wide / 2, fill=light.ground, stroke="none", width=0, css=css)
    else:
        sheet.rect(left, top, wide, high, fill=light.ground, stroke="none", width=0, css=css, round_=3)
    cell = wide / screen.columns, high / screen.rows
    if moves:
        sheet.root.set(
            "data-grid", f"{left:.2f} {top:.2f} {cell[0]:.3f} {cell[1]:.3f} {screen.columns} {screen.rows}"
        )
        for i in range(1, screen.columns):
            sheet.line(
                left + i * cell[0],
                top,
                left + i * cell[0],
                top + high,
                stroke=RULE,
                width=0.6,
                css="rule",
                dash="2 5",
            )
        for j in range(1, screen.rows):
            sheet.line(
                left,
                top + j * cell[1],
                left + wide,
                top + j * cell[1],
                stroke=RULE,
                width=0.6,
                css="rule",
                dash="2 5",
            )
    for face in page.faces:
        _one(
            sheet,
            display,
            face,
            shown,
            (left, top),
            cell,
            lit,
            light,
            chosen == face.face.id,
            moves,
            turn_deg,
        )


def _one(
    sheet: Drawing,
    display: Display,
    face: FaceNow,
    shown: Mapping[str, Shown],
    corner: tuple[float, float],
    cell: tuple[float, float],
    lit: Lit,
    light: Light,
    chosen: bool,
    moves: bool,
    turn_deg: float,
) -> None:
    one = face.face
    box = Box(
        corner[0] + (one.column - 1) * cell[0],
        corner[1] + (one.row - 1) * cell[1],
        one.columns * cell[0],
        one.rows * cell[1],
    )
    attrs: dict[str, object] = {"class_": "face" + (" chosen" if chosen else ""), "data_face": one.id}
    if moves:
        attrs |= {
            "tabindex": 0,
            "role": "button",
            "aria_label": f"{face.label}, column {one.column}, row {one.row}: arrow keys move it",
            "data_column": one.column,
            "data_row": one.row,
        }
    sheet.group(**attrs)
    if moves:
        sheet.rect(
            box.x + 2,
            box.y + 2,
            box.w - 4,
            box.h - 4,
            fill="transparent",
            stroke="none",
            width=0,
            css="face-box",
            round_=4,
        )
    key = face.chain.id if face.chain else ""
    draw_face(
        sheet,
        face,
        box,
        shown.get(key),
        lit=lit.on(face),
        light=light,
        sweep_deg=display.screen.sweep_deg,
        turn_deg=turn_deg,
    )
    sheet.end_group()
