"""A site as the driver sees it: its outline, what is in it, displays that can be moved, what the wheel hides."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import replace
from urllib.parse import quote

import shapely
from shapely.geometry.base import BaseGeometry

from metrolex.dash.faces import pages_of
from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.job import Display, Fixture, Job, Mounting, Site
from metrolex.mount.body import bezel_size
from metrolex.mount.check import findings_of, touching
from metrolex.mount.seen import fixtures_at
from metrolex.mount.shadow import hidden_of, shadows_of
from workbench.dash.page_drawing import Showing, draw_screen
from workbench.drawing import ACT, INK, PAPER, QUIET, RULE, Drawing

__all__ = ["front_drawing", "grade_of"]

Point = tuple[float, float]
WIDE, HIGH = 560.0, 500.0
MARGIN = 26.0
LETTER = 6.4
NAMES = 150.0  # beside an upright site, for what its displays are called
PART_WORDS = {"seen": "", "reached": "", "free": " · keep free", "covered": " · may be covered"}
STOP_LINE, CAUTION_LINE = "#A3211B", "#8A5300"


def grade_of(findings: Iterable[Finding]) -> str:
    """The worst of some findings as a class: 'stop', 'caution' or 'good'."""
    grades = {finding.grade for finding in findings}
    return "stop" if "stop" in grades else "caution" if "caution" in grades else "good"


class _Sheet:
    """From millimetres of the panel to the drawing."""

    def __init__(self, site: Site, mountings: Iterable[tuple[Display, Mounting]]) -> None:
        xs = [x for x, _ in site.outline]
        ys = [y for _, y in site.outline]
        for display, one in mountings:
            w, h = bezel_size(display)
            xs += [one.x - w / 2, one.x + w / 2]
            ys += [one.y - h / 2, one.y + h / 2]
        self.left, self.top = min(xs), max(ys)
        wide, high = max(max(xs) - self.left, 1.0), max(self.top - min(ys), 1.0)
        self.scale = min((WIDE - 2 * MARGIN) / wide, (HIGH - 2 * MARGIN) / high, 2.2)
        self.upright = high > 1.2 * wide
        self.width = wide * self.scale + 2 * MARGIN + (NAMES if self.upright else 0.0)
        self.height = high * self.scale + 2 * MARGIN + 22

    def at(self, x: float, y: float) -> Point:
        return MARGIN + (x - self.left) * self.scale, MARGIN + (self.top - y) * self.scale

    def ring(self, points: Iterable[Point]) -> list[Point]:
        return [self.at(x, y) for x, y in points]


def front_drawing(job: Job, site: Site, showing: Showing, chosen: str = "") -> Drawing:
    """The site with its displays; the chosen one stands out. Each can be taken hold of."""
    held = [
        (display, one)
        for one in job.mountings
        if one.site == site.id and (display := job.display(one.display)) is not None
    ]
    on = _Sheet(site, held)
    sheet = Drawing(
        max(on.width, 360.0), on.height, f"{site.name} from the seat", "drawing front", holds_links=True
    )
    sheet.root.set("data-scale", f"{on.scale:.4f}")
    left, top = on.at(0.0, 0.0)
    sheet.root.set("data-zero", f"{left:.2f} {top:.2f}")
    sheet.area([on.ring(site.outline)], fill=PAPER, stroke=INK, width=2.2, css="panel-edge")
    _shadow(sheet, on, site)
    for fixture in fixtures_at(job, site):
        _fixture(sheet, on, fixture)
    for display, one in sorted(held, key=lambda pair: pair[1].id == chosen):
        _display(sheet, on, job, display, one, showing, one.id == chosen)
    _zero(sheet, on)
    _scale_bar(sheet, on)
    return sheet


def _fixture(sheet: Drawing, on: _Sheet, fixture: Fixture) -> None:
    x, y = on.at(fixture.x, fixture.y)
    w, h = fixture.wide_mm * on.scale, fixture.high_mm * on.scale
    dash = {"reached": "7 3", "free": "2 3", "covered": "1 4"}.get(fixture.rank, "")
    stroke, css = (QUIET, "part-quiet") if fixture.rank == "covered" else (INK, "part")
    if fixture.kind in ("airbag", "seam"):
        stroke, css = STOP_LINE, "part-airbag"
    sheet.link(f"?site={quote(fixture.site)}&part={quote(fixture.id)}#part-form", aria_label=fixture.name)
    if fixture.disc and abs(w - h) < 0.5:
        sheet.circle(x, y, w / 2, fill="none", stroke=stroke, width=1.3, css=css)
    else:
        sheet.rect(
            x - w / 2, y - h / 2, w, h, fill="none", stroke=stroke, width=1.3, css=css, round_=4, dash=dash
        )
    if fixture.kind == "vent":
        for i in range(1, 4):
            level = y - h / 2 + h * i / 4
            half = w / 2 if not fixture.disc else math.sqrt(max((w / 2) ** 2 - (level - y) ** 2, 0.0))
            sheet.line(x - half + 3, level, x + half - 3, level, stroke=RULE, width=1, css="rule")
    words = fixture.name + PART_WORDS[fixture.rank]
    inside = w > LETTER * len(words) and h > 18
    if not inside:
        words = fixture.name  # beside a small part its line says the rank
    sheet.text(
        x, y + 4 if inside else y + h / 2 + 14, words, size=12, anchor="middle", fill=QUIET, css="part-words"
    )
    sheet.end()


def _shadow(sheet: Drawing, on: _Sheet, site: Site) -> None:
    """What both eyes miss behind the wheel, cut to the panel."""
    try:
        left, right = shadows_of(site)[0][0]
    except BadInput:
        return
    panel = shapely.Polygon(site.outline)
    hidden = hidden_of(panel, left).intersection(hidden_of(panel, right))
    rings = [on.ring(ring) for ring in _rings(hidden)]
    if rings:
        fill = sheet.hatch("hidden", "none", QUIET, angle=60, step=6, css="hidden")
        sheet.area(rings, fill=fill, stroke=QUIET, width=1, css="hidden-edge")
        x, y = MARGIN + 100 * on.scale + 84, on.height - 20
        sheet.rect(x, y, 26, 14, fill=fill, stroke=QUIET, width=1, css="hidden-edge")
        words = f"behind the {site.steering.between}, straight ahead"
        sheet.text(x + 33, y + 12, words, size=12, fill=QUIET, css="part-words")


def _rings(shape: BaseGeometry) -> list[list[Point]]:
    found = []
    for part in getattr(shape, "geoms", [shape]):
        if part.geom_type == "Polygon" and not part.is_empty:
            simple = part.simplify(0.4)
            found.append(list(simple.exterior.coords))
            found += [list(ring.coords) for ring in simple.interiors]
    return found


def _display(
    sheet: Drawing,
    on: _Sheet,
    job: Job,
    display: Display,
    one: Mounting,
    showing: Showing,
    chosen: bool,
) -> None:
    grade = grade_of((*findings_of(job, one), *touching(job, one)))
    x, y = on.at(one.x, one.y)
    w, h = (size * on.scale for size in bezel_size(display))
    sheet.group(
        data_mounting=one.id,
        data_x=f"{one.x:g}",
        data_y=f"{one.y:g}",
        transform=f"translate({x:.2f} {y:.2f})",
        tabindex=0,
        role="button",
        aria_label=f"{display.name}, {one.x:g} mm right and {one.y:g} mm up: arrow keys move it",
        class_=f"mounted {grade}{' chosen' if chosen else ''}",
    )
    ink = {"stop": STOP_LINE, "caution": CAUTION_LINE}.get(grade, INK)
    known = display.housing.bezel is not None
    edge = {"stroke": ACT if chosen else ink, "width": 4.0 if chosen else 2.5}
    if display.housing.shape != "square":
        sheet.circle(0, 0, w / 2, fill="#23282B", css="bezel", **edge)  # type: ignore[arg-type]
    else:
        sheet.rect(-w / 2, -h / 2, w, h, fill="#23282B", css="bezel", round_=6, **edge)  # type: ignore[arg-type]
    pages = pages_of(job, display.id)
    if known and pages:
        draw_screen(sheet, display, pages[0], replace(showing, turn_deg=one.turn_deg), (0.0, 0.0), on.scale)
    elif not known:
        sheet.text(0, 4, "not measured", size=11, anchor="middle", fill=PAPER, css="on-bezel")
    if grade != "good":
        _mark(sheet, w / 2 * 0.72, -h / 2 * 0.72, grade)
    if on.upright:
        out = on.width - NAMES - MARGIN + 12 - x
        sheet.line(w / 2 + 4, 0, out - 5, 0, stroke=RULE, width=1, css="rule")
        sheet.text(out, 5, display.name, size=13.5, bold=chosen, css="words")
    else:
        half = len(display.name) * 3.7 + 6
        sheet.rect(-half, h / 2 + 4, 2 * half, 18, stroke="none", width=0, css="label", round_=3)
        sheet.text(0, h / 2 + 17, display.name, size=13.5, anchor="middle", bold=chosen, css="words")
    sheet.end()


def _mark(sheet: Drawing, x: float, y: float, grade: str) -> None:
    """The state as a shape: a crossed square stops, a triangle cautions."""
    if grade == "stop":
        sheet.rect(x - 8, y - 8, 16, 16, fill=PAPER, stroke=STOP_LINE, width=2, css="mark-stop")
        sheet.line(x - 5, y - 5, x + 5, y + 5, stroke=STOP_LINE, width=2, css="stop-line")
        sheet.line(x + 5, y - 5, x - 5, y + 5, stroke=STOP_LINE, width=2, css="stop-line")
    else:
        sheet.area(
            [[(x, y - 10), (x + 10, y + 8), (x - 10, y + 8)]],
            fill=PAPER,
            stroke=CAUTION_LINE,
            width=2,
            css="mark-caution",
        )


def _zero(sheet: Drawing, on: _Sheet) -> None:
    """The point measured from."""
    x, y = on.at(0.0, 0.0)
    for dx, dy in ((9, 0), (0, 9)):
        sheet.line(x - dx, y - dy, x + dx, y + dy, stroke=ACT, width=1.4, css="act-line")
    sheet.circle(x, y, 4.5, fill="none", stroke=ACT, width=1.4, css="act-line")


def _scale_bar(sheet: Drawing, on: _Sheet) -> None:
    y = on.height - 12
    sheet.dimension(MARGIN, y, MARGIN + 100 * on.scale, y)
    sheet.text(MARGIN + 100 * on.scale + 8, y + 4, "100 mm", size=12, mono=True, css="words")
