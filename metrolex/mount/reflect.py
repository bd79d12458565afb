"""What a face mirrors into the eye, and whether a face that glows stands in the windscreen at night (law of the mirror; what stands where is common practice, no source)."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from metrolex.job import Mounting, Site
from metrolex.mount.eyes import heads
from metrolex.mount.space import Axes, axes_of, face_normal
from metrolex.mount.sun import highest_deg, hours_near

__all__ = ["USUAL_LATITUDE", "Mirrored", "Pictured", "clear_turn", "mirrored", "mirrored_of", "pictured_of"]

Array = NDArray[np.float64]
Behind = Literal["driver", "roof", "floor", "side window", "rear window", "windscreen", "sky"]
#: What stands there, as one says it.
BEHIND: dict[Behind, str] = {
    "driver": "himself",
    "roof": "the roof lining",
    "floor": "seat and floor",
    "side window": "a side window",
    "rear window": "the rear window",
    "windscreen": "the windscreen",
    "sky": "the open sky",
}
SHOULDERS_MM, CROWN_MM = 260.0, 130.0  # half the driver's width; his crown above his eyes
WINDOW_TOP_DEG, SIDE_FROM_DEG = (
    22.0,
    50.0,
)  # above it there is roof; further round than that it is a side window
USUAL_LATITUDE = 50.0
SUN_WITHIN_DEG = 5.0
AIM_FINE_DEG, AIM_MOST_DEG = 6, 20  # degree by degree up to here, every other one up to there


@dataclass(frozen=True, slots=True)
class Mirrored:
    """What the eye sees in a face: in which direction, how high above level and how far round from straight ahead (to the right), what stands there.

    ``sun_hours`` a year the sun stands that high, whichever way the vehicle heads; 0 where it cannot shine in from there.
    """

    height_deg: float
    round_deg: float
    behind: Behind
    sun_hours: float

    @property
    def bright(self) -> bool:
        """Whether the sun can stand in it."""
        return self.sun_hours > 0

    @property
    def headlamps(self) -> bool:
        """Whether the headlamps of who drives behind can stand in it."""
        return (
            self.behind in ("rear window", "sky")
            and 180 - abs(self.round_deg) < 25
            and -6 < self.height_deg < 10
        )

    @property
    def words(self) -> str:
        """In a sentence."""
        return f"In its face the driver sees {BEHIND[self.behind]}."


@dataclass(frozen=True, slots=True)
class Pictured:
    """The picture of a glowing face in the windscreen at night: how far below straight ahead (above: negative) and how far aside it stands.

    ``share`` of the face's light goes that way, by the cosine of the angle it leaves at.
    """

    below_deg: float
    aside_deg: float
    share: float


def mirrored(ray: Array, normal: Array) -> Array:
    """The direction a ray goes on in after a mirror of a normal; both of length 1."""
    found: Array = ray - 2 * (ray @ normal) * normal
    return found


def mirrored_of(site: Site, mounting: Mounting) -> Mirrored:
    """What the driver sees mirrored in the middle of a face, from the eye that was measured."""
    axes, head = axes_of(site), heads(site)[0]
    return _seen_in(site, axes, mounting, head)


def _seen_in(site: Site, axes: Axes, mounting: Mounting, head: Array) -> Mirrored:
    middle = np.array([mounting.x, mounting.y, mounting.stands_mm])
    ray = (middle - head) / np.linalg.norm(middle - head)
    found = axes.into_vehicle(mirrored(ray, face_normal(mounting)))
    height = math.degrees(math.asin(max(-1.0, min(1.0, float(found[1])))))
    round_ = math.degrees(math.atan2(float(found[0]), float(-found[2])))
    behind = _behind(site, axes.into_vehicle(middle), axes.into_vehicle(head), found, height, round_)
    latitude = USUAL_LATITUDE if site.glass.latitude_deg is None else site.glass.latitude_deg
    shines = behind in ("side window", "rear window", "windscreen", "sky") and 0 < height <= highest_deg(
        latitude
    )
    return Mirrored(height, round_, behind, hours_near(latitude, height, SUN_WITHIN_DEG) if shines else 0.0)


def _behind(site: Site, middle: Array, head: Array, way: Array, height: float, round_: float) -> Behind:
    if way[2] > 0:  # back towards the seat: where does it pass the driver?
        far = (head[2] - middle[2]) / way[2]
        past = middle + far * way
        if abs(past[0] - head[0]) < SHOULDERS_MM and past[1] < head[1] + CROWN_MM:
            return "driver"
    if height <= 0:
        return "floor"
    if site.glass.body == "open":
        return "sky"
    ahead = abs(round_) < 90 - SIDE_FROM_DEG / 2
    if ahead:
        rake = site.glass.screen_rake_deg
        return "windscreen" if rake is not None and height < 90 else "roof"
    if height > WINDOW_TOP_DEG:
        return "roof"
    return "rear window" if abs(round_) > 180 - SIDE_FROM_DEG else "side window"


def clear_turn(site: Site, mounting: Mounting) -> tuple[float, float] | None:
    """The least the face must be aimed up and to the right, in degrees, so that no sun stands in it; None where none up to 20 degrees does, or none is needed."""
    if not mirrored_of(site, mounting).bright:
        return None
    axes, head = axes_of(site), heads(site)[0]
    tries = sorted({*_grid(AIM_FINE_DEG, 1), *_grid(AIM_MOST_DEG, 2)}, key=lambda by: math.hypot(*by))
    for up, right in tries:
        aimed = replace(
            mounting,
            up_deg=max(-60.0, min(60.0, mounting.up_deg + up)),
            right_deg=max(-60.0, min(60.0, mounting.right_deg + right)),
        )
        if not _seen_in(site, axes, aimed, head).bright:
            return up, right
    return None


def _grid(most: int, step: int) -> list[tuple[float, float]]:
    """Turns up and to the right, in whole degrees."""
    steps = range(-most, most + 1, step)
    return [(float(up), float(right)) for up in steps for right in steps]


def pictured_of(site: Site, mounting: Mounting) -> Pictured | None:
    """Where the windscreen shows the driver a glowing face; None where there is no windscreen, a hood stands between, or no light of it gets there."""
    glass = site.glass
    if glass.hood or glass.screen_rake_deg is None or glass.screen_ahead_mm is None:
        return None
    axes, head = axes_of(site), axes_of(site).into_vehicle(heads(site)[0])
    middle = axes.into_vehicle(np.array([mounting.x, mounting.y, mounting.stands_mm]))
    rake = math.radians(glass.screen_rake_deg)
    # through the point so far ahead, leaning back over the panel; its normal looks back into the vehicle and down
    normal = np.array([0.0, -math.cos(rake), math.sin(rake)])
    at = np.array([0.0, 0.0, -glass.screen_ahead_mm])
    before = float((middle - at) @ normal)
    if before <= 0 or float((head - at) @ normal) <= 0:
        return None
    image = middle - 2 * before * normal
    line = image - head
    spot = head + line * float((at - head) @ normal) / float(line @ normal)
    leaves = (spot - middle) / np.linalg.norm(spot - middle)
    share = float(leaves @ axes.into_vehicle(face_normal(mounting)))
    if share <= 0.02:
        return None  # the face looks away from the screen: none of its light goes there
    ray = line / np.linalg.norm(line)
    return Pictured(
        math.degrees(math.asin(float(-ray[1]))),
        math.degrees(math.atan2(float(ray[0]), float(-ray[2]))),
        share,
    )
