"""Stoichiometric ratios against the mass balance, blends and tanks against figures worked by hand."""

from __future__ import annotations

import math
import random
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from metrolex.errors import BadInput
from metrolex.fuel.blend import content_after, plan_blend
from metrolex.fuel.mixture import blend_ratio, mixture_of, ratio_by_formula, ratio_of
from metrolex.fuel.tank import litres_at_height, needle_on_slope, shape_curve, strapping
from metrolex.senders import y_at
from metrolex.tables import load_table


@pytest.mark.parametrize("fuel", ["petrol", "ethanol", "methanol", "diesel", "propane"])
def test_the_trades_ratio_is_the_mass_balance(fuel):
    """CxHyOz takes x + y/4 - z/2 molecules of oxygen; air is 23.14 % oxygen by mass (atomic masses IUPAC 2021). Within 1 %."""
    formula = load_table("fuels")["pure"][fuel]["formula"]
    assert ratio_by_formula(*formula) == pytest.approx(ratio_of(fuel), rel=0.011)


# Printed for the pump's blends (textbook): E10 14.1, E85 9.8.
@pytest.mark.parametrize(("pct", "ratio"), [(0, 14.7), (10, 14.1), (85, 9.8), (100, 9.0)])
def test_blends(pct, ratio):
    assert blend_ratio(pct) == pytest.approx(ratio, abs=0.02)


def test_a_petrol_gauge_on_another_fuel():
    # Lambda 0.85 of E85 burns at 0.85 x 9.81 = 8.34; a gauge that multiplies by 14.7 says 12.5.
    found = mixture_of(lambda_=0.85, stoich_ratio=ratio_of("E85"))
    assert (found.shown_ratio, found.true_ratio) == pytest.approx((12.495, 8.342), abs=1e-3)
    assert mixture_of(shown_ratio=12.495, stoich_ratio=ratio_of("E85")).lambda_ == pytest.approx(0.85)
    with pytest.raises(BadInput, match="petrol"):
        ratio_of("petrool")


@given(st.floats(1, 80), st.floats(0, 1), st.floats(0, 100), st.floats(0, 100), st.floats(0, 100))
def test_a_blend_is_what_it_says_or_the_nearest(tank, share, in_tank, pump, target):
    inside = tank * share
    found = plan_blend(tank, inside, in_tank, pump, target)
    room = tank - inside
    assert -1e-9 <= found.add_l <= room * (1 + 1e-9)
    assert found.result_pct == pytest.approx(content_after(inside, in_tank, found.add_l, pump))
    # No other amount comes nearer: 201 amounts tried.
    tried = [
        abs(content_after(inside, in_tank, room * k / 200, pump) - target)
        for k in range(0 if inside else 1, 201)
    ]
    assert abs(found.result_pct - target) <= min(tried, default=1e9) + 1e-6
    assert any(f.grade == "stop" for f in found.findings) == (abs(found.result_pct - target) > 1e-6)


def test_a_blend_by_hand():
    # 20 l of E5 and x l of E85 make E30: 20 x 25 / 55 = 9.0909 l.
    found = plan_blend(50, 20, 5, 85, 30, pump_range=(51, 85), ceiling_pct=25)
    assert found.add_l == pytest.approx(9.0909, abs=1e-4)
    assert found.result_range[0] == pytest.approx((20 * 5 + 9.0909 * 51) / 29.0909, abs=1e-3)
    assert "above_ceiling" in {f.code for f in found.findings}
    with pytest.raises(BadInput) as refusal:
        plan_blend(50, 60, 5, 85, 30)
    assert refusal.value.field == "in_tank_l"


def test_a_lying_cylinder_by_the_segment():
    # Circular segment (textbook): at a quarter of the height theta = 2 acos(0.5) = 2 pi/3; area = (theta - sin theta)/2 of r^2.
    theta = 2 * math.pi / 3
    share = (theta - math.sin(theta)) / (2 * math.pi)
    assert litres_at_height("lying cylinder", 0.25, 100).item() == pytest.approx(100 * share)
    assert litres_at_height("box", 0.25, 100).item() == 25
    assert litres_at_height("saddle", [0, 1], 80) == pytest.approx([0, 80])


@pytest.mark.parametrize(("empty", "full"), [(73, 10), (10, 73), (0, 90), (240, 33)])
def test_a_tank_either_way_round(empty, full):
    curve = shape_curve("lying cylinder", 60, empty, full)
    assert y_at(curve, [empty, (empty + full) / 2, full]) == pytest.approx([0, 30, 60])


def test_strapping_pools_a_reading_that_turns_back():
    points = ((0, 240), (10, 200), (20, 170), (30, 176), (40, 120), (50, 70), (60, 33))
    found = strapping(points, 60)
    # Pool adjacent violators by hand: 170 and 176 become 173, at 25 l.
    assert (173.0, 25.0) in found.curve.points
    assert "point_turns_back" in {f.code for f in found.findings}
    ys = [y for _, y in found.curve.points]
    assert ys == sorted(ys, reverse=True)
    for bad in (points[:2], ((0, 5), (10, 5), (20, 5)), (*points, (70, 20))):
        with pytest.raises(BadInput):
            strapping(bad, 60)


def test_the_needle_on_a_slope_by_hand():
    # Half full, 1 m long, 0.3 m high, 10 % uphill: the surface stands 0.1 m per metre; a float 0.3 m ahead sees 0.03 m less of
    # 0.15 m, that is 0.12 of 0.3 m.
    found = needle_on_slope(30, 60, 10, 0.3, 1.0, 0.3)
    assert found.shown_l == pytest.approx(24.0, abs=0.05)
    assert needle_on_slope(30, 60, 10, 0.0, 1.0, 0.3).shown_l == pytest.approx(30.0, abs=0.05)
    assert needle_on_slope(30, 60, 0, 0.3, 1.0, 0.3).shown_l == pytest.approx(30.0, abs=0.05)


def test_using_up_first_counts_what_the_used_fuel_takes_with_it():
    # By hand: 50 l of E10 in a tank of 60, E85 at the pump, E30 wanted: 50 x 20/55 = 18.18 l, room 10. After using u litres
    # (50 - u) x 20/55 = 10 + u, so u = 50 - 60/(1 + 20/55) = 6.0 l.
    found = plan_blend(60, 50, 10, 85, 30)
    assert "Use up 6.0 l" in found.findings[0].remedy
    rng = random.Random(19)
    for _ in range(300):
        tank = rng.uniform(20, 120)
        inside, here, pump = rng.uniform(0.5, 1) * tank, rng.uniform(0, 40), rng.uniform(60, 100)
        target = rng.uniform(here + 5, pump - 5)
        said = plan_blend(tank, inside, here, pump, target).findings
        if said and said[0].code == "over_the_brim":
            used = float(re.search(r"Use up ([\d.]+) l", said[0].remedy)[1])
            if used < inside:
                assert not plan_blend(tank, inside - used, here, pump, target).findings
            assert used < 0.11 or plan_blend(tank, inside - used + 0.11, here, pump, target).findings
