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
from workbench.axes import ticks
from workbench.drawing import ACT, INK, PAPER, QUIET, RULE, Drawing

__all__ = ["Box", "Light", "draw_face", "light_of"]

GOOD_LINE, WARN_LINE = "#1E6338", "#A3211B"
STEPS = (1.0, 2.0, 2.5, 5.0, 10.0)  # from one figure of a scale to the next
MOST_STEPS = 6


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


def _short(value: float) -> str:
    """A number of a scale: thousands as 'k'."""
    if abs(value) >= 1000:
        return f"{value / 1000:g}k"
    return f"{value:g}"


def _quiet(
    sheet: Drawing,
    light: Light,
    x: float,
    y: float,
    words: str,
    *,
    size: float,
    anchor: str = "start",
    mono: bool = False,
) -> None:
    """What is read at leisure: names, units, ends."""
    sheet.text(x, y, words, size=size, fill=light.quiet, anchor=anchor, mono=mono, css=_css(light, "quiet"))


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
    dial = _Dial(box.x + box.w / 2, box.y + box.h / 2, min(box.w, box.h) / 2 * 0.94, -sweep / 2 + turn, sweep)
    _scale(sheet, face, dial, light)
    cx, cy, r = dial.x, dial.y, dial.r
    _quiet(sheet, light, cx, cy + r * 0.84, face.label[:16], size=r * 0.2, anchor="middle")
    sheet.text(
        cx,
        cy + r * 0.6,
        text or " ",
        size=r * 0.3,
        anchor="middle",
        bold=True,
        mono=True,
        fill=light.ink,
        css=_css(light, "words") + " face-text",
    )
    if face.chain is not None and face.chain.measurand != "gear":
        _quiet(sheet, light, cx, cy - r * 0.22, unit_words(face.unit), size=r * 0.16, anchor="middle")
    _needle(sheet, dial, share, light)
    _warned(sheet, cx + r * 0.62, cy + r * 0.62, r * 0.11, lit)


@dataclass(frozen=True, slots=True)
class _Dial:
    """A round scale: its middle, its radius, the angle its low end stands at (0 up, clockwise), how far it goes."""

    x: float
    y: float
    r: float
    start: float
    sweep: float

    def at(self, part: float, out: float) -> tuple[float, float]:
        """A part of the way round, so far out."""
        angle = math.radians(self.start + part * self.sweep)
        return self.x + math.sin(angle) * self.r * out, self.y - math.cos(angle) * self.r * out

    def arc(self, a: float, b: float, out: float) -> list[tuple[float, float]]:
        count = max(2, int(abs(b - a) * 40))
        return [self.at(a + (b - a) * i / count, out) for i in range(count + 1)]


def _scale(sheet: Drawing, face: FaceNow, dial: _Dial, light: Light) -> None:
    """The arc, the zones on it, round numbers along it."""
    r, ink = dial.r, _css(light, "ink")
    sheet.path(dial.arc(0, 1, 0.97), stroke=light.ink, width=max(r * 0.02, 0.8), css=ink)
    low, high = face.share(face.warn_low), face.share(face.warn_high)
    zones = (
        [(GOOD_LINE, "zone-good", face.share(face.normal[0]), face.share(face.normal[1]))]
        if face.normal
        else []
    )
    zones += [(WARN_LINE, "zone-warn", 0.0, low), (WARN_LINE, "zone-warn", high, 1.0)]
    for stroke, css, begins, ends in zones:
        if begins is not None and ends is not None and begins < ends:
            sheet.path(dial.arc(begins, ends, 0.91), stroke=stroke, width=r * 0.07, css=css)
    figures: list[float] = []
    if face.low is not None and face.high is not None and face.low < face.high:
        figures = ticks(face.low, face.high, MOST_STEPS, STEPS)
    for value in figures:
        part = face.share(value) or 0.0
        sheet.line(
            *dial.at(part, 0.97), *dial.at(part, 0.84), stroke=light.ink, width=max(r * 0.025, 0.9), css=ink
        )
        x, y = dial.at(part, 0.67)
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


def _needle(sheet: Drawing, dial: _Dial, share: float | None, light: Light) -> None:
    """The needle where it stands; without a reading it is parked at the low end."""
    cx, cy, r = dial.x, dial.y, dial.r
    turn = dial.start + (0.0 if share is None else share) * dial.sweep
    sheet.group(
        class_="needle" + (" parked" if share is None else ""),
        data_start=f"{dial.start:g}",
        data_sweep=f"{dial.sweep:g}",
        data_centre=f"{cx:.2f} {cy:.2f}",
        transform=f"rotate({turn:.2f} {cx:.2f} {cy:.2f})",
    )
    w = r * 0.035
    blade = [
        (cx - w, cy + r * 0.16),
        (cx - w * 0.5, cy - r * 0.82),
        (cx + w * 0.5, cy - r * 0.82),
        (cx + w, cy + r * 0.16),
    ]
    by_day = light is DAY
    sheet.area([blade], fill=ACT if by_day else light.ink, css="needle-blade" if by_day else "glow-words")
    sheet.circle(cx, cy, r * 0.075, fill=light.ink, stroke="none", width=0, css=_css(light, "dot"))
    sheet.end_group()


def _bar(
    sheet: Drawing, face: FaceNow, box: Box, text: str, share: float | None, lit: bool, light: Light
) -> None:
    bar = Box(box.x + box.w * 0.07, box.y + box.h * 0.56, box.w * 0.86, box.h * 0.17)
    _quiet(sheet, light, bar.x, box.y + box.h * 0.2, face.label[:20], size=min(box.h * 0.15, box.w * 0.11))
    sheet.text(
        bar.x + bar.w,
        box.y + box.h * 0.46,
        text or " ",
        size=face_text_size(box, 0.34, text or "0000"),
        anchor="end",
        bold=True,
        mono=True,
        fill=light.ink,
        css=_css(light, "words") + " face-text",
    )
    _quiet(
        sheet, light, bar.x, box.y + box.h * 0.46, unit_words(face.unit), size=min(box.h * 0.14, box.w * 0.1)
    )
    sheet.rect(
        bar.x,
        bar.y,
        bar.w,
        bar.h,
        fill="none",
        stroke=light.ink,
        width=1.2,
        css=_css(light, "ink") + " hollow",
    )
    by_day = light is DAY
    sheet.group(class_="bar-fill", data_x=f"{bar.x:.2f}", data_w=f"{bar.w:.2f}")
    sheet.rect(
        bar.x,
        bar.y,
        bar.w * (0.0 if share is None else share),
        bar.h,
        fill=ACT if by_day else light.ink,
        stroke="none",
        width=0,
        css="bar-ink" if by_day else "glow-words",
    )
    sheet.end_group()
    _bar_marks(sheet, face, bar, box.h)
    small = min(box.h * 0.13, box.w * 0.1)
    for end, anchor, x in ((face.low, "start", bar.x), (face.high, "end", bar.x + bar.w)):
        if end is not None:
            _quiet(sheet, light, x, box.y + box.h * 0.94, _short(end), size=small, anchor=anchor, mono=True)
    _warned(sheet, bar.x + bar.w / 2, box.y + box.h * 0.91, min(box.h, box.w) * 0.06, lit)


def _bar_marks(sheet: Drawing, face: FaceNow, bar: Box, high: float) -> None:
    """The normal zone under a bar, its levels across it."""
    zone = [face.share(end) for end in face.normal] if face.normal else []
    if len(zone) == 2 and zone[0] is not None and zone[1] is not None:
        under = bar.y + bar.h + high * 0.045
        sheet.line(
            bar.x + bar.w * zone[0],
            under,
            bar.x + bar.w * zone[1],
            under,
            stroke=GOOD_LINE,
            width=high * 0.035,
            css="zone-good",
        )
    for level in (face.warn_low, face.warn_high):
        mark = face.share(level)
        if mark is not None and 0 < mark < 1:
            x = bar.x + bar.w * mark
            sheet.line(
                x,
                bar.y - high * 0.05,
                x,
                bar.y + bar.h + high * 0.06,
                stroke=WARN_LINE,
                width=2,
                css="zone-warn",
            )


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
