"""What an infrared sensor sees of a tyre: the circle its cone cuts (plane geometry)."""

from __future__ import annotations

import math

from metrolex.errors import BadInput

__all__ = ["CONE_DEG", "distance_for_spot_mm", "spot_mm"]

CONE_DEG = 35.0  # of a common infrared tyre sensor (common practice, no source)


def spot_mm(distance_mm: float, cone_deg: float) -> float:
    """Diameter seen at a distance: 2 d tan(angle / 2). Raises BadInput for a cone that is none.

    >>> round(spot_mm(100, 35), 1)
    63.1
    """
    if not 0 < cone_deg < 180:
        raise BadInput("cone_deg", cone_deg, "an angle above 0 and below 180 degrees")
    return 2 * distance_mm * math.tan(math.radians(cone_deg) / 2)


def distance_for_spot_mm(diameter_mm: float, cone_deg: float) -> float:
    """The distance at which the cone covers a diameter."""
    return diameter_mm / spot_mm(1.0, cone_deg)
