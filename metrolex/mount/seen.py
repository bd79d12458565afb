"""How a display is seen from the seat: what the wheel hides of it, how large its figures are, at which angle, how far from the road, what it covers.

Areas are those both eyes miss: what one eye sees is seen. Plane geometry; limits in ``data/sight.toml``.
"""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from metrolex.job import Display, Fixture, Job, Mounting, Site
from metrolex.mount.body import covered_by, face_as_seen, fixture_outline, laid_flat
from metrolex.mount.eyes import Pair, heads, pair_at
from metrolex.mount.shadow import Shadow, hidden_of, shadows_of
from metrolex.mount.sight import GOOD, Grade, arcmin_of, character_for, grade_of
from metrolex.mount.space import AHEAD, axes_of, face_normal
from metrolex.tables import load_table

__all__ = ["Covered", "Seen", "View", "fixtures_at", "seen_of", "share_words", "view_of"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class View:
    """The sight line to a display: its length, its angle to straight out of the face, how far the eyes leave the road, of that how far down and aside.

    ``parallax_mm`` is how far a needle seems moved on its dial by the angle.
    """

    distance_mm: float
    angle_deg: float
    glance_deg: float
    down_deg: float
    aside_deg: float
    parallax_mm: float


@dataclass(frozen=True, slots=True)
class Covered:
    """What a display hides of a part of the dash: from the eye measured, at the worst from where anyone sits; whether it lies on or beside it."""

    fixture: Fixture
    share: float
    worst: float
    touches: bool

    @property
    def words(self) -> str:
        """In a sentence: 'Hides half of the fuel gauge, 52 %.'"""
        return f"Hides {share_words(self.share, self.fixture.name)}, {self.share:.0%}."


@dataclass(frozen=True, slots=True)
class Seen:
    """How a display is seen. Shares of its face, 0 to 1: ``hidden`` straight ahead, ``hidden_turned`` at the worst of the wheel's range,
    ``hidden_anyone`` at the worst from where anyone sits, ``one_eye`` what the better eye misses.

    ``figure_mm`` is the height of its largest figures, ``arcmin`` and ``grade`` of them; None where nobody said. ``needed_mm`` would be good.
    """

    view: View
    hidden: float
    hidden_turned: float
    hidden_anyone: float
    one_eye: float
    figure_mm: float | None
    arcmin: float | None
    grade: Grade | None
    needed_mm: float
    covers: tuple[Covered, ...]


def share_words(share: float, name: str) -> str:
    """A share of a thing in words.

    >>> share_words(0.5, "fuel gauge")
    'half of the fuel gauge'
    """
    row = next(row for row in load_table("sight")["words"] if share <= row["up_to"])
    called = (
        name
        if name[:4].lower() == "the "
        else f"the {name[0].lower() + name[1:] if name[1:2].islower() else name}"
    )
    return str(row["words"]).format(it=called)


def view_of(site: Site, mounting: Mounting, head: Array) -> View:
    """The sight line from a point between the eyes, in the panel, to the middle of a face."""
    line = np.array([mounting.x, mounting.y, mounting.stands_mm]) - head
    distance = float(np.linalg.norm(line))
    ray = line / distance
    angle = _degrees(float(-ray @ face_normal(mounting)))
    seen = axes_of(site).into_vehicle(ray)
    needle = float(load_table("sight")["needle_mm"])
    return View(
        distance,
        angle,
        _degrees(float(seen @ AHEAD)),
        math.degrees(math.atan2(-seen[1], math.hypot(seen[0], seen[2]))),
        math.degrees(math.atan2(seen[0], -seen[2])),
        needle * math.tan(math.radians(min(angle, 89.0))),
    )


def seen_of(job: Job, mounting: Mounting) -> Seen | None:
    """How one display is seen; None where its site or it itself is not in the job. Raises BadInput where it cannot be seen at all."""
    site, display = job.site(mounting.site), job.display(mounting.display)
    if site is None or display is None:
        return None
    return _seen(site, display, mounting, fixtures_at(job, site))


def fixtures_at(job: Job, site: Site) -> tuple[Fixture, ...]:
    """What is in a panel while the job is done: without what the old cluster told, where that comes out."""
    return tuple(
        one
        for one in job.fixtures
        if one.site == site.id and not (job.brief.cluster_removed and one.function)
    )


@functools.lru_cache(maxsize=512)
def _seen(site: Site, display: Display, mounting: Mounting, fixtures: tuple[Fixture, ...]) -> Seen:
    points = heads(site)
    shadows = shadows_of(site, mounting.stands_mm)
    pairs = [pair_at(site, point) for point in points]
    straight, *turned = [_hidden(display, mounting, pairs[0], shadow) for shadow in shadows[0]]
    elsewhere = [
        _hidden(display, mounting, pair, of_it[0])[0]
        for pair, of_it in zip(pairs[1:], shadows[1:], strict=True)
    ]
    view = view_of(site, mounting, points[0])
    height = display.screen.figure_mm
    arcmin = None if height is None else arcmin_of(height, view.distance_mm)
    return Seen(
        view,
        straight[0],
        max(straight[0], *(both for both, _ in turned)) if turned else straight[0],
        max((straight[0], *elsewhere)),
        straight[1],
        height,
        arcmin,
        None if arcmin is None else grade_of(arcmin),
        character_for(GOOD, view.distance_mm),
        tuple(_covers(display, mounting, pairs, fixtures)),
    )


def _hidden(display: Display, mounting: Mounting, pair: Pair, shadow: Shadow) -> tuple[float, float]:
    """Shares of the face that both eyes miss, and that the better eye misses."""
    missed, alone = [], []
    for eye, cast in zip(pair, shadow, strict=True):
        face = face_as_seen(display, mounting, eye)
        part = hidden_of(face, cast)
        alone.append(part.area / face.area)
        missed.append(_back_on_face(part, face))
    if min(alone) == 0.0:
        return 0.0, 0.0
    return float(missed[0].intersection(missed[1]).area), float(min(alone))


def _back_on_face(part: BaseGeometry, face: BaseGeometry) -> BaseGeometry:
    """A part of the face as one eye sees it, on a face of area 1 about the origin: so both eyes' parts lie on one another."""
    middle, scale = face.centroid, 1 / math.sqrt(face.area)
    return shapely.transform(part, lambda points: (points - [middle.x, middle.y]) * scale)


def _covers(
    display: Display, mounting: Mounting, pairs: list[Pair], fixtures: tuple[Fixture, ...]
) -> list[Covered]:
    if not fixtures:
        return []
    hides = [tuple(covered_by(display, mounting, eye) for eye in pair) for pair in pairs]
    flat, clear = laid_flat(display, mounting), load_table("sight")["clear_mm"]
    found = []
    for fixture in fixtures:
        outline = fixture_outline(fixture)
        shares = [outline.intersection(a).intersection(b).area / outline.area for a, b in hides]
        touches = bool(flat.distance(outline) < clear.get(fixture.rank, 0.0)) or flat.intersects(outline)
        found.append(Covered(fixture, float(shares[0]), float(max(shares)), touches))
    return found


def _degrees(cosine: float) -> float:
    return math.degrees(math.acos(min(1.0, max(-1.0, cosine))))
