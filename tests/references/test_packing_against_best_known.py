"""Packing of wires against the best known packings of equal circles in a circle.

Ratios of ring to circle radius for n = 1 to 19, from memory of the published tables (Graham, Lubachevsky and others 1998 for the
larger ones; 1 to 7, 11 to 13 and 19 are proved optimal).
"""

from __future__ import annotations

import itertools
import math

import pytest

from metrolex.harness.bundle import bundle_diameter_mm, pack_circles

BEST = [
    1.0,
    2.0,
    2.154,
    2.414,
    2.701,
    3.0,
    3.0,
    3.304,
    3.613,
    3.813,
    3.923,
    4.029,
    4.236,
    4.328,
    4.521,
    4.615,
    4.792,
    4.863,
    4.863,
]


def overlaps(circles) -> bool:
    return any(
        math.hypot(a.x - b.x, a.y - b.y) < a.r + b.r - 1e-9 for a, b in itertools.combinations(circles, 2)
    )


@pytest.mark.parametrize(("count", "best"), list(enumerate(BEST, 1)))
def test_equal_wires_come_within_a_tenth_of_the_best_known(count, best):
    circles = pack_circles([2.0] * count)
    assert not overlaps(circles)
    ratio = bundle_diameter_mm(circles) / 2
    assert best - 2e-3 <= ratio <= 1.10 * best


# Worked by hand: two circles side by side; three in a row fit the ring of the two largest when the third is small.
def test_mixed_wires_worked_by_hand():
    assert bundle_diameter_mm(pack_circles([3.0, 2.0])) == pytest.approx(5.0, rel=2e-3)
    assert bundle_diameter_mm(pack_circles([4.0, 4.0, 0.5])) == pytest.approx(8.0, rel=5e-3)
    # Descartes: between two circles of radius 1 in a ring of radius 2 fits one of radius 2/3.
    assert bundle_diameter_mm(pack_circles([2.0, 2.0, 4 / 3])) == pytest.approx(4.0, rel=1e-2)
