"""The section at a place: wall, fittings, sender, threads and tip, to scale, with what a fitter measures on it."""

from __future__ import annotations

import math
from collections.abc import Sequence

from django.utils.safestring import SafeString

from metrolex.fittings.fitting import Fitting
from metrolex.ports.section import Section
from metrolex.quantities import inch_fraction
from workbench.drawing import ACT, QUIET, Drawing

__all__ = ["section_drawing"]

WIDTH, HEIGHT = 350.0, 430.0
MIDDLE, LEFT, RIGHT = 150.0, 8.0, 270.0
ROOM_FOR_WORDS = 58.0  # below the wall, for the three lines beside the tip
STEEL = "#D5D9DB"
SHANK_MM = 9.0  # of thread below the shoulder of a sender with no tip
LARGEST_BORE_MM = 80.0  # beyond, the far wall is not drawn: the near one would shrink to a line


def section_drawing(
    section: Section, material: str, title: str, name: str = "section", beside: Sequence[str] = ()
) -> SafeString:
    """One drawing, all parts to one scale. Lengths in millimetres and the nearest inch fraction. ``beside`` are those that sit in other mouths of it."""
    wall_of = (
        section.through.sort
        if section.through
        else {"sheet": "sheet metal"}.get(material, material.replace("_", " "))
    )
    title = f"{title} in {wall_of}" if wall_of else title
    if section.in_line:
        return _in_line_drawing(section, title, name)
    wall = section.wall_mm or 6.0
    above = section.sticks_out_mm + _body(section) + 8
    widest = max((_half_width(fitting) for fitting in section.chain), default=9.0)
    scale = min(4.2, 70 / widest, (HEIGHT - 78) / (above + wall + _depth(section)))
    depth = max(_depth(section), ROOM_FOR_WORDS / scale)
    face = 32 + above * scale  # the outer face of the wall
    inner = face + wall * scale
    below = inner + depth * scale
    sheet = Drawing(
        WIDTH, below + (46 if section.enters_pulled_up_mm is not None else 8), title, "drawing section"
    )
    metal, brass = _hatches(sheet, name)
    sheet.text(0, 12, f"{title}, all parts to one scale", size=12, fill=QUIET, css="quiet")
    half = max(_mouth(section) / 2 * scale, 4.0)
    for left, right in ((LEFT, MIDDLE - half), (MIDDLE + half, RIGHT)):
        sheet.rect(
            left,
            face,
            right - left,
            wall * scale,
            fill=brass if section.through else metal,
            width=1.2,
            css="brass-edge" if section.through else "metal-edge",
        )
    _wall_dimension(sheet, face, inner, wall, section.wall_mm is not None, section.through is not None)
    _bore(sheet, section, inner, scale, depth, metal)
    _shank(sheet, section, face, half, wall, scale, brass)
    top = _fittings(sheet, section, face, scale, brass)
    _sender(sheet, section, inner, top, scale)
    _threads(sheet, section, face, half, scale, below + 22)
    _in_other_mouths(sheet, beside, face)
    return sheet.safe()


def _in_other_mouths(sheet: Drawing, names: Sequence[str], face: float) -> None:
    """What sits in the other mouths, in outline: the room it takes is not known."""
    for x, name in zip((LEFT + 26, RIGHT - 20), names, strict=False):
        sheet.rect(x - 5, face - 12, 10, 12, width=1, css="other-sender")
        sheet.rect(x - 13, face - 46, 26, 34, width=1, round_=2, css="other-sender")
        for i, word in enumerate(name.split()[:3]):
            sheet.text(x, face - 84 + 13 * i, word[:12], size=11.5, anchor="middle", fill=QUIET, css="quiet")


def _in_line_drawing(section: Section, title: str, name: str) -> SafeString:
    """A fitting the stream runs through: line left and right, its body in the middle, the sender on top."""
    bore, wall = section.bore_mm or 10.0, section.wall_mm or 1.0
    above = section.sticks_out_mm + _body(section) + 8
    scale = min(3.2, (HEIGHT - 100) / (above + bore + 6))
    middle = 32 + above * scale
    upper, lower = middle - bore / 2 * scale, middle + bore / 2 * scale
    sheet = Drawing(WIDTH, lower + ROOM_FOR_WORDS + 8, title, "drawing section")
    metal, brass = _hatches(sheet, name)
    sheet.text(0, 12, f"{title}, all parts to one scale", size=12, fill=QUIET, css="quiet")
    half = 13 * scale
    thick = max(wall * scale, 2.5)
    for y in (upper - thick, lower):
        for left, right in ((LEFT, MIDDLE - half), (MIDDLE + half, RIGHT)):
            sheet.rect(left, y, right - left, thick, fill=metal, width=1.1, css="metal-edge")
    sheet.rect(MIDDLE - half, lower, 2 * half, 4 * scale, fill=brass, width=1.2, css="brass-edge")
    top = _fittings(sheet, section, middle, scale, brass)
    sheet.rect(MIDDLE - half - 1, upper, 2 * half + 2, lower - upper, fill="#FCFAF4", width=0, css="stream")
    if section.chain:
        below = lower + 4 * scale + 16
        sheet.text(MIDDLE, below, section.chain[0].sort, size=12, anchor="middle", fill=QUIET, css="quiet")
    sheet.line(LEFT, middle, RIGHT, middle, width=1.1, dash="10 3 2 3")
    sheet.path([(RIGHT - 8, middle - 5), (RIGHT, middle), (RIGHT - 8, middle + 5)], width=1.6)
    _sender(sheet, section, upper, top, scale, lower + thick + 18)
    sheet.text(
        RIGHT + 6, middle + 4, f"{bore:g} mm" if section.bore_mm else "bore ?", size=13, bold=True, mono=True
    )
    return sheet.safe()


def _hatches(sheet: Drawing, name: str) -> tuple[str, str]:
    """Fills for the metal of the vehicle and the brass of the fittings."""
    return (
        sheet.hatch(f"{name}-metal", "#E7E1D3", "#8D8574", css="metal"),
        sheet.hatch(f"{name}-brass", "#F1E3B4", "#A98A2C", angle=-45, step=5, css="brass"),
    )


def _depth(section: Section) -> float:
    """Millimetres drawn below the wall: the whole bore and its far wall where they fit."""
    tip = section.tip_mm or 0.0
    if section.bore_mm is None:
        return max(tip + 8, 20.0)
    if section.bore_mm <= LARGEST_BORE_MM:
        return max(section.bore_mm + _far_wall(section), tip + 6)
    return min(max(section.bore_mm / 2 + 4, tip + 6), 60.0)


def _far_wall(section: Section) -> float:
    return min(section.wall_mm or 3.0, 4.0)


def _body(section: Section) -> float:
    """Height drawn for the sender above the stack: its own body, or the tail of a probe."""
    return 18.0 if section.probe_mark_mm is None else 14.0


def _mouth(section: Section) -> float:
    return min(section.first_joint.female.major_mm, 40.0) if section.first_joint else 10.0


def _bore(sheet: Drawing, section: Section, inner: float, scale: float, depth: float, metal: str) -> None:
    if section.bore_mm is None:
        sheet.text(RIGHT + 20, inner + 27, "?", size=14, bold=True, mono=True)
        sheet.text(RIGHT + 20, inner + 41, "bore", size=12, fill=QUIET, css="quiet")
        return
    far, middle = inner + section.bore_mm * scale, inner + section.bore_mm / 2 * scale
    words_at = max(min(middle, inner + depth * scale - 18), inner + 26)  # clear of the wall's own words
    if section.bore_mm <= LARGEST_BORE_MM:
        sheet.rect(
            LEFT, far, RIGHT - LEFT, _far_wall(section) * scale, fill=metal, width=1.2, css="metal-edge"
        )
        sheet.dimension(RIGHT + 12, inner, RIGHT + 12, far)
    if middle <= inner + depth * scale + 2:
        sheet.line(MIDDLE - 40, middle, RIGHT, middle, width=1.1, dash="10 3 2 3")
        sheet.text(RIGHT - 2, middle - 4, "middle", size=12, anchor="end", fill=QUIET, css="quiet")
    sheet.text(RIGHT + 20, words_at + 1, f"{section.bore_mm:g} mm", size=14, bold=True, mono=True)
    sheet.text(
        RIGHT + 20,
        words_at + 15,
        "to stud" if section.through else "bore",
        size=12,
        fill=QUIET,
        css="quiet",
    )


def _fittings(sheet: Drawing, section: Section, face: float, scale: float, brass: str) -> float:
    """The chain upward from the face; returns the y of its top."""
    y = face
    for number, fitting in enumerate(section.chain):
        height = fitting.length_mm * scale
        shown = max(height, 3.0)
        half = _half_width(fitting) * scale
        sheet.rect(MIDDLE - half, y - shown, 2 * half, shown, fill=brass, width=1.2, css="brass-edge")
        if shown > 9 and not (section.in_line and number == 0):
            lines = [fitting.sort] + (
                [f"spanner {fitting.spanner_mm:g}"] if fitting.spanner_mm and shown > 26 else []
            )
            _beside(sheet, section, half, y - shown / 2 + 1, lines)
        y -= shown
    return y


def _shank(
    sheet: Drawing, section: Section, face: float, half: float, wall_mm: float, scale: float, brass: str
) -> None:
    """What is screwed into the wall, as deep as it goes in: the first fitting, or the sender itself."""
    deep = min(section.enters_pulled_up_mm or SHANK_MM, max(wall_mm, SHANK_MM))
    fill, css = (brass, "brass-edge") if section.chain else (STEEL, "steel")
    sheet.rect(MIDDLE - half, face, 2 * half, deep * scale, fill=fill, width=1, css=css)


def _beside(sheet: Drawing, section: Section, half: float, y: float, lines: list[str]) -> None:
    """Words left of a fitting; right of it where the left has no room and no probe's mark stands there."""
    wide = max(len(line) for line in lines) * 6.4
    left = MIDDLE - half - 6 - wide >= 0 or section.probe_mark_mm is not None
    for i, line in enumerate(lines):
        x, anchor = (MIDDLE - half - 6, "end") if left else (MIDDLE + half + 6, "start")
        sheet.text(x, y + 14 * i, line, size=12, anchor=anchor, fill=QUIET, css="quiet")


def _half_width(fitting: Fitting) -> float:
    return min((fitting.spanner_mm or 20.0) / 2, 22.0)


def _sender(
    sheet: Drawing, section: Section, inner: float, top: float, scale: float, words_at: float | None = None
) -> None:
    thick = (section.probe_mm or 7.0) / 2 * scale
    tip = section.tip_mm
    # A sender without a reach, a pressure sender, ends with its thread.
    end = inner + tip * scale if tip is not None else top + (section.reach_mm or SHANK_MM) * scale
    if section.probe_mark_mm is not None:
        mark = end - section.probe_mark_mm * scale
        sheet.rect(
            MIDDLE - thick,
            mark - 22 * scale,
            2 * thick,
            end - mark + 22 * scale,
            fill=STEEL,
            width=1.2,
            css="steel",
            round_=min(thick, 5),
        )
        sheet.line(
            MIDDLE - thick - 6, mark, MIDDLE + thick + 6, mark, stroke="#A3211B", width=3, css="mark-line"
        )
        sheet.text(MIDDLE + thick + 10, mark - 6, "mark the probe here", size=12, fill="#A3211B", css="stop")
        _dimension(sheet, 222, mark, end, section.probe_mark_mm, "mark to tip", mark + 30)
    else:
        sheet.rect(
            MIDDLE - thick,
            top,
            2 * thick,
            max(end - top, 2),
            fill=STEEL,
            width=1.2,
            css="steel",
            round_=min(thick, 4),
        )
        sheet.rect(
            MIDDLE - 9 * scale,
            top - 16 * scale,
            18 * scale,
            16 * scale,
            fill=STEEL,
            width=1.2,
            css="steel",
            round_=3,
        )
        sheet.text(MIDDLE + 9 * scale + 6, top - 8 * scale, "sender", size=12, fill=QUIET, css="quiet")
    if tip is not None and tip > 0.5:
        _dimension(sheet, 22, inner, end, tip, "in the stream", words_at, _room_below(section, inner, scale))
    elif tip is not None:
        sheet.text(
            28, inner + 34, f"tip ends {-tip:.0f} mm short of the stream", size=12, fill="#A3211B", css="stop"
        )


def _threads(sheet: Drawing, section: Section, face: float, half: float, scale: float, floor: float) -> None:
    joint = section.first_joint
    if section.enters_pulled_up_mm is None or joint is None:
        return
    pitch, tapered = joint.male.pitch_mm * scale, joint.male.tapered
    depth = min(section.enters_pulled_up_mm, section.wall_mm or section.enters_pulled_up_mm) * scale
    y = face + pitch / 2
    while pitch > 0.8 and y < face + depth:
        lean = (y - face) / 32 if tapered else 0.0
        sheet.line(MIDDLE - half + lean, y, MIDDLE - half + 4 + lean, y + pitch / 3, width=1)
        sheet.line(MIDDLE + half - lean, y, MIDDLE + half - 4 - lean, y + pitch / 3, width=1)
        y += pitch
    if section.enters_by_hand_mm is not None:
        hand = face + section.enters_by_hand_mm * scale
        sheet.line(MIDDLE - half - 20, hand, MIDDLE - half, hand, stroke=ACT, width=1.6, css="act-line")
        words = f"thread: {section.enters_by_hand_mm:.1f} mm in by hand, {section.enters_pulled_up_mm:.1f} mm pulled up"
        sheet.text(LEFT, floor, words, size=12, fill=ACT, css="act")
    if section.threads_engaged is not None:
        sheet.text(
            LEFT,
            floor + 16,
            f"{section.threads_engaged:.1f} threads of {joint.male.name}",
            size=12.5,
        )


def _room_below(section: Section, inner: float, scale: float) -> float:
    """Where words under the wall must end: at the far wall, where it is drawn."""
    bore = section.bore_mm
    drawn = bore is not None and bore <= LARGEST_BORE_MM and not section.in_line
    return inner + bore * scale if drawn and bore else math.inf


def _dimension(
    sheet: Drawing,
    x: float,
    start: float,
    end: float,
    length_mm: float,
    words: str,
    at: float | None = None,
    floor: float = math.inf,
) -> None:
    """A length down the drawing, its words right of it about half way or at ``at``; inches only where there is room."""
    sheet.dimension(x, start, x, end)
    y = max((start + end) / 2 - 8, start + 17) if at is None else at
    sheet.text(x + 6, y, f"{length_mm:.1f} mm", size=14, bold=True, mono=True)
    lines = [f"{inch_fraction(abs(length_mm) / 1000)} in", words]
    for i, line in enumerate(lines if y + 33 <= floor else lines[1:]):
        sheet.text(x + 6, y + 15 + 14 * i, line, size=12, fill=QUIET, css="quiet")


def _wall_dimension(
    sheet: Drawing, face: float, inner: float, wall_mm: float, known: bool, plate: bool
) -> None:
    sheet.dimension(RIGHT + 12, face, RIGHT + 12, inner)
    sheet.text(
        RIGHT + 20, (face + inner) / 2 + 1, f"{wall_mm:g} mm" if known else "?", size=14, bold=True, mono=True
    )
    sheet.text(
        RIGHT + 20, (face + inner) / 2 + 15, "rim" if plate else "wall", size=12, fill=QUIET, css="quiet"
    )
