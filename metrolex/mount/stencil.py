"""What is cut or printed for a display, as plain shapes in mm: a drill template, a plate with all its holes, a cup to turn or print.

Every shape is of the size it is made in; x to the right, y up.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from metrolex.errors import BadInput
from metrolex.job import Display, Job, Mounting
from metrolex.mount.body import bezel_size
from metrolex.mount.fitted import hole_wanted
from metrolex.mount.seen import fixtures_at

__all__ = ["CHECK_BAR_MM", "KINDS", "Disc", "Label", "Line", "Stencil", "StencilKind", "stencil_of"]

Point = tuple[float, float]
StencilKind = Literal["drill", "plate", "cup"]
KINDS: dict[StencilKind, str] = {
    "drill": "drill template",
    "plate": "plate with all its holes",
    "cup": "cup to print or turn",
}
#: How a shape is meant: cut out, marked only, a dimension.
Layer = Literal["cut", "mark", "size"]
CHECK_BAR_MM = 100.0
PILOT_MM, CORNER_MM = 3.0, 3.0
WALL_MM, SEAT_MM, FLOOR_MM = 2.4, 0.3, 2.4  # of a printed cup: wall, what it is wider than the body, floor
PLUG_ROOM_MM = 2.0


@dataclass(frozen=True, slots=True)
class Disc:
    """A circle."""

    x: float
    y: float
    r: float
    layer: Layer = "cut"


@dataclass(frozen=True, slots=True)
class Line:
    """A line through points, back to its first where it is ``closed``."""

    points: tuple[Point, ...]
    layer: Layer = "cut"
    closed: bool = False


@dataclass(frozen=True, slots=True)
class Label:
    """Words at a point, about their middle."""

    x: float
    y: float
    words: str
    high: float = 3.0


Shape = Disc | Line | Label


@dataclass(frozen=True, slots=True)
class Stencil:
    """Shapes and the box they fill: left, bottom, right, top."""

    name: str
    shapes: tuple[Shape, ...]
    box: tuple[float, float, float, float]
    note: str = ""

    @property
    def size(self) -> tuple[float, float]:
        """Width and height, mm."""
        left, bottom, right, top = self.box
        return right - left, top - bottom


def stencil_of(job: Job, mounting: Mounting, kind: StencilKind) -> Stencil:
    """What is cut or made for a display. Raises BadInput while its body has not been measured, or for a kind nobody knows."""
    display = job.display(mounting.display)
    if display is None:
        raise BadInput("mounting", mounting.id, ", ".join(one.id for one in job.mountings))
    if kind == "drill":
        return _boxed(f"{display.name}: drill template", _drill(display, mounting, 0.0, 0.0))
    if kind == "plate":
        return _plate(job, mounting)
    if kind == "cup":
        return _cup(display, mounting)
    raise BadInput("kind", kind, " | ".join(KINDS))


def _hole(display: Display, mounting: Mounting) -> tuple[float, float]:
    wanted = hole_wanted(display, mounting)
    if wanted is None:
        raise BadInput(
            "body_mm",
            None,
            "the body's width",
            f"Measure the body of {display.name} first: a template of a guess spoils the panel.",
        )
    return wanted


def _drill(display: Display, mounting: Mounting, x: float, y: float) -> list[Shape]:
    """The hole, the bezel round it, a cross on its middle, where the pilot goes."""
    wide, high = _hole(display, mounting)
    bezel = bezel_size(display)
    round_ = display.housing.shape == "round"
    shapes: list[Shape] = []
    if round_:
        shapes += [Disc(x, y, wide / 2), Disc(x, y, bezel[0] / 2, "mark")]
        words = f"{wide:g} mm"
    else:
        shapes += [_oblong(x, y, wide, high, "cut"), _oblong(x, y, *bezel, "mark")]
        shapes += [
            Disc(x + dx * (wide / 2 - CORNER_MM), y + dy * (high / 2 - CORNER_MM), CORNER_MM, "mark")
            for dx in (-1, 1)
            for dy in (-1, 1)
        ]
        words = f"{wide:g} x {high:g} mm, corners drilled {2 * CORNER_MM:g} mm"
    reach = max(bezel) / 2 + 5
    shapes += [Line(((x - reach, y), (x + reach, y)), "mark"), Line(((x, y - reach), (x, y + reach)), "mark")]
    shapes.append(Disc(x, y, PILOT_MM / 2, "mark"))
    shapes.append(Line(((x - 3, y + reach - 4), (x, y + reach), (x + 3, y + reach - 4)), "mark"))
    shapes.append(Label(x, y + min(high, wide) / 4, display.name, 4.0))
    shapes.append(Label(x, y - min(high, wide) / 4, words, 4.0))
    if mounting.turn_deg:
        turn = math.radians(mounting.turn_deg)
        r = wide / 2
        shapes.append(
            Line(tuple((x + k * math.sin(turn), y + k * math.cos(turn)) for k in (0.7 * r, 0.98 * r)), "mark")
        )
        shapes.append(Label(x + 0.55 * r * math.sin(turn), y + 0.55 * r * math.cos(turn), "top"))
    return shapes


def _plate(job: Job, mounting: Mounting) -> Stencil:
    site = job.site(mounting.site)
    if site is None:
        raise BadInput("site", mounting.site, ", ".join(one.id for one in job.sites))
    shapes: list[Shape] = [Line(tuple(site.outline), "cut", closed=True)]
    for one in job.mountings:
        display = job.display(one.display)
        if one.site == site.id and display is not None:
            shapes += _drill(display, one, one.x, one.y)
            shapes.append(Label(one.x, one.y - max(bezel_size(display)) / 2 - 8, f"{one.x:g}, {one.y:g}"))
    for part in fixtures_at(job, site):
        shapes.append(
            Disc(part.x, part.y, part.wide_mm / 2, "mark")
            if part.disc
            else _oblong(part.x, part.y, part.wide_mm, part.high_mm, "mark")
        )
        shapes.append(Label(part.x, part.y, part.name))
    cross: list[Shape] = [Line(((-6, 0), (6, 0)), "mark"), Line(((0, -6), (0, 6)), "mark")]
    return _boxed(f"{site.name}: plate", [*shapes, *cross])


def _cup(display: Display, mounting: Mounting) -> Stencil:
    """A cup for a round gauge: from the front, and cut through its middle beside it."""
    housing, grip = display.housing, display.grip
    if housing.shape != "round":
        raise BadInput(
            "shape",
            housing.shape,
            "a round body",
            "A cup is drawn for a round gauge; a square one wants a box.",
        )
    if housing.body_mm is None or housing.depth_mm is None:
        raise BadInput(
            "depth_mm",
            housing.depth_mm,
            "the body's width and depth",
            f"Measure width and depth of {display.name} first.",
        )
    inner = (housing.body_mm + 2 * mounting.hole.packed_mm) / 2 + SEAT_MM
    outer = inner + WALL_MM
    deep = housing.depth_mm + grip.bend_mm
    slot_wide = (grip.plug_wide_mm or 12.0) + PLUG_ROOM_MM
    slot_high = (grip.plug_high_mm or 8.0) + PLUG_ROOM_MM
    across = outer + 18 + outer
    left = across - (deep + FLOOR_MM) / 2
    right = left + deep + FLOOR_MM
    shapes: list[Shape] = [
        Disc(0, 0, outer),
        Disc(0, 0, inner),
        _oblong(0, -inner + slot_high / 2 + 2, min(slot_wide, 1.6 * inner), slot_high, "mark"),
        Line(((-outer - 5, 0), (outer + 5, 0)), "mark"),
        Line(((0, -outer - 5), (0, outer + 5)), "mark"),
        Label(0, inner / 2, display.name, 4.0),
        Label(0, outer + 8, f"outside {2 * outer:g}, inside {2 * inner:g} mm", 3.5),
        Line(
            (
                (right, outer),
                (left, outer),
                (left, -outer),
                (right, -outer),
                (right, -inner),
                (left + FLOOR_MM, -inner),
                (left + FLOOR_MM, inner),
                (right, inner),
            ),
            closed=True,
        ),
        Line(((left - 4, 0), (right + 4, 0)), "mark"),
        Label((left + right) / 2, outer + 8, f"inside {deep:g} mm deep, floor {FLOOR_MM:g}", 3.5),
        Label(
            (left + right) / 2, -outer - 8, f"slot for the plug {slot_wide:g} x {slot_high:g} mm, below", 3.5
        ),
    ]
    return _boxed(
        f"{display.name}: cup",
        shapes,
        "Print it in a material that stands the sun behind glass; plain printed plastic softens from 55 °C.",
    )


def _oblong(x: float, y: float, wide: float, high: float, layer: Layer) -> Line:
    w, h = wide / 2, high / 2
    return Line(((x - w, y - h), (x + w, y - h), (x + w, y + h), (x - w, y + h)), layer, closed=True)


def _boxed(name: str, shapes: list[Shape], note: str = "") -> Stencil:
    xs: list[float] = []
    ys: list[float] = []
    for shape in shapes:
        if isinstance(shape, Disc):
            xs += [shape.x - shape.r, shape.x + shape.r]
            ys += [shape.y - shape.r, shape.y + shape.r]
        elif isinstance(shape, Line):
            xs += [x for x, _ in shape.points]
            ys += [y for _, y in shape.points]
        else:
            half = len(shape.words) * shape.high * 0.32
            xs += [shape.x - half, shape.x + half]
            ys += [shape.y - shape.high, shape.y + shape.high]
    return Stencil(name, tuple(shapes), (min(xs) - 2, min(ys) - 2, max(xs) + 2, max(ys) + 2), note)
