"""Fit and sight: against hand geometry, and what is hidden against rays drawn one by one."""

from __future__ import annotations

import math
import random

import pytest

from metrolex.errors import BadInput
from metrolex.mount.fit import Hole, Moulded, PlugSize, fit_of
from metrolex.mount.sight import arcmin_of, character_for, grade_of, hidden_mm

GAUGE = Moulded(52.0, 45.0, 60.0, (1.0, 12.0), PlugSize(18.0, 12.0), 20.0)
HOLE = Hole(52.5, 80.0, 3.0)


def codes(display, hole):
    return {finding.code for finding in fit_of(display, hole).findings}


def test_a_gauge_in_its_hole_by_hand():
    found = fit_of(GAUGE, HOLE)
    assert found.fits
    assert (found.play_mm, found.packing_mm, found.depth_left_mm) == (0.5, 0.0, 15.0)
    assert found.plug_passes  # 21.6 mm across
    assert found.findings == ()


@pytest.mark.parametrize(
    ("hole", "code"),
    [
        (Hole(51.0, 80.0, 3.0), "hole_small"),
        (Hole(60.0, 80.0, 3.0), "bezel_small"),
        (Hole(52.5, 60.0, 3.0), "no_depth"),
        (Hole(52.5, 80.0, 0.8), "grip"),
        (Hole(52.5, 80.0, 14.0), "grip"),
    ],
)
def test_what_stops_it(hole, code):
    assert not fit_of(GAUGE, hole).fits
    assert code in codes(GAUGE, hole)


def test_what_is_only_told():
    loose = fit_of(GAUGE, Hole(55.0, 80.0, 3.0))
    assert loose.fits
    assert loose.packing_mm == 1.5
    assert codes(GAUGE, Hole(55.0, 80.0, 3.0)) == {"loose"}
    assert codes(GAUGE, Hole(59.0, 80.0, 3.0)) == {"loose", "bezel_narrow"}
    wide = Moulded(52.0, 45.0, 60.0, None, PlugSize(50.0, 30.0), 20.0)
    assert fit_of(wide, HOLE).plug_passes is False
    assert codes(wide, HOLE) == {"plug"}
    assert fit_of(Moulded(52.0, 45.0, 60.0), HOLE).plug_passes is None


def test_a_clamp_that_grips_nothing_is_refused():
    with pytest.raises(BadInput) as refused:
        Moulded(52.0, 45.0, 60.0, (12.0, 1.0))
    assert refused.value.field == "grip_mm"


@pytest.mark.parametrize("distance", [300.0, 700.0, 1500.0])
@pytest.mark.parametrize("arcmin", [12.0, 16.0, 20.0, 35.0])
def test_height_and_angle_are_each_others_inverse(distance, arcmin):
    assert arcmin_of(character_for(arcmin, distance), distance) == pytest.approx(arcmin)


def test_arc_minutes_by_hand():
    """5 mm at 859.4 mm: one part in 171.9, 20 minutes of arc (a minute is 1/3437.75)."""
    assert arcmin_of(5.0, 859.44) == pytest.approx(20.0, abs=0.001)
    assert [grade_of(a) for a in (20.0, 19.9, 16.0, 15.9, 12.0, 11.9)] == [
        "good",
        "acceptable",
        "acceptable",
        "minimum",
        "minimum",
        "too_small",
    ]


def test_a_rim_half_way_hides_twice_its_height():
    rim, display = ((350.0, -10.0), (350.0, 10.0)), ((700.0, -100.0), (700.0, 100.0))
    assert hidden_mm((0.0, 0.0), rim, display) == pytest.approx(40.0)


def test_only_what_is_between_hides():
    display = ((700.0, -100.0), (700.0, 100.0))
    assert hidden_mm((0.0, 0.0), ((900.0, -10.0), (900.0, 10.0)), display) == 0.0
    assert hidden_mm((0.0, 0.0), ((-50.0, -10.0), (-50.0, 10.0)), display) == 0.0
    assert hidden_mm((0.0, 0.0), ((350.0, 200.0), (350.0, 300.0)), display) == 0.0
    assert hidden_mm((0.0, 0.0), ((100.0, -500.0), (100.0, 500.0)), display) == pytest.approx(200.0)


@pytest.mark.thorough
@pytest.mark.parametrize("seed", range(40))
def test_hidden_against_rays_drawn_one_by_one(seed):
    """A ray to each of 20,000 points of the display, and whether it crosses the rim (orientation of three points)."""
    rng = random.Random(seed)

    def point(x0, x1, y0, y1):
        return rng.uniform(x0, x1), rng.uniform(y0, y1)

    eye = point(-50, 50, -50, 50)
    rim = point(200, 900, -250, 100), point(200, 900, -250, 100)
    display = point(600, 800, -300, 0), point(600, 800, -300, 0)
    count = 20_000
    hit = sum(crosses(eye, along(display, (i + 0.5) / count), *rim) for i in range(count))
    drawn = hit / count * math.dist(*display)
    assert hidden_mm(eye, rim, display) == pytest.approx(drawn, abs=2 * math.dist(*display) / count + 1e-6)


def along(segment, share):
    (ax, ay), (bx, by) = segment
    return ax + share * (bx - ax), ay + share * (by - ay)


def crosses(a, b, c, d):
    def side(p, q, r):
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    return side(a, b, c) * side(a, b, d) < 0 and side(c, d, a) * side(c, d, b) < 0


@pytest.mark.parametrize(
    ("eye", "rim", "display", "field"),
    [
        ((350.0, 0.0), ((350.0, -10.0), (350.0, 10.0)), ((700.0, 0.0), (700.0, 50.0)), "eye"),
        ((700.0, 20.0), ((350.0, -10.0), (350.0, 10.0)), ((700.0, 0.0), (700.0, 50.0)), "eye"),
        ((0.0, 0.0), ((350.0, 1.0), (350.0, 1.0)), ((700.0, 0.0), (700.0, 50.0)), "rim"),
        ((0.0, 0.0), ((350.0, 1.0), (350.0, 9.0)), ((700.0, 5.0), (700.0, 5.0)), "display"),
    ],
)
def test_an_eye_in_the_wheel_or_on_the_display_is_refused(eye, rim, display, field):
    with pytest.raises(BadInput) as refused:
        hidden_mm(eye, rim, display)
    assert refused.value.field == field
