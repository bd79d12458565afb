"""Where things lie on the drawing of the plan: boxes, names, and the paths that leads take between them.

Seen from above with the front to the left, so the vehicle's left side is at the bottom. Leads run square to the
vehicle, along the walls of the zones rather than across them, and not across a name: the cheapest path on a grid of the lines that
walls, gaps and middles give, where crossing a box or turning a corner costs more.
"""

from __future__ import annotations

import functools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from metrolex.job import Way, Zone

if TYPE_CHECKING:
    from scipy.sparse import csr_array

__all__ = ["Box", "boxes_of", "paths_of"]

Point = tuple[float, float]

SCALE = 10.0
LETTER = 7.4  # of a name, as wide as it may be
LINE = 16.0
GAP = 3.0  # between a wall and a lead along it
LANES = 10.0  # how far to the right of its path, and below it, most leads lie that are drawn beside others
# What a length inside a box costs, so close to a name that a lane may touch it, across a name; and a corner: in lengths of drawing.
INSIDE, BESIDE_NAME, NAME, TURN = 2.5, 12.0, 400.0, 60.0


@dataclass(frozen=True, slots=True)
class Box:
    """A zone on the sheet: its corner and size, its name in lines, what is asked of it in tags, and where its leads meet."""

    zone: Zone
    x: float
    y: float
    w: float
    h: float
    lines: tuple[str, ...]
    tags: tuple[str, ...]

    @property
    def name(self) -> tuple[float, float, float, float]:
        """The rectangle the words take: left, top, right, bottom."""
        longest = max(len(line) for line in (*self.lines, *self.tags))
        deep = LINE * (len(self.lines) + len(self.tags))
        return self.x + 4, self.y + 2, self.x + 8 + 6.4 * longest, self.y + 6 + deep

    @property
    def anchor(self) -> Point:
        """Where the leads of the zone meet: in the middle of what its name leaves free."""
        top = min(self.name[3], self.y + self.h - 12)
        return round(self.x + self.w / 2), round((top + self.y + self.h) / 2)

    def holds(self, x: float, y: float) -> bool:
        return self.x < x < self.x + self.w and self.y < y < self.y + self.h


def boxes_of(zones: Sequence[Zone]) -> dict[str, Box]:
    """The box of each zone by its key, the vehicle's left side at the bottom."""
    across = max((zone.y + zone.h for zone in zones), default=60.0)
    return {
        zone.id: Box(
            zone,
            zone.x * SCALE,
            (across - zone.y - zone.h) * SCALE,
            zone.w * SCALE,
            zone.h * SCALE,
            tuple(_lines(zone.name, max(6, int(zone.w * SCALE / LETTER)))),
            tuple(_tags(zone)),
        )
        for zone in zones
    }


def _tags(zone: Zone) -> Iterable[str]:
    if zone.airbag == "there":
        yield "airbag"
    if zone.kind in ("pillar", "column", "roof") and zone.airbag == "":
        yield "airbag?"
    if zone.pedals:
        yield "pedals"


def _lines(words: str, most: int) -> list[str]:
    lines = [""]
    for word in words.split():
        if lines[-1] and len(lines[-1]) + 1 + len(word) > most:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    return lines


@functools.lru_cache(64)
def paths_of(zones: tuple[Zone, ...], ways: tuple[Way, ...]) -> dict[str, tuple[Point, ...]]:
    """The corners of each way's path, from its first zone to its second; ways of a zone that is gone are left out."""
    if not ways:
        return {}
    boxes = boxes_of(zones)
    grid = _Grid(tuple(boxes.values()))
    paths = {
        way.id: grid.path(boxes[way.a], boxes[way.b])
        for way in ways
        if way.a in boxes and way.b in boxes and way.a != way.b
    }
    # Zones laid at one and the same place have no path between them to be drawn.
    return {key: path for key, path in paths.items() if len(path) > 1}


class _Grid:
    """The lines leads may follow; each crossing of two is there twice, come to along one and along the other."""

    def __init__(self, boxes: tuple[Box, ...]) -> None:
        self.boxes = boxes
        self.xs = sorted(
            {x for box in boxes for x in (box.anchor[0], box.x - GAP - LANES, box.x + box.w + GAP)}
        )
        self.ys = sorted(
            {y for box in boxes for y in (box.anchor[1], box.y - GAP - LANES, box.y + box.h + GAP)}
        )
        self.level = self._costs([(x, y) for y in self.ys for x in self.xs], len(self.xs), along=True)
        self.upright = self._costs([(x, y) for x in self.xs for y in self.ys], len(self.ys), along=False)

    def _costs(self, points: list[Point], count: int, *, along: bool) -> NDArray[np.float64]:
        """The cost of each step along the lines one way: a row for each line."""
        steps = [
            self._cost(a, b)
            for start in range(0, len(points), count)
            for a, b in pairwise(points[start : start + count])
        ]
        return np.array(steps).reshape(-1, count - 1) if count > 1 else np.zeros((len(points), 0))

    def _cost(self, a: Point, b: Point) -> float:
        x, y = (a[0] + b[0]) / 2, (a[1] + b[1]) / 2
        length, factor = abs(a[0] - b[0]) + abs(a[1] - b[1]), 1.0
        for box in self.boxes:
            if box.holds(x, y):
                factor = max(factor, INSIDE)
            left, top, right, bottom = box.name
            if _meets(a, b, (left, top, right, bottom)):
                return length * NAME
            if _meets(a, b, (left - LANES, top - LANES, right, bottom)):
                factor = max(factor, BESIDE_NAME)
        return length * factor

    def path(self, a: Box, b: Box) -> tuple[Point, ...]:
        from scipy.sparse.csgraph import dijkstra  # heavy to load, and seldom needed

        start, goal = self._place(a.anchor), self._place(b.anchor)
        count = len(self.xs) * len(self.ys)
        cost, before = dijkstra(self._graph, indices=[start, start + count], return_predecessors=True)
        ends = [(cost[i, goal + layer], i, goal + layer) for i in (0, 1) for layer in (0, count)]
        _, row, node = min(ends)
        found = [node]
        while node not in (start, start + count):
            node = int(before[row, node])
            found.append(node)
        return tuple(_corners([self._point(node % count) for node in reversed(found)]))

    def _place(self, point: Point) -> int:
        return self.ys.index(point[1]) * len(self.xs) + self.xs.index(point[0])

    def _point(self, place: int) -> Point:
        return self.xs[place % len(self.xs)], self.ys[place // len(self.xs)]

    @functools.cached_property
    def _graph(self) -> csr_array:
        from scipy.sparse import coo_array

        wide, high = len(self.xs), len(self.ys)
        place = np.arange(wide * high).reshape(high, wide)
        count = wide * high
        pairs = [
            (place[:, :-1].ravel(), place[:, 1:].ravel(), self.level.ravel()),
            (place[:-1].T.ravel() + count, place[1:].T.ravel() + count, self.upright.ravel()),
            (place.ravel(), place.ravel() + count, np.full(count, TURN)),
        ]
        a, b, cost = (np.concatenate(column) for column in zip(*pairs, strict=True))
        return coo_array(
            (np.concatenate([cost, cost]), (np.concatenate([a, b]), np.concatenate([b, a]))),
            shape=(2 * count, 2 * count),
        ).tocsr()


def _meets(a: Point, b: Point, rectangle: tuple[float, float, float, float]) -> bool:
    """Whether a level or upright stretch, its smaller end first, touches a rectangle."""
    left, top, right, bottom = rectangle
    return a[0] <= right and left <= b[0] and a[1] <= bottom and top <= b[1]


def _corners(points: Sequence[Point]) -> list[Point]:
    """The points at which a path turns, with its ends."""
    found: list[Point] = []
    for point in points:
        if found and point == found[-1]:
            continue
        if len(found) > 1 and (
            found[-2][0] == found[-1][0] == point[0] or found[-2][1] == found[-1][1] == point[1]
        ):
            found.pop()
        found.append(point)
    return found
