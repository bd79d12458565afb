"""The vehicle from above: zones as boxes, the ways between them, the runs along them."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise

from metrolex.job import Job, Run, Way
from metrolex.layout.routes import route_of
from workbench.drawing import ACT, INK, PAPER, QUIET, RULE, Drawing
from workbench.harness.plan_paths import LINE, Box, boxes_of, paths_of

__all__ = ["plan_drawing"]

Point = tuple[float, float]
Label = tuple[float, float, float, float]

MARGIN = 14.0
HOT, WARM = 125.0, 85.0
HOT_LINE = "#A3211B"
STEP = 4.0  # between runs that share a way


def plan_drawing(job: Job, chosen: Run | None = None) -> Drawing:
    """Zones, ways and runs; the chosen run stands out and its zones can be taken hold of."""
    words = f"Plan of {job.vehicle.name}, front to the left, its left side at the bottom"
    boxes, paths = boxes_of(job.zones), paths_of(job.zones, job.ways)
    corners = [(box.x, box.y, box.x + box.w, box.y + box.h) for box in boxes.values()] or [(0, 0, 100, 100)]
    left, top = min(c[0] for c in corners) - MARGIN, min(c[1] for c in corners) - MARGIN
    right, bottom = max(c[2] for c in corners) + MARGIN, max(c[3] for c in corners) + 26
    sheet = Drawing(right - left, bottom - top, words, "drawing plan", holds_links=True, left=left, top=top)
    passed = _zones_of(job, chosen)
    for box in boxes.values():
        _zone(sheet, box, chosen is not None and box.zone.id in passed)
    for way in job.ways:
        if way.id in paths:
            _way(sheet, way, paths[way.id])
    lanes = _lanes(job)
    for run in job.runs:
        if chosen is None or run.id != chosen.id:
            _run(sheet, job, run, paths, lanes, False)
    if chosen is not None:
        _run(sheet, job, chosen, paths, lanes, True)
    for box in boxes.values():
        sheet.circle(*box.anchor, 2.5, fill=QUIET, stroke=QUIET, css="run-quiet-end")
        _zone_words(sheet, box)
    route = route_of(job, chosen) if chosen else None
    aside = _aside(lanes, chosen) if chosen else 0.0
    ways = [way for way in route.ways if way.id in paths] if route else []
    drawn = {way.id: [(x + aside, y + aside) for x, y in paths[way.id]] for way in ways}
    taken = [box.name for box in boxes.values()]
    taken += [_along(a, b) for path in drawn.values() for a, b in pairwise(path)]
    for way in ways:
        taken.append(_way_words(sheet, way, drawn[way.id], taken))
    sheet.text(left + 4, bottom - 7, "◂ front", size=12, fill=QUIET, css="quiet")
    sheet.text((left + right) / 2, bottom - 7, "left side", size=12, anchor="middle", fill=QUIET, css="quiet")
    return sheet


def _zone(sheet: Drawing, box: Box, passed: bool) -> None:
    sheet.group(
        data_zone=box.zone.id,
        tabindex=0,
        role="button",
        aria_label=f"{box.zone.name}: let the chosen run pass here",
        class_="zone",
    )
    sheet.rect(
        box.x,
        box.y,
        box.w,
        box.h,
        fill=PAPER,
        stroke=ACT if passed else RULE,
        width=2.5 if passed else 1.2,
        css="zone-passed" if passed else "zone-box",
        round_=6,
    )
    if box.zone.kind == "bulkhead":
        x = box.x + box.w - 7
        sheet.line(x, box.name[3] + 3, x, box.y + box.h - 3, width=5, css="ink")
    sheet.end()


def _zone_words(sheet: Drawing, box: Box) -> None:
    """The name in its box, on as many lines as it needs; what is asked of the zone under it."""
    x, y = box.x + 6, box.y + 17
    for i, line in enumerate(box.lines):
        sheet.text(x, y + i * LINE, line, size=14, css="words")
    for j, tag in enumerate(box.tags, start=len(box.lines)):
        sheet.text(x, y + j * LINE, tag, size=13.5, bold=True, fill=HOT_LINE, css="stop")


def _way(sheet: Drawing, way: Way, path: Sequence[Point]) -> None:
    hot = way.peak_degc > HOT
    sheet.path(
        list(path),
        stroke=HOT_LINE if hot else QUIET,
        width=1.4,
        css="way-hot" if hot else "way",
        dash="2 5" if way.moving else "7 4",
    )
    if way.opening:
        sheet.circle(*_middle(path), 6, stroke=INK, width=2.2, css="box")


def _middle(path: Sequence[Point]) -> Point:
    """The middle of a path's longest stretch."""
    (x1, y1), (x2, y2) = max(pairwise(path), key=lambda pair: math.dist(*pair))
    return (x1 + x2) / 2, (y1 + y2) / 2


def _way_words(sheet: Drawing, way: Way, path: Sequence[Point], taken: Sequence[Label]) -> Label:
    """Length, and what is hot or wet about it, beside a way the chosen run takes; clear of names, of the run, of other words."""
    words = (
        f"{way.length_m:g} m"
        + (f" {way.peak_degc:g} °C" if way.peak_degc > WARM else "")
        + (" wet" if way.wet else "")
    )
    half = len(words) * 4.1 + 4
    hot = way.peak_degc > HOT
    label = min(
        (_label(x, y, half) for x, y in _places(path, half)),
        key=lambda one: (sum(_meet(one, other) for other in taken), _off(one, _middle(path))),
    )
    x, y = (label[0] + label[2]) / 2, label[1]
    sheet.rect(label[0], y, 2 * half, 18, stroke="none", width=0, css="label")
    sheet.text(
        x,
        y + 14,
        words,
        size=13.5,
        anchor="middle",
        bold=True,
        fill=HOT_LINE if hot else INK,
        css="stop" if hot else "words",
        mono=True,
    )
    return label


def _places(path: Sequence[Point], half: float) -> Iterator[Point]:
    """Middles of labels beside a path: above and below its level stretches, left and right of the upright ones, at three places of each."""
    for (x1, y1), (x2, y2) in pairwise(path):
        for share in (0.5, 0.25, 0.75):
            x, y = x1 + (x2 - x1) * share, y1 + (y2 - y1) * share
            aside = (0, 16) if y1 == y2 else (half + 7, 0)
            yield x + aside[0], y + aside[1]
            yield x - aside[0], y - aside[1]


def _along(a: Point, b: Point) -> Label:
    """The strip a stretch of the run takes."""
    return min(a[0], b[0]) - 5, min(a[1], b[1]) - 5, max(a[0], b[0]) + 5, max(a[1], b[1]) + 5


def _aside(lanes: Mapping[str, int], run: Run) -> float:
    return (lanes[run.id] + 1) * STEP


def _label(x: float, y: float, half: float) -> Label:
    return x - half, y - 9, x + half, y + 9


def _meet(a: Label, b: Label) -> bool:
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


def _off(label: Label, point: Point) -> float:
    return math.dist(((label[0] + label[2]) / 2, (label[1] + label[3]) / 2), point)


def _lanes(job: Job) -> dict[str, int]:
    """Which lane each run keeps to, so that no two that share a way lie on one another: 0, 1, 2..."""
    taken: dict[str, set[int]] = {}
    found = {}
    for run in job.runs:
        route = route_of(job, run)
        ways = [way.id for way in route.ways] if route else []
        used = set().union(*(taken.get(way, set()) for way in ways))
        lane = next(i for i in range(len(used) + 1) if i not in used)
        found[run.id] = lane
        for way in ways:
            taken.setdefault(way, set()).add(lane)
    return found


def _zones_of(job: Job, run: Run | None) -> tuple[str, ...]:
    route = route_of(job, run) if run else None
    if route is not None:
        return route.zones
    return tuple(key for key in (run.start, run.finish) if key) if run else ()


def _run(
    sheet: Drawing,
    job: Job,
    run: Run,
    paths: Mapping[str, tuple[Point, ...]],
    lanes: Mapping[str, int],
    chosen: bool,
) -> None:
    route = route_of(job, run)
    if route is None or not all(way.id in paths for way in route.ways) or not route.ways:
        return
    # A whole lead is moved both ways at once: it stays square, and beside the others on level and on upright stretches alike.
    aside = _aside(lanes, run)
    stretches = [
        paths[way.id] if way.a == zone else paths[way.id][::-1]
        for way, zone in zip(route.ways, route.zones, strict=False)
    ]
    points = [(x + aside, y + aside) for stretch in stretches for x, y in stretch]
    if chosen:
        sheet.group(data_run=run.id, class_="run-chosen")
        sheet.path(points, stroke=INK, width=9, css="run-edge")
        sheet.path(points, stroke=ACT, width=6, css="run-line")
        for x, y in (points[0], points[-1]):
            sheet.circle(x, y, 8, fill=ACT, stroke=INK, width=2, css="run-end")
        for stretch in stretches[1:]:
            x, y = stretch[0]
            sheet.circle(x + aside, y + aside, 7, stroke=ACT, width=3, css="run-grip")
        sheet.end()
        return
    sheet.link(f"?run={run.id}", aria_label=run.name)
    sheet.path(points, stroke=QUIET, width=3.2, css="run-quiet")
    for x, y in (points[0], points[-1]):
        sheet.circle(x, y, 4.5, fill=QUIET, stroke=QUIET, css="run-quiet-end")
    sheet.end()
