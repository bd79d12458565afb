"""Where the driver's eyes may be: both of them, and for whoever drives the ellipse they lie in.

The distance between the pupils is 65 mm (common practice). Half axes of the ellipse that holds 95 of 100 drivers' eyes, seats that slide:
103 mm along, 30 mm across, 47 mm up (SAE J941, from memory: check before it is quoted).
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from metrolex.job import Site
from metrolex.mount.space import axes_of, eye_point

__all__ = ["APART_MM", "ELLIPSE_MM", "Pair", "heads", "pair_at"]

Array = NDArray[np.float64]
Pair = tuple[Array, Array]
APART_MM = 65.0
#: Half axes: across, up, along the vehicle.
ELLIPSE_MM = (30.0, 47.0, 103.0)


def pair_at(site: Site, between: Array) -> Pair:
    """Left and right eye about a point of the panel's space: beside one another across the vehicle."""
    aside = axes_of(site).into_panel(np.array([APART_MM / 2, 0.0, 0.0]))
    return between - aside, between + aside


def heads(site: Site) -> tuple[Array, ...]:
    """Points between the eyes to look from, in the panel: the one that is measured first, then the ends of the ellipse where anyone may drive.

    Raises BadInput where the eye is not before the panel; an end of the ellipse that is not is left out.
    """
    middle = eye_point(site)
    if site.eye.driver == "one":
        return (middle,)
    return (middle, *_ends(site, middle))


def _ends(site: Site, middle: Array) -> Iterator[Array]:
    axes = axes_of(site)
    for i, half in enumerate(ELLIPSE_MM):
        for way in (1.0, -1.0):
            off = np.zeros(3)
            off[i] = way * half
            point = middle + axes.into_panel(off)
            if point[2] > 100.0:
                yield point
