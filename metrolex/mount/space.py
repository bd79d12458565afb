"""The space before a panel: from tape measures to the panel's own plane, and straight lines from the eye onto it.

In the vehicle x goes to the right, y up, z back towards the driver; in the panel x to the right and y up in its plane, z out of it. Both
begin at the point the fitter measures from. All lengths in mm, arrays end in an axis of 3.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from metrolex.errors import BadInput
from metrolex.job import Eye, Mounting, Site

__all__ = ["AHEAD", "Axes", "axes_of", "cast", "eye_point", "face_normal", "from_tape"]

Array = NDArray[np.float64]
#: Straight ahead on the road, in the vehicle.
AHEAD: Array = np.array([0.0, 0.0, -1.0])
_HARDLY = 1.0  # mm before the panel: an eye nearer than that looks at nothing


@dataclass(frozen=True, slots=True)
class Axes:
    """The panel's axes in the vehicle: its right, its up, its outward direction, as rows of a rotation."""

    rows: Array

    def into_panel(self, vehicle: ArrayLike) -> Array:
        """Points or directions of the vehicle, as they are in the panel."""
        return np.asarray(vehicle, dtype=np.float64) @ self.rows.T

    def into_vehicle(self, panel: ArrayLike) -> Array:
        """Points or directions of the panel, as they are in the vehicle."""
        return np.asarray(panel, dtype=np.float64) @ self.rows


def axes_of(site: Site) -> Axes:
    """The axes of a panel by its tilt and turn.

    >>> from metrolex.job import Site
    >>> flat = Site("a", "A", "dash", ((0, 0), (1, 0), (0, 1)), tilt_deg=90.0)
    >>> [round(float(v), 6) for v in axes_of(flat).rows[2]]
    [0.0, 1.0, 0.0]
    """
    tilt, turn = np.radians(site.tilt_deg), np.radians(site.turned_right_deg)
    leaned = np.array(
        [[1.0, 0.0, 0.0], [0.0, np.cos(tilt), -np.sin(tilt)], [0.0, np.sin(tilt), np.cos(tilt)]]
    )
    about_up = np.array(
        [[np.cos(turn), 0.0, np.sin(turn)], [0.0, 1.0, 0.0], [-np.sin(turn), 0.0, np.cos(turn)]]
    )
    return Axes(leaned @ about_up.T)


def from_tape(right_mm: float, up_mm: float, back_mm: float) -> Array:
    """A point as the tape gives it, in the vehicle."""
    return np.array([right_mm, up_mm, back_mm])


def eye_point(site: Site, eye: Eye | None = None) -> Array:
    """The point between both eyes, in the panel. Raises BadInput where it is not before the panel."""
    eye = eye or site.eye
    found = axes_of(site).into_panel(from_tape(eye.eye_right_mm, eye.eye_up_mm, eye.eye_back_mm))
    if found[2] <= _HARDLY:
        raise BadInput(
            "eye_back_mm",
            eye.eye_back_mm,
            "an eye before the panel",
            f"From there {site.name} is seen from its edge or from behind: look at the eye's figures and the panel's tilt.",
        )
    return found


def face_normal(mounting: Mounting) -> Array:
    """Where a display's face looks, in the panel: straight out, aimed up and to the right as it is mounted."""
    up, right = np.radians(mounting.up_deg), np.radians(mounting.right_deg)
    return np.array([np.sin(right) * np.cos(up), np.sin(up), np.cos(right) * np.cos(up)])


def cast(eye: Array, points: ArrayLike, height_mm: float = 0.0) -> Array:
    """Where the sight lines from an eye past points go through the plane at a height before the panel: arrays (..., 2).

    The points lie between eye and plane (``metrolex.mount.shadow`` cuts off what does not).
    """
    past = np.asarray(points, dtype=np.float64)
    along = (eye[2] - height_mm) / (eye[2] - past[..., 2])
    found: Array = eye[:2] + (past[..., :2] - eye[:2]) * along[..., None]
    return found
