"""Wires packed as circles into the smallest round bundle, and whether bundle and connectors go through a hole.

Circles are moved until none overlaps within a ring that is widened step by step: a small energy of overlaps is minimised by
scipy from a few fixed starts, then the arrangement is spread until no two circles overlap by anything. The bundle is a good
packing, not a proved optimum; it is checked against the best known packings of equal circles in tests/references.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.errors import BadInput
from metrolex.findings import Finding

__all__ = [
    "MOST_WIRES",
    "ROOM",
    "Circle",
    "Connector",
    "Passage",
    "Wires",
    "pack_circles",
    "pass_through",
    "passes_surely",
]

MOST_WIRES = 400
ROOM = 1.1  # a bundle wants a hole a tenth wider than itself (common practice, no source)
_WIDEN = 1.025
_SURE_DENSITY = 0.5
_FIRST_RING = 1.04  # of the ring that the densest plane packing would need: never reached by few circles
_HEX_DENSITY = math.pi / (2 * math.sqrt(3))
_Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Circle:
    """A wire in the bundle: centre about the bundle's, and radius, in millimetres."""

    x: float
    y: float
    r: float


@dataclass(frozen=True, slots=True)
class Wires:
    """Wires of one outside diameter."""

    od_mm: float
    count: int


@dataclass(frozen=True, slots=True)
class Connector:
    """A connector that must pass, by its width and height."""

    w_mm: float
    h_mm: float

    @property
    def diagonal_mm(self) -> float:
        return math.hypot(self.w_mm, self.h_mm)


@dataclass(frozen=True, slots=True)
class Passage:
    """A bundle against a hole. ``passes`` is None without a hole to hold it against."""

    circles: tuple[Circle, ...]
    bundle_mm: float
    hole_needed_mm: float
    passes: bool | None
    findings: tuple[Finding, ...]


def pack_circles(diameters_mm: Sequence[float], seed: int = 0) -> tuple[Circle, ...]:
    """Circles of these diameters close together about (0, 0), in the order given, none overlapping.

    Raises BadInput (``wires``) for no circle, a diameter of 0 or more than MOST_WIRES.
    """
    if not diameters_mm:
        raise BadInput("wires", [], "at least one wire")
    if len(diameters_mm) > MOST_WIRES:
        raise BadInput("wires", len(diameters_mm), f"up to {MOST_WIRES} wires")
    if min(diameters_mm) <= 0:
        raise BadInput("wires", float(min(diameters_mm)), "an outside diameter above 0 mm")
    return _pack(tuple(diameters_mm), seed)


@functools.lru_cache(maxsize=256)  # pure, and the same bundle is asked for at every look at a job
def _pack(diameters_mm: tuple[float, ...], seed: int) -> tuple[Circle, ...]:
    radii = np.array(diameters_mm, dtype=np.float64) / 2
    if radii.size == 1:
        return (Circle(0.0, 0.0, float(radii[0])),)
    starts = 3 if radii.size <= 12 else (2 if radii.size <= 30 else 1)
    found = [_settle(start, radii) for start in _starts(radii, starts, seed)]
    best = min(found, key=lambda points: _ring(points, radii))
    return tuple(Circle(float(x), float(y), float(r)) for (x, y), r in zip(best, radii, strict=True))


def bundle_diameter_mm(circles: Sequence[Circle]) -> float:
    """The diameter of the ring round circles, about (0, 0)."""
    return 2 * max(math.hypot(c.x, c.y) + c.r for c in circles)


def _starts(radii: _Floats, count: int, seed: int) -> list[_Floats]:
    """A spiral with the thick wires inside, then random clouds of the same size."""
    order = np.argsort(-radii)
    rank = np.empty_like(order)
    rank[order] = np.arange(radii.size)
    reach = math.sqrt(float((radii**2).sum()) / _HEX_DENSITY)
    golden = math.pi * (3 - math.sqrt(5))
    distance = reach * np.sqrt((rank + 0.5) / radii.size)
    spiral = np.column_stack([distance * np.cos(golden * rank), distance * np.sin(golden * rank)])
    draw = np.random.default_rng(seed)
    return [spiral, *(draw.uniform(-reach, reach, (radii.size, 2)) * 0.7 for _ in range(count - 1))]


def _settle(points: _Floats, radii: _Floats) -> _Floats:
    """Push circles apart inside a ring that widens until they fit, then spread what still touches too much."""
    from scipy.optimize import minimize  # heavy to load, and seldom needed

    thickest = np.sort(radii)[-2:]
    ring = max(_FIRST_RING * math.sqrt(float((radii**2).sum()) / _HEX_DENSITY), float(thickest.sum()))
    allowed = 4e-3 * float(radii.min())
    for _ in range(60):
        result = minimize(
            _energy, points.ravel(), args=(radii, ring), jac=True, method="L-BFGS-B", options={"maxiter": 70}
        )
        points = result.x.reshape(-1, 2)
        if math.sqrt(float(result.fun)) < allowed * math.sqrt(radii.size):
            break
        ring *= _WIDEN
    return _spread(points, radii)


def _energy(flat: _Floats, radii: _Floats, ring: float) -> tuple[float, _Floats]:
    points = flat.reshape(-1, 2)
    apart = points[:, None, :] - points[None, :, :]
    distance = np.sqrt((apart**2).sum(axis=2) + 1e-18)
    overlap = np.maximum(0.0, radii[:, None] + radii[None, :] - distance)
    np.fill_diagonal(overlap, 0.0)
    push = (overlap / distance)[:, :, None] * apart
    out = np.sqrt((points**2).sum(axis=1) + 1e-18)
    beyond = np.maximum(0.0, out + radii - ring)
    value = 0.5 * float((overlap**2).sum()) + float((beyond**2).sum())
    gradient = -2 * push.sum(axis=1) + (2 * beyond / out)[:, None] * points
    return value, gradient.ravel()


def _spread(points: _Floats, radii: _Floats) -> _Floats:
    """The points moved outward from their middle until no two circles overlap."""
    apart = points[:, None, :] - points[None, :, :]
    distance = np.sqrt((apart**2).sum(axis=2))
    wanted = radii[:, None] + radii[None, :]
    off = ~np.eye(radii.size, dtype=bool)
    scale = max(1.0, float((wanted[off] / np.maximum(distance[off], 1e-12)).max()))
    points = points * scale * (1 + 1e-12)
    return points - _middle(points, radii)


def _middle(points: _Floats, radii: _Floats) -> _Floats:
    """The centre of the smallest ring round the circles, near enough (Badoiu and Clarkson's walk)."""
    centre = points.mean(axis=0)
    for step in range(1, 200):
        reach = np.sqrt(((points - centre) ** 2).sum(axis=1)) + radii
        far = int(reach.argmax())
        centre = centre + (points[far] - centre) / (step + 1)
    return centre if _reach(points - centre, radii) < _reach(points, radii) else np.zeros(2)


def _reach(points: _Floats, radii: _Floats) -> float:
    return float((np.sqrt((points**2).sum(axis=1)) + radii).max())


def _ring(points: _Floats, radii: _Floats) -> float:
    return 2 * _reach(points, radii)


def pass_through(
    wires: Sequence[Wires], connectors: Sequence[Connector] = (), hole_mm: float | None = None
) -> Passage:
    """Whether a bundle and its connectors go through a round hole.

    ``hole_needed_mm`` is the larger of the bundle with a tenth of room and the largest connector's diagonal. What does not
    pass is a stop with the ways out. Connectors alone may pass before any wire. Raises BadInput as ``pack_circles`` does.
    """
    diameters = [w.od_mm for w in wires for _ in range(w.count)]
    circles = pack_circles(diameters) if diameters or not connectors else ()
    bundle = bundle_diameter_mm(circles) if circles else 0.0
    widest = max((c.diagonal_mm for c in connectors), default=0.0)
    needed = max(ROOM * bundle, widest)
    passes = None if hole_mm is None else hole_mm >= needed
    return Passage(
        circles, bundle, needed, passes, tuple(_findings(bundle, widest, hole_mm)) if passes is False else ()
    )


def passes_surely(diameters_mm: Sequence[float], connectors: Sequence[Connector], hole_mm: float) -> bool:
    """Whether a bundle and its connectors pass a round hole however badly they lie: True needs no packing, False tells nothing.

    Circles always go into a ring of twice their area (Fekete, Keldenich and Scheffer, 'Packing disks into disks with optimal
    worst-case density', 2019; from memory).
    """
    ring = math.sqrt(sum(d**2 for d in diameters_mm) / _SURE_DENSITY)
    return hole_mm >= max(ROOM * ring, *(c.diagonal_mm for c in connectors), 0.0)


def _findings(bundle: float, widest: float, hole_mm: float | None) -> list[Finding]:
    hole = hole_mm or 0.0
    found = []
    if ROOM * bundle > hole:
        found.append(
            Finding(
                "stop",
                "bundle_too_thick",
                "opening",
                "The wires do not go through the hole without force.",
                f"{bundle:.1f} mm bundle, {hole:g} mm hole",
                "Another opening beside it, or a new hole with a grommet.",
                "harness",
            )
        )
    if widest > hole >= ROOM * bundle:
        found.append(
            Finding(
                "stop",
                "connector_too_wide",
                "opening",
                "The wires pass, their connector does not.",
                f"{widest:.1f} mm corner to corner, {hole:g} mm hole",
                "Photograph the plug, take its terminals out and pass them one by one; or slit the grommet; or a hole for the plug.",
                "harness",
            )
        )
    elif widest > hole:
        found.append(
            Finding(
                "note",
                "connector_too_wide",
                "opening",
                "The connector does not pass either.",
                f"{widest:.1f} mm corner to corner",
                "Take its terminals out.",
                "harness",
            )
        )
    return found
