"""Pipe and metric threads, tap drills and taper engagement against their published figures.

Every figure stands here as printed, from memory of the standard or handbook named; none is read from our data files.
"""

from __future__ import annotations

import math

import pytest

from metrolex.fittings.connections import connection_called
from metrolex.fittings.drills import tap_drill
from metrolex.fittings.engagement import engage, minor_diameter_mm
from metrolex.ports.spot import distance_for_spot_mm, spot_mm

IN = 25.4


# ASME B1.20.1, table 2: hand-tight engagement L1, effective thread L2, pitch diameter at the hand-tight plane E1, inches.
@pytest.mark.parametrize(
    ("name", "hand_tight", "effective", "pitch_at_gauge"),
    [
        ("1/16-27 NPT", 0.160, 0.2611, 0.28118),
        ("1/8-27 NPT", 0.1615, 0.2639, 0.37360),
        ("1/4-18 NPT", 0.2278, 0.4018, 0.49163),
        ("3/8-18 NPT", 0.240, 0.4078, 0.62701),
        ("1/2-14 NPT", 0.320, 0.5337, 0.77843),
        ("3/4-14 NPT", 0.339, 0.5457, 0.98887),
    ],
)
def test_npt_of_asme_b1_20_1(name, hand_tight, effective, pitch_at_gauge):
    thread = connection_called(name)
    assert thread.hand_tight_mm == pytest.approx(hand_tight * IN)
    assert thread.effective_mm == pytest.approx(effective * IN)
    # E1 = E0 + L1 / 16: the table's own identity, to its last digit.
    assert (thread.pitch_diameter_mm + thread.hand_tight_mm / 16) / IN == pytest.approx(
        pitch_at_gauge, abs=2e-5
    )


# By hand from the same table: minor diameter = pitch diameter - 0.8 pitch; 1/8 runs from 0.3440 in at the mouth to 0.3339 in
# at the hand-tight depth, so the letter R (0.339) lies between and 11/32 (0.34375) is the mouth.
def test_minor_diameter_of_the_eighth_worked_by_hand():
    thread = connection_called("1/8-27 NPT")
    assert minor_diameter_mm(thread, 0) / IN == pytest.approx(0.37360 - 0.8 / 27, abs=2e-5)
    assert minor_diameter_mm(thread, 0) / IN == pytest.approx(0.3440, abs=1e-4)
    assert minor_diameter_mm(thread, 0.1615 * IN) / IN == pytest.approx(0.3339, abs=1e-4)
    assert minor_diameter_mm(thread, 0.1615 * IN) < tap_drill(thread).size_mm < minor_diameter_mm(thread, 0)
    assert tap_drill(thread, practice="larger").size_mm == pytest.approx(
        minor_diameter_mm(thread, 0), abs=0.01
    )


# ISO 7-1 table 1 and ISO 228-1 table 1: threads an inch, major diameter, gauge length; pitch diameter of the parallel form.
@pytest.mark.parametrize(
    ("taper", "parallel", "tpi", "major", "pitch_diameter", "gauge"),
    [
        ("1/8-28 BSPT", "G1/8", 28, 9.728, 9.147, 4.0),
        ("1/4-19 BSPT", "G1/4", 19, 13.157, 12.301, 6.0),
        ("3/8-19 BSPT", "G3/8", 19, 16.662, 15.806, 6.4),
        ("1/2-14 BSPT", "G1/2", 14, 20.955, 19.793, 8.2),
    ],
)
def test_pipe_threads_of_iso_7_and_iso_228(taper, parallel, tpi, major, pitch_diameter, gauge):
    one, other = connection_called(taper), connection_called(parallel)
    assert one.major_mm == other.major_mm == major
    assert one.pitch_mm == other.pitch_mm == pytest.approx(IN / tpi)
    assert one.hand_tight_mm == gauge
    assert one.flank_deg == other.flank_deg == 55
    assert one.pitch_diameter_mm + gauge / 16 == pytest.approx(pitch_diameter, abs=2e-3)


# Handbook tap drills for NPT with and without taper reamer (from memory of a machinist's handbook).
@pytest.mark.parametrize(
    ("name", "unreamed_in", "reamed_in"),
    [
        ("1/8-27 NPT", 0.339, 21 / 64),
        ("1/4-18 NPT", 7 / 16, 27 / 64),
        ("3/8-18 NPT", 37 / 64, 9 / 16),
        ("1/2-14 NPT", 45 / 64, 11 / 16),
    ],
)
def test_npt_tap_drills_of_the_handbook(name, unreamed_in, reamed_in):
    thread = connection_called(name)
    assert tap_drill(thread).size_mm == pytest.approx(unreamed_in * IN, abs=0.006)
    assert tap_drill(thread, reamed=True).size_mm == pytest.approx(reamed_in * IN, abs=0.006)


# ISO 2306 tap drills of fine and coarse metric threads; G1/8 8.8 mm is common practice.
@pytest.mark.parametrize(
    ("name", "drill"),
    [
        ("M8x1", 7.0),
        ("M10x1", 9.0),
        ("M12x1.5", 10.5),
        ("M14x1.5", 12.5),
        ("M16x1.5", 14.5),
        ("M18x1.5", 16.5),
        ("M10x1.5", 8.5),
        ("G1/8", 8.8),
    ],
)
def test_tap_drills_of_parallel_threads(name, drill):
    assert tap_drill(connection_called(name)).size_mm == drill


# Worked by hand: 1/8-27 pulled up 2.5 turns past hand-tight stands 0.1615 + 2.5/27 = 0.2541 in deep; in a wall of 6 mm
# 6 / 0.9407 = 6.38 threads bear.
def test_taper_engagement_worked_by_hand():
    found = engage(connection_called("1/8-27 NPT"), 6.0, 2.5)
    assert found.pulled_up_mm == pytest.approx((0.1615 + 2.5 / 27) * IN)
    assert found.threads_by_hand == pytest.approx(0.1615 * 27)
    assert found.threads_pulled_up == pytest.approx(6.0 * 27 / IN)
    assert found.stands_through_mm == pytest.approx((0.1615 + 2.5 / 27) * IN - 6.0)


# Plane geometry: a 90 degree cone is as wide as twice its height; 35 degrees by the tangent of 17.5.
def test_spot_of_an_infrared_cone():
    assert spot_mm(100, 90) == pytest.approx(200)
    assert spot_mm(150, 35) == pytest.approx(2 * 150 * math.tan(math.radians(17.5)))
    assert spot_mm(distance_for_spot_mm(180, 35), 35) == pytest.approx(180)
