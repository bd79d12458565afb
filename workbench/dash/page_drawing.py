"""A page of a display as it stands on the dash: bezel, screen, faces on their grid; faces can be taken hold of."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from metrolex.dash.faces import FaceNow, PageNow
from metrolex.dash.lit import DARK, Lit
from metrolex.job import Display
from metrolex.mount.body import bezel_size, screen_size
from metrolex.scaling.reading import Shown
from workbench.dash.face_drawing import DAY, Box, Light, draw_face
from workbench.drawing import INK, RULE, Drawing

__all__ = ["Showing", "draw_screen", "page_drawing"]

WIDE = 560.0
ROUND_WIDE = 300.0


@dataclass(frozen=True, slots=True)
class Showing:
    """What stands on a display's faces: readings by chain, what is lit, in which light, how far a gauge is turned in its hole."""

    shown: Mapping[str, Shown]
    lit: Lit = DARK
    light: Light = DAY
    turn_deg: float = 0.0


def page_drawing(
    display: Display, page: PageNow, showing: Showing, *, chosen: str = "", moves: bool = False
) -> Drawing:
    """One page in its bezel; ``moves``: its faces can be dragged to other cells."""
    round_ = display.housing.shape != "square"
    bezel = bezel_size(display)
    width = ROUND_WIDE if round_ else WIDE
    scale = width / bezel[0]
    css = ["drawing page-face", "round-face" if round_ else "", showing.light.css]
    sheet = Drawing(
        width + 8,
        bezel[1] * scale + 8,
        f"{display.name}, {page.page.name}",
        " ".join(word for word in css if word),
        holds_links=moves,
    )
    middle = (4 + width / 2, 4 + bezel[1] * scale / 2)
    if round_:
        sheet.circle(*middle, width / 2, fill="#23282B", stroke=INK, width=2, css="bezel")
    else:
        sheet.rect(4, 4, width, bezel[1] * scale, fill="#23282B", stroke=INK, width=2, css="bezel", round_=12)
    draw_screen(sheet, display, page, showing, middle, scale, chosen=chosen, moves=moves)
    return sheet


def draw_screen(
    sheet: Drawing,
    display: Display,
    page: PageNow,
    showing: Showing,
    middle: tuple[float, float],
    scale: float,
    *,
    chosen: str = "",
    moves: bool = False,
) -> None:
    """What is read of a display about a point of a drawing, ``scale`` units a millimetre."""
    wide, high = (size * scale for size in screen_size(display))
    screen = Box(middle[0] - wide / 2, middle[1] - high / 2, wide, high)
    light = showing.light
    css = "dial" if light is DAY else f"dial-{light.css}"
    if display.housing.shape != "square":
        sheet.circle(*middle, wide / 2, fill=light.ground, stroke="none", width=0, css=css)
    else:
        sheet.rect(
            screen.x, screen.y, wide, high, fill=light.ground, stroke="none", width=0, css=css, round_=3
        )
    if moves:
        _grid(sheet, display, screen)
    for face in page.faces:
        _one(sheet, display, face, showing, screen, chosen == face.face.id, moves)


def _grid(sheet: Drawing, display: Display, screen: Box) -> None:
    """The cells, and what the page's script must know of them."""
    columns, rows = display.screen.columns, display.screen.rows
    w, h = screen.w / columns, screen.h / rows
    sheet.root.set("data-grid", f"{screen.x:.2f} {screen.y:.2f} {w:.3f} {h:.3f} {columns} {rows}")
    for i in range(1, columns):
        x = screen.x + i * w
        sheet.line(x, screen.y, x, screen.y + screen.h, stroke=RULE, width=0.6, css="rule", dash="2 5")
    for j in range(1, rows):
        y = screen.y + j * h
        sheet.line(screen.x, y, screen.x + screen.w, y, stroke=RULE, width=0.6, css="rule", dash="2 5")


def _one(
    sheet: Drawing,
    display: Display,
    face: FaceNow,
    showing: Showing,
    screen: Box,
    chosen: bool,
    moves: bool,
) -> None:
    one = face.face
    w, h = screen.w / display.screen.columns, screen.h / display.screen.rows
    box = Box(screen.x + (one.column - 1) * w, screen.y + (one.row - 1) * h, one.columns * w, one.rows * h)
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
        edge = {"fill": "transparent", "stroke": "none", "css": "face-box"}
        sheet.rect(box.x + 2, box.y + 2, box.w - 4, box.h - 4, width=0, round_=4, **edge)
    draw_face(
        sheet,
        face,
        box,
        showing.shown.get(face.chain.id if face.chain else ""),
        lit=showing.lit.on(face),
        light=showing.light,
        sweep_deg=display.screen.sweep_deg,
        turn_deg=showing.turn_deg,
    )
    sheet.end_group()
