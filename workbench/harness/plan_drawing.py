"""The vehicle from above: zones as boxes, the ways between them, the runs along them."""

from __future__ import annotations

import math

from metrolex.job import Job, Run, Way, Zone
from metrolex.layout.routes import route_of
from workbench.drawing import ACT, INK, PAPER, QUIET, RULE, Drawing

__all__ = ["plan_drawing"]

SCALE = 10.0
MARGIN = 14.0
HOT, WARM = 125.0, 85.0
HOT_LINE = "#A3211B"
STEP = 5.0  # between runs that share a way


def plan_drawing(job: Job, chosen: Run | None = None) -> Drawing:
    """Zones, ways and runs; the chosen run stands out and its zones can be taken hold of."""
    words = f"Plan of {job.vehicle.name}, front to the left"
    right = max((zone.x + zone.w for zone in job.zones), default=10) * SCALE + MARGIN
    bottom = max((zone.y + zone.h for zone in job.zones), default=10) * SCALE + 26
    top = min((zone.y for zone in job.zones), default=0) * SCALE - MARGIN
    left = min((zone.x for zone in job.zones), default=0) * SCALE - MARGIN
    sheet = Drawing(right - left, bottom - top, words, "drawing plan", holds_links=True, left=left, top=top)
    passed = _zones_of(job, chosen)
    for zone in job.zones:
        _zone(sheet, zone, chosen is not None and zone.id in passed)
    route = route_of(job, chosen) if chosen else None
    mine = {way.id for way in route.ways} if route else set()
    for way in job.ways:
        _way(sheet, job, way)
    lanes = _lanes(job)
    for run in job.runs:
        if chosen is None or run.id != chosen.id:
            _run(sheet, job, run, lanes, False)
    if chosen is not None:
        _run(sheet, job, chosen, lanes, True)
    for zone in job.zones:
        _zone_words(sheet, zone)
    for way in job.ways:
        if way.id in mine:
            _way_words(sheet, job, way)
    sheet.text(left + 4, bottom - 7, "front", size=12, fill=QUIET, css="quiet")
    return sheet


def _middle(zone: Zone) -> tuple[float, float]:
    return (zone.x + zone.w / 2) * SCALE, (zone.y + zone.h / 2) * SCALE


def _zone(sheet: Drawing, zone: Zone, passed: bool) -> None:
    sheet.group(
        data_zone=zone.id,
        tabindex=0,
        role="button",
        aria_label=f"{zone.name}: let the chosen run pass here",
        class_="zone",
    )
    sheet.rect(
        zone.x * SCALE,
        zone.y * SCALE,
        zone.w * SCALE,
        zone.h * SCALE,
        fill=PAPER,
        stroke=ACT if passed else RULE,
        width=2.5 if passed else 1.2,
        css="zone-passed" if passed else "zone-box",
        round_=6,
    )
    if zone.kind == "bulkhead":
        x = (zone.x + zone.w / 2) * SCALE
        sheet.line(x, zone.y * SCALE + 3, x, (zone.y + zone.h) * SCALE - 3, width=5, css="ink")
    sheet.end()


def _zone_words(sheet: Drawing, zone: Zone) -> None:
    """The name in its box, on as many lines as it needs; what is asked of the zone under it."""
    x, y = zone.x * SCALE + 6, zone.y * SCALE + 17
    lines = _lines(zone.name, max(6, int(zone.w * SCALE / 7.4)))
    tags = [
        tag
        for tag, said in (
            ("airbag", zone.airbag == "there"),
            ("airbag?", _asks(zone)),
            ("pedals", zone.pedals),
        )
        if said
    ]
    for i, line in enumerate(lines):
        half = len(line) * 6.3
        sheet.rect(x - 2, y - 13 + i * 16, half + 4, 17, stroke="none", width=0, css="zone-label")
        sheet.text(x, y + i * 16, line, size=14, css="words")
    for j, tag in enumerate(tags):
        sheet.text(x, y + (len(lines) + j) * 16, tag, size=13.5, bold=True, fill=HOT_LINE, css="stop")


def _asks(zone: Zone) -> bool:
    return zone.kind in ("pillar", "column", "roof") and zone.airbag == ""


def _lines(words: str, most: int) -> list[str]:
    lines = [""]
    for word in words.split():
        if lines[-1] and len(lines[-1]) + 1 + len(word) > most:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    return lines


def _way(sheet: Drawing, job: Job, way: Way) -> None:
    a, b = job.zone(way.a), job.zone(way.b)
    if a is None or b is None:
        return
    hot = way.peak_degc > HOT
    paint = HOT_LINE if hot else QUIET
    sheet.line(
        *_middle(a),
        *_middle(b),
        stroke=paint,
        width=1.4,
        css="way-hot" if hot else "way",
        dash="2 5" if way.moving else "7 4",
    )
    if way.opening:
        (x1, y1), (x2, y2) = _middle(a), _middle(b)
        sheet.circle((x1 + x2) / 2, (y1 + y2) / 2, 6, stroke=INK, width=2.2, css="box")


def _way_words(sheet: Drawing, job: Job, way: Way) -> None:
    """Length, and what is hot or wet about it, beside a way the chosen run takes."""
    a, b = job.zone(way.a), job.zone(way.b)
    if a is None or b is None:
        return
    (x1, y1), (x2, y2) = _middle(a), _middle(b)
    words = (
        f"{way.length_m:g} m"
        + (f" {way.peak_degc:g} °C" if way.peak_degc > WARM else "")
        + (" wet" if way.wet else "")
    )
    x, y = (x1 + x2) / 2, (y1 + y2) / 2 + 24
    half = len(words) * 4.1 + 4
    hot = way.peak_degc > HOT
    sheet.rect(x - half, y - 13, 2 * half, 18, stroke="none", width=0, css="label")
    sheet.text(
        x,
        y + 1,
        words,
        size=13.5,
        anchor="middle",
        bold=True,
        fill=HOT_LINE if hot else INK,
        css="stop" if hot else "words",
        mono=True,
    )


def _lanes(job: Job) -> dict[tuple[str, str], int]:
    """Which lane a run has on a way it shares: (run, way) to 0, 1, 2..."""
    taken: dict[str, int] = {}
    found = {}
    for run in job.runs:
        route = route_of(job, run)
        for way in route.ways if route else ():
            found[run.id, way.id] = taken.get(way.id, 0)
            taken[way.id] = found[run.id, way.id] + 1
    return found


def _zones_of(job: Job, run: Run | None) -> tuple[str, ...]:
    route = route_of(job, run) if run else None
    if route is not None:
        return route.zones
    return tuple(key for key in (run.start, run.finish) if key) if run else ()


def _run(sheet: Drawing, job: Job, run: Run, lanes: dict[tuple[str, str], int], chosen: bool) -> None:
    route = route_of(job, run)
    if route is None or not route.ways:
        return
    points: list[tuple[float, float]] = []
    for way, a, b in zip(route.ways, route.zones, route.zones[1:], strict=False):
        za, zb = job.zone(a), job.zone(b)
        if za is None or zb is None:
            return
        (x1, y1), (x2, y2) = _middle(za), _middle(zb)
        aside = (lanes.get((run.id, way.id), 0) + 1) * STEP
        length = math.hypot(x2 - x1, y2 - y1) or 1.0
        # The side is the way's own, not the run's, so that runs in opposite directions keep apart.
        sign = 1 if (way.a == a) else -1
        nx, ny = -(y2 - y1) / length * aside * sign, (x2 - x1) / length * aside * sign
        points += [(x1 + nx, y1 + ny), (x2 + nx, y2 + ny)]
    if chosen:
        sheet.group(data_run=run.id, class_="run-chosen")
        sheet.path(points, stroke=INK, width=9, css="run-edge")
        sheet.path(points, stroke=ACT, width=6, css="run-line")
        for x, y in (points[0], points[-1]):
            sheet.circle(x, y, 8, fill=ACT, stroke=INK, width=2, css="run-end")
        for x, y in points[1:-1:2]:
            sheet.circle(x, y, 7, stroke=ACT, width=3, css="run-grip")
        sheet.end()
        return
    sheet.link(f"?run={run.id}", aria_label=run.name)
    sheet.path(points, stroke=QUIET, width=3.2, css="run-quiet")
    for x, y in (points[0], points[-1]):
        sheet.circle(x, y, 4.5, fill=QUIET, stroke=QUIET, css="run-quiet-end")
    sheet.end()
