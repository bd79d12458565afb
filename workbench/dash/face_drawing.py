"""Faces of our own design: a dial, a bar, figures, a lamp, a trend; each in a box, with what a page needs to move it.

What moves carries ``data-`` names: a needle turns, a bar grows, words change; ``data-face`` is the face.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from metrolex.dash.check import lamp_colour
from metrolex.dash.faces import FaceNow
from metrolex.job import Display
from metrolex.quantities import unit_words
from metrolex.scaling.reading import Shown
from metrolex.tables import load_table
from workbench.drawing import ACT, INK, PAPER, QUIET, RULE, Drawing

__all__ = ["Box", "Light", "draw_face", "light_of"]

GOOD_LINE, WARN_LINE = "#1E6338", "#A3211B"
STEPS = (1.0, 2.0, 2.5, 5.0, 10.0)


@dataclass(frozen=True, slots=True)
class Box:
    """Where a face is drawn."""

    x: float
    y: float
    w: float
    h: float


@dataclass(frozen=True, slots=True)
class Light:
    """The colours a face is drawn in: ground, ink, quiet ink; ``css`` tells the page's own style."""

    ground: str = PAPER
    ink: str = INK
    quiet: str = QUIET
    css: str = ""


DAY = Light()


def light_of(display: Display, level: str) -> Light:
    """A display as bright as it is in a scene: by day ink on paper, at night its own light on black, dark without any."""
    if level == "dark":
        return Light("#101214", "#2A2E31", "#22262A", "dark")
    if level in ("unknown", "bright"):
        return DAY
    red, green, blue = load_table("faces")["colours"].get(display.screen.light or "white", [240, 240, 235])
    dim = 0.72
    glow = f"#{int(red * dim):02X}{int(green * dim):02X}{int(blue * dim):02X}"
    quiet = f"#{int(red * 0.42):02X}{int(green * 0.42):02X}{int(blue * 0.42):02X}"
    return Light("#14171A", glow, quiet, "dim")


def draw_face(
    sheet: Drawing,
    face: FaceNow,
    box: Box,
    shown: Shown | None,
    *,
    lit: bool = False,
    light: Light = DAY,
    sweep_deg: float = 240.0,
    turn_deg: float = 0.0,
) -> None:
    """One face in its box with what stands on it; ``shown`` None: nothing is known."""
    kind = face.face.kind
    draw = {"round": _round, "bar": _bar, "figure": _figure, "lamp": _lamp, "trend": _trend}[kind]
    text = "" if shown is None else shown.text
    share = None if shown is None else face.share(shown.value)
    if kind == "round":
        _round(sheet, face, box, text, share, lit, light, sweep_deg, turn_deg)
    else:
        draw(sheet, face, box, text, share, lit, light)  # type: ignore[operator]


def _css(light: Light, name: str) -> str:
    """By day the page's own ink; at night what the display gives."""
    return f"face-{name}" if light is DAY else f"glow-{name}"


def ticks(low: float, high: float, most: int = 6) -> list[float]:
    """Round numbers along a scale, ``most`` steps at the most.

    >>> ticks(0, 10)
    [0.0, 2.0, 4.0, 6.0, 8.0, 10.0]
    """
    if not high > low:
        return []
    raw = (high - low) / most
    power = 10 ** math.floor(math.log10(raw))
    step = next(power * one for one in STEPS if power * one >= raw * 0.999)
    first = math.ceil(low / step - 1e-9)
    last = math.floor(high / step + 1e-9)
    return [round(i * step, 10) for i in range(first, last + 1)][: most + 2]


def _short(value: float) -> str:
    """A number of a scale: thousands as 'k'."""
    if abs(value) >= 1000:
        return f"{value / 1000:g}k"
    return f"{value:g}"


def _round(
    sheet: Drawing,
    face: FaceNow,
    box: Box,
    text: str,
    share: float | None,
    lit: bool,
    light: Light,
    sweep: float,
    turn: float,
) -> None:
    cx, cy = box.x + box.w / 2, box.y + box.h / 2
    r = min(box.w, box.h) / 2 * 0.94
    start = -sweep / 2 + turn

    def at(part: float, out: float) -> tuple[float, float]:
        angle = math.radians(start + part * sweep)
        return cx + math.sin(angle) * r * out, cy - math.cos(angle) * r * out

    def arc(a: float, b: float, out: float, **how: object) -> None:
        count = max(2, int(abs(b - a) * 40))
        sheet.path([at(a + (b - a) * i / count, out) for i in range(count + 1)], **how)  # type: ignore[arg-type]

    arc(0, 1, 0.97, stroke=light.ink, width=max(r * 0.02, 0.8), css=_css(light, "ink"))
    zone = [face.share(end) for end in face.normal] if face.normal else []
    if len(zone) == 2 and zone[0] is not None and zone[1] is not None:
        arc(zone[0], zone[1], 0.91, stroke=GOOD_LINE, width=r * 0.07, css="zone-good")
    low, high = face.share(face.warn_low), face.share(face.warn_high)
    if low is not None and low > 0:
        arc(0, low, 0.91, stroke=WARN_LINE, width=r * 0.07, css="zone-warn")
    if high is not None and high < 1:
        arc(high, 1, 0.91, stroke=WARN_LINE, width=r * 0.07, css="zone-warn")
    if face.low is not None and face.high is not None:
        for value in ticks(face.low, face.high):
            part = face.share(value)
            if part is None:
                continue
            (x1, y1), (x2, y2) = at(part, 0.97), at(part, 0.84)
            sheet.line(x1, y1, x2, y2, stroke=light.ink, width=max(r * 0.025, 0.9), css=_css(light, "ink"))
            x, y = at(part, 0.67)
            sheet.text(
                x,
                y + r * 0.07,
                _short(value),
                size=r * 0.2,
                anchor="middle",
                fill=light.ink,
                mono=True,
                css=_css(light, "words"),
            )
    sheet.text(
        cx,
        cy + r * 0.84,
        face.label[:16],
        size=r * 0.2,
        anchor="middle",
        fill=light.quiet,
        css=_css(light, "quiet"),
    )
    unit = unit_words(face.unit)
    sheet.text(
        cx,
        cy + r * 0.56,
        text or " ",
        size=r * 0.3,
        anchor="middle",
        bold=True,
        mono=True,
        fill=light.ink,
        css=_css(light, "words") + " face-text",
    )
    if unit and face.chain is not None and face.chain.measurand != "gear":
        sheet.text(
            cx,
            cy - r * 0.22,
            unit,
            size=r * 0.16,
            anchor="middle",
            fill=light.quiet,
            css=_css(light, "quiet"),
        )
    shown_at = 0.0 if share is None else share
    sheet.group(
        class_="needle" + (" parked" if share is None else ""),
        data_start=f"{start:g}",
        data_sweep=f"{sweep:g}",
        data_centre=f"{cx:.2f} {cy:.2f}",
        transform=f"rotate({start + shown_at * sweep:.2f} {cx:.2f} {cy:.2f})",
    )
    w = r * 0.035
    sheet.area(
        [
            [
                (cx - w, cy + r * 0.16),
                (cx - w * 0.5, cy - r * 0.82),
                (cx + w * 0.5, cy - r * 0.82),
                (cx + w, cy + r * 0.16),
            ]
        ],
        fill=ACT if light is DAY else light.ink,
        css="needle-blade" if light is DAY else "glow-words",
    )
    sheet.circle(cx, cy, r * 0.075, fill=light.ink, stroke="none", width=0, css=_css(light, "dot"))
    sheet.end_group()
    _warned(sheet, cx + r * 0.62, cy + r * 0.62, r * 0.11, lit)


def _bar(
    sheet: Drawing, face: FaceNow, box: Box, text: str, share: float | None, lit: bool, light: Light
) -> None:
    x, w = box.x + box.w * 0.07, box.w * 0.86
    top, high = box.y + box.h * 0.56, box.h * 0.17
    size = face_text_size(box, 0.34, text or "0000")
    sheet.text(
        x,
        box.y + box.h * 0.2,
        face.label[:20],
        size=min(box.h * 0.15, box.w * 0.11),
        fill=light.quiet,
        css=_css(light, "quiet"),
    )
    sheet.text(
        x + w,
        box.y + box.h * 0.46,
        text or " ",
        size=size,
        anchor="end",
        bold=True,
        mono=True,
        fill=light.ink,
        css=_css(light, "words") + " face-text",
    )
    sheet.text(
        x,
        box.y + box.h * 0.46,
        unit_words(face.unit),
        size=min(box.h * 0.14, box.w * 0.1),
        fill=light.quiet,
        css=_css(light, "quiet"),
    )
    sheet.rect(x, top, w, high, fill="none", stroke=light.ink, width=1.2, css=_css(light, "ink") + " hollow")
    part = 0.0 if share is None else share
    sheet.group(class_="bar-fill", data_x=f"{x:.2f}", data_w=f"{w:.2f}")
    sheet.rect(
        x,
        top,
        w * part,
        high,
        fill=ACT if light is DAY else light.ink,
        stroke="none",
        width=0,
        css="bar-ink" if light is DAY else "glow-words",
    )
    sheet.end_group()
    zone = [face.share(end) for end in face.normal] if face.normal else []
    under = top + high + box.h * 0.045
    if len(zone) == 2 and zone[0] is not None and zone[1] is not None:
        sheet.line(
            x + w * zone[0],
            under,
            x + w * zone[1],
            under,
            stroke=GOOD_LINE,
            width=box.h * 0.035,
            css="zone-good",
        )
    for level in (face.warn_low, face.warn_high):
        mark = face.share(level)
        if mark is not None and 0 < mark < 1:
            sheet.line(
                x + w * mark,
                top - box.h * 0.05,
                x + w * mark,
                top + high + box.h * 0.06,
                stroke=WARN_LINE,
                width=2,
                css="zone-warn",
            )
    for end, anchor, at in ((face.low, "start", x), (face.high, "end", x + w)):
        if end is not None:
            sheet.text(
                at,
                box.y + box.h * 0.94,
                _short(end),
                size=min(box.h * 0.13, box.w * 0.1),
                anchor=anchor,
                fill=light.quiet,
                mono=True,
                css=_css(light, "quiet"),
            )
    _warned(sheet, x + w / 2, box.y + box.h * 0.91, min(box.h, box.w) * 0.06, lit)


def face_text_size(box: Box, share: float, text: str) -> float:
    """As large as the box allows for so many signs."""
    return min(box.h * share, 0.86 * box.w / (0.62 * max(len(text), 2)))


def _figure(
    sheet: Drawing, face: FaceNow, box: Box, text: str, share: float | None, lit: bool, light: Light
) -> None:
    cx = box.x + box.w / 2
    size = face_text_size(box, 0.46, text or "000")
    small = min(box.h * 0.15, box.w * 0.12)
    sheet.text(
        cx,
        box.y + box.h * 0.2,
        face.label[:20],
        size=small,
        anchor="middle",
        fill=light.quiet,
        css=_css(light, "quiet"),
    )
    sheet.text(
        cx,
        box.y + box.h * 0.68,
        text or " ",
        size=size,
        anchor="middle",
        bold=True,
        mono=True,
        fill=light.ink,
        css=_css(light, "words") + " face-text",
    )
    sheet.text(
        cx,
        box.y + box.h * 0.9,
        unit_words(face.unit) if face.unit != "gear" else "",
        size=small,
        anchor="middle",
        fill=light.quiet,
        css=_css(light, "quiet"),
    )
    _warned(sheet, box.x + box.w * 0.9, box.y + box.h * 0.16, min(box.h, box.w) * 0.07, lit)


def _lamp(
    sheet: Drawing, face: FaceNow, box: Box, text: str, share: float | None, lit: bool, light: Light
) -> None:
    cx, cy = box.x + box.w / 2, box.y + box.h * 0.4
    r = min(box.w, box.h) * 0.24
    red, green, blue = load_table("faces")["colours"][lamp_colour(face)]
    paint = f"#{red:02X}{green:02X}{blue:02X}"
    sheet.group(class_="lamp" + (" lit" if lit else ""), data_paint=paint)
    sheet.circle(
        cx, cy, r, fill=paint if lit else "none", stroke=paint, width=max(r * 0.16, 1.4), css="lamp-glass"
    )
    sheet.end_group()
    sheet.text(
        cx,
        box.y + box.h * 0.92,
        face.label[:14],
        size=min(box.h * 0.16, box.w * 1.5 / max(len(face.label[:14]), 6)),
        anchor="middle",
        fill=light.quiet,
        css=_css(light, "quiet"),
    )


def _trend(
    sheet: Drawing, face: FaceNow, box: Box, text: str, share: float | None, lit: bool, light: Light
) -> None:
    x, w = box.x + box.w * 0.07, box.w * 0.86
    top, high = box.y + box.h * 0.36, box.h * 0.5
    small = min(box.h * 0.14, box.w * 0.1)
    sheet.text(
        x, box.y + box.h * 0.22, face.label[:18], size=small, fill=light.quiet, css=_css(light, "quiet")
    )
    sheet.text(
        x + w,
        box.y + box.h * 0.26,
        text or " ",
        size=face_text_size(box, 0.22, "000000"),
        anchor="end",
        bold=True,
        mono=True,
        fill=light.ink,
        css=_css(light, "words") + " face-text",
    )
    sheet.rect(x, top, w, high, fill="none", stroke=RULE, width=1, css="rule hollow")
    for level in (face.warn_low, face.warn_high):
        mark = face.share(level)
        if mark is not None:
            y = top + high * (1 - mark)
            sheet.line(x, y, x + w, y, stroke=WARN_LINE, width=1.4, css="zone-warn", dash="4 3")
    y = top + high * (1 - (share if share is not None else 0.0))
    sheet.group(class_="trend", data_box=f"{x:.2f} {top:.2f} {w:.2f} {high:.2f}")
    sheet.path(
        [(x, y), (x + w, y)],
        stroke=ACT if light is DAY else light.ink,
        width=2,
        css="act-line" if light is DAY else "glow-ink",
    )
    sheet.end_group()
    _warned(sheet, box.x + box.w * 0.94, box.y + box.h * 0.94, min(box.h, box.w) * 0.05, lit)


def _warned(sheet: Drawing, x: float, y: float, r: float, lit: bool) -> None:
    """The lamp of a channel's own warning: a red triangle, filled while it is lit."""
    sheet.group(class_="warned" + (" lit" if lit else ""))
    sheet.area(
        [[(x, y - r * 1.2), (x + r * 1.2, y + r), (x - r * 1.2, y + r)]],
        fill=WARN_LINE if lit else "none",
        stroke=WARN_LINE if lit else "none",
        width=1,
        css="warn-lamp",
    )
    sheet.end_group()
