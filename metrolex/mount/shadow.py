"""What a wheel or a bar hides of a plane: its shadow with the eye as the lamp.

The rim is a row of balls along its middle line; each pair of neighbours hides the hull of both their outlines as the eye sees them (plane and
solid geometry; the polygons are Shapely's).
"""

from __future__ import annotations

import functools

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from metrolex.errors import BadInput
from metrolex.job import Site, Steering
from metrolex.mount.eyes import heads, pair_at
from metrolex.mount.space import axes_of, cast, from_tape

__all__ = ["Pieces", "Shadow", "hidden_of", "middle_lines", "shadow_from", "shadows_of"]

Array = NDArray[np.float64]
Pieces = NDArray[np.object_]
ROUND_RIM = 48  # balls along a rim
ROUND_BALL = 24  # points of a ball's outline
TURNS = 5  # positions of the wheel looked at, from one side to the other
BOSS_SHARE = 0.24  # of the wheel's diameter: the pad in its middle (common practice, no source)

_TURN = np.linspace(0.0, 2 * np.pi, ROUND_BALL, endpoint=False)
_TURN_COS, _TURN_SIN = np.cos(_TURN), np.sin(_TURN)
_WIDE = 1 / np.cos(np.pi / ROUND_BALL)  # the polygon stands round the circle, so that it never hides less

#: What is hidden from the left and from the right eye, in pieces that overlap.
Shadow = tuple[Pieces, Pieces]


def middle_lines(site: Site, turned_deg: float = 0.0) -> tuple[tuple[Array, float], ...]:
    """Middle lines of rim, spokes and boss, or of the bar, in the panel, each with its half thickness: arrays (n, 3)."""
    wheel = site.steering
    if not wheel.between:
        return ()
    hub = from_tape(wheel.hub_right_mm, wheel.hub_up_mm, wheel.hub_back_mm)
    axes = axes_of(site)
    if wheel.between == "bar":
        ends = hub + np.array([[-wheel.across_mm / 2, 0.0, 0.0], [wheel.across_mm / 2, 0.0, 0.0]])
        line = ends[0] + np.linspace(0.0, 1.0, 12)[:, None] * (ends[1] - ends[0])
        return ((axes.into_panel(line), wheel.thick_mm / 2),)
    return tuple((axes.into_panel(hub + line), half) for line, half in _wheel(wheel, turned_deg))


def _wheel(wheel: Steering, turned_deg: float) -> list[tuple[Array, float]]:
    """Rim, spokes and boss about the hub, in the vehicle."""
    rake = np.radians(wheel.rake_deg)
    across, upward = np.array([1.0, 0.0, 0.0]), np.array([0.0, np.cos(rake), -np.sin(rake)])
    radius = (wheel.across_mm - wheel.thick_mm) / 2
    round_ = np.linspace(0.0, 2 * np.pi, ROUND_RIM + 1)
    circle = np.cos(round_)[:, None] * across + np.sin(round_)[:, None] * upward
    found = [(radius * circle, wheel.thick_mm / 2)]
    if wheel.spokes_deg:
        for spoke in wheel.spokes_deg:
            angle = np.radians(spoke + turned_deg)
            end = radius * (np.cos(angle) * across + np.sin(angle) * upward)
            found.append((np.linspace(0.0, 1.0, 6)[:, None] * end, wheel.spoke_mm / 2))
        boss = wheel.across_mm * BOSS_SHARE / 2
        found.append((0.5 * boss * circle[::4], boss / 2))
    return found


def hidden_of(face: BaseGeometry, pieces: Pieces) -> BaseGeometry:
    """The part of a face that lies in a shadow."""
    near = pieces[shapely.intersects(pieces, face)] if len(pieces) else pieces
    return face.intersection(shapely.union_all(near)) if len(near) else shapely.Polygon()


def shadow_from(eye: Array, lines: tuple[tuple[Array, float], ...], height_mm: float = 0.0) -> Pieces:
    """What the lines with their thickness hide of the plane at a height from an eye, in pieces; nothing of what lies behind the plane or the eye.

    Raises BadInput where the eye is inside of one.
    """
    if not lines:
        return np.array([], dtype=np.object_)
    points = np.concatenate([line for line, _ in lines])
    half = np.concatenate([np.full(len(line), half) for line, half in lines])
    if (_length(points - eye) <= half * 1.02).any():
        raise BadInput("eye_back_mm", float(eye[2]), "an eye clear of the wheel", "The eye is in the wheel.")
    between = (points[:, 2] - half > height_mm) & (points[:, 2] + half < eye[2] - 1.0)
    outlines = _outlines(eye, points[between], half[between], height_mm)
    # a pair hides something where both are between eye and plane, and neighbours on one line
    line_of = np.repeat(np.arange(len(lines)), [len(line) for line, _ in lines])[between]
    place = np.flatnonzero(between)
    pairs = (np.diff(place) == 1) & (np.diff(line_of) == 0)
    both = np.concatenate([outlines[:-1][pairs], outlines[1:][pairs]], axis=1)
    hulls: Pieces = np.asarray(shapely.convex_hull(shapely.linestrings(both)), dtype=np.object_)
    return hulls


def _outlines(eye: Array, points: Array, half: Array, height_mm: float) -> Array:
    """The outline of a ball about each point, as it is seen from the eye, cast onto the plane: (n, outline, 2)."""
    seen = points - eye
    far = _length(seen)
    ray = seen / far[:, None]
    aside = np.cross(ray, np.where(np.abs(ray[:, [2]]) < 0.9, [[0.0, 0.0, 1.0]], [[1.0, 0.0, 0.0]]))
    aside /= _length(aside)[:, None]
    up = np.cross(aside, ray)
    # the sight lines that touch a ball touch it on a circle a little nearer than its middle
    touch = half**2 / far
    radius = half * np.sqrt(np.maximum(1 - (half / far) ** 2, 0.0)) * _WIDE
    rim = _TURN_COS[None, :, None] * aside[:, None, :] + _TURN_SIN[None, :, None] * up[:, None, :]
    return cast(eye, (points - touch[:, None] * ray)[:, None, :] + radius[:, None, None] * rim, height_mm)


def _length(vectors: Array) -> Array:
    return np.asarray(np.sqrt(np.sum(vectors**2, axis=1)))


@functools.lru_cache(maxsize=24)
def shadows_of(site: Site, height_mm: float = 0.0) -> tuple[tuple[Shadow, ...], ...]:
    """The shadows on a site's plane at a height: for each head of ``eyes.heads`` those of the wheel through its range, straight ahead first.

    Raises BadInput where an eye that is looked from is inside the wheel or not before the panel.
    """
    wheel = site.steering
    moves = wheel.between == "wheel" and wheel.spokes_deg and wheel.turned_deg > 0
    turns = (0.0, *np.linspace(-wheel.turned_deg, wheel.turned_deg, TURNS)) if moves else (0.0,)
    lines = [middle_lines(site, float(turn)) for turn in turns]
    found = []
    for i, head in enumerate(heads(site)):
        pair = pair_at(site, head)
        # whoever drives drives straight ahead; the one measured is looked at through the whole range
        seen = lines if i == 0 else lines[:1]
        found.append(
            tuple(
                (shadow_from(pair[0], line, height_mm), shadow_from(pair[1], line, height_mm))
                for line in seen
            )
        )
    return tuple(found)
