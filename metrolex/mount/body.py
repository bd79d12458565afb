"""A display in its place, as polygons: its face, its bezel, all of it that stands before the panel."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from metrolex.errors import BadInput
from metrolex.job import Display, Fixture, Mounting, Site
from metrolex.mount.space import cast, face_normal
from metrolex.tables import load_table

__all__ = [
    "USUAL_BEZEL",
    "bezel_outline",
    "bezel_size",
    "covered_by",
    "face_as_seen",
    "fixture_outline",
    "laid_flat",
    "screen_size",
    "site_outline",
]

Array = NDArray[np.float64]
ROUND = 48
#: What a display nobody has measured is drawn as, mm.
USUAL_BEZEL = (60.0, 60.0)


def bezel_size(display: Display) -> tuple[float, float]:
    """Width and height of what the driver sees of it; a usual gauge's where nobody has measured."""
    return display.housing.bezel or display.housing.body or USUAL_BEZEL


def screen_size(display: Display) -> tuple[float, float]:
    """Width and height of what is read; by the bezel where the screen was not measured."""
    screen = display.screen
    if screen.screen_mm is not None:
        round_ = display.housing.shape == "round"
        return (
            screen.screen_mm,
            screen.screen_mm if round_ or screen.screen_high_mm is None else screen.screen_high_mm,
        )
    share = float(load_table("sight")["screen_of_bezel"])
    wide, high = bezel_size(display)
    return share * wide, share * high


def bezel_outline(display: Display, mounting: Mounting) -> Array:
    """The bezel's edge in the panel's space, turned and aimed as it is mounted: (n, 3)."""
    return _edge_placed(*bezel_size(display), display.housing.shape != "square", mounting)


def face_as_seen(display: Display, mounting: Mounting, eye: Array) -> BaseGeometry:
    """What is read of it, as the eye sees it on the plane its middle lies in. Raises BadInput where the eye is beside or behind it."""
    edge = _edge_placed(*screen_size(display), display.housing.shape != "square", mounting)
    if (edge[:, 2] >= eye[2] - 1.0).any() or (
        eye - [mounting.x, mounting.y, mounting.stands_mm]
    ) @ face_normal(mounting) <= 0:
        raise BadInput(
            "right_deg",
            mounting.right_deg,
            "a face turned to the eye",
            "From the seat the face is not seen: it looks away.",
        )
    return shapely.Polygon(cast(eye, edge, mounting.stands_mm))


def covered_by(display: Display, mounting: Mounting, eye: Array) -> BaseGeometry:
    """What the display, with all that stands before the panel, hides of the panel from an eye."""
    bezel = bezel_outline(display, mounting)
    foot = bezel * [1.0, 1.0, 0.0]
    points = np.vstack([bezel[bezel[:, 2] < eye[2] - 1.0], foot])
    return shapely.MultiPoint(cast(eye, points)).convex_hull


def laid_flat(display: Display, mounting: Mounting) -> BaseGeometry:
    """The bezel as it lies on the panel, seen straight on."""
    return _bezel_flat(*bezel_size(display), display.housing.shape != "square", mounting)


def fixture_outline(fixture: Fixture) -> BaseGeometry:
    """A part of the dash in the panel's plane."""
    return shapely.Polygon(
        _edge(fixture.wide_mm, fixture.high_mm, fixture.disc)[:, :2] + [fixture.x, fixture.y]
    )


def site_outline(site: Site) -> BaseGeometry:
    """The panel's outline."""
    return shapely.Polygon(site.outline)


def _edge(wide: float, high: float, disc: bool) -> Array:
    if not disc:
        w, h = wide / 2, high / 2
        return np.array([[-w, -h, 0.0], [w, -h, 0.0], [w, h, 0.0], [-w, h, 0.0]])
    turn = np.linspace(0.0, 2 * np.pi, ROUND, endpoint=False)
    # a polygon of the circle's own area, so that shares of it are right
    grown = math.sqrt(2 * math.pi / ROUND / math.sin(2 * math.pi / ROUND))
    return np.column_stack(
        [grown * wide / 2 * np.cos(turn), grown * high / 2 * np.sin(turn), np.zeros(ROUND)]
    )


# Where a bezel and a face are, is asked for by every pair, drawing and finding of a site.
@lru_cache(maxsize=1024)
def _edge_placed(wide: float, high: float, disc: bool, mounting: Mounting) -> Array:
    placed = _placed(_edge(wide, high, disc), mounting)
    placed.flags.writeable = False
    return placed


@lru_cache(maxsize=1024)
def _bezel_flat(wide: float, high: float, disc: bool, mounting: Mounting) -> BaseGeometry:
    return shapely.Polygon(_edge_placed(wide, high, disc, mounting)[:, :2])


def _placed(edge: Array, mounting: Mounting) -> Array:
    """An edge about its own middle, put where the display stands: turned clockwise in its plane, then aimed."""
    turn = np.radians(-mounting.turn_deg)
    turned = edge @ np.array(
        [[np.cos(turn), np.sin(turn), 0.0], [-np.sin(turn), np.cos(turn), 0.0], [0.0, 0.0, 1.0]]
    )
    out = face_normal(mounting)
    right = np.cross([0.0, 1.0, 0.0], out)
    right /= np.linalg.norm(right)
    up = np.cross(out, right)
    found: Array = turned @ np.vstack([right, up, out]) + [mounting.x, mounting.y, mounting.stands_mm]
    return found
