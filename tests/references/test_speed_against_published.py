"""Tyres, pulses, the legal band and GPS fits against published figures and figures worked by hand."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.stats import linregress

from metrolex.errors import BadInput
from metrolex.speed.engine import engine_pulses
from metrolex.speed.gps import GpsRun, calibrate
from metrolex.speed.legal import band_kmh, is_legal
from metrolex.speed.pulses import pulses_per_km
from metrolex.speed.tyres import circumference_m, read_tyre

# Overall diameter in mm as printed in tyre handbooks (ETRTO Standards Manual, from memory; design diameter, +/- 1 %).
TYRES = [
    ("205/55R16", 632),
    ("205/55 ZR 16 91W", 632),
    ("P195/65R15", 635),
    ("185/70R14 88T", 616),
    ("225/45R17", 634),
    ("155/80R13", 578),
    ("175R14C", 643),
    ("31x10.50R15LT", 787),
    ("33X12.5R15", 838),
    ("120/70ZR17 M/C 58W", 600),
    ("130/90-16 67H", 640),
    ("4.00-18", 660),
    ("3.25-19", 648),
    ("265/70R17 115S", 803),
    ("255/70R22.5", 930),
]


@pytest.mark.parametrize(("mark", "mm"), TYRES)
def test_overall_diameter(mark, mm):
    assert 1000 * read_tyre(mark).diameter_m == pytest.approx(mm, rel=0.01)


def test_load_and_speed_marks():
    # ISO 4000-1: load index 91 carries 615 kg, symbol V goes to 240 km/h.
    tyre = read_tyre("205/55R16 91V")
    assert (tyre.load_kg, tyre.speed_kmh, tyre.radial) == (615, 240, True)
    assert read_tyre("4.00-18 64S").speed_kmh == 180


@pytest.mark.parametrize(
    "mark", ["", "205/55", "205/55/16", "hello", "99/999R99", "205/55R60", "1x1R15", "3.25-", "205/5R16x"]
)
def test_what_is_no_tyre(mark):
    with pytest.raises(BadInput) as refusal:
        read_tyre(mark)
    assert refusal.value.field == "tyre"


def test_rolling_and_wear_by_hand():
    # 205/55R16: 16 x 25.4 + 2 x 0.55 x 205 = 631.9 mm; x 3.05 = 1.9273 m. 5 mm of tread gone: 621.9 x 3.05 = 1.8968 m.
    tyre = read_tyre("205/55R16")
    assert circumference_m(tyre) == pytest.approx(1.927295)
    assert circumference_m(tyre, 5.0) == pytest.approx(1.896795)
    for wear in (-1.0, 60.0):
        with pytest.raises(BadInput):
            circumference_m(tyre, wear)


def test_pulses_by_hand():
    # 2.000 m a turn is 500 turns a km; x 3.5 before the axle x 4 = 7000 pulses a km = 11265.4 a mile; 194.44 Hz at 100 km/h.
    found = pulses_per_km("driveline", 4, circumference_m=2.0, axle_ratio=3.5)
    assert (found.per_km, found.per_mile, found.hertz(100)) == pytest.approx(
        (7000, 11265.408, 194.4444), rel=1e-6
    )
    assert pulses_per_km("wheel", 1, circumference_m=2.0).per_km == 500
    # A cable of 1000 turns a mile and 8 pulses a turn: the common 8000 pulses a mile.
    assert pulses_per_km("cable", 8).per_mile == pytest.approx(8000)
    assert found.kmh(found.hertz(83.0)) == pytest.approx(83.0)


# UNECE Regulation No. 39, 5.4: 0 <= V1 - V2 <= V2/10 + 4 km/h, worked by hand.
@pytest.mark.parametrize(
    ("true", "shown", "legal"),
    [
        (40, 40, True),
        (40, 48, True),
        (40, 48.1, False),
        (80, 79.9, False),
        (80, 92, True),
        (120, 136, True),
        (120, 136.2, False),
    ],
)
def test_the_legal_band(true, shown, legal):
    assert is_legal(true, shown) is legal
    assert band_kmh(true) == (true, true * 1.1 + 4)


def test_a_calibration_worked_by_hand():
    # Shown over true, least squares through zero: (50 x 53 + 100 x 105) / (50^2 + 100^2) = 13150/12500 = 1.052.
    runs = (GpsRun(50, 53), GpsRun(100, 105))
    found = calibrate(8000, runs, "pulses_per_distance", 10)
    assert found.scale == pytest.approx(1.052)
    assert found.setting == 8410.0  # 8416 rounded down: fewer pulses read over
    assert found.residual_kmh == pytest.approx(
        np.sqrt(((53 / 1.052 - 50) ** 2 + (105 / 1.052 - 100) ** 2) / 2)
    )
    wheel = calibrate(2000, runs, "circumference", 1)
    assert wheel.scale == pytest.approx(1 / 1.052)
    assert wheel.setting == 1902.0  # 1901.14 rounded up: a larger wheel reads over
    assert found.legal
    assert [at.shown_kmh >= at.true_kmh for at in (*found.band, *wheel.band)] == [True] * 6


def test_an_exact_step_is_not_rounded_away():
    assert calibrate(8000, (GpsRun(100, 105.0),), "pulses_per_distance", 100).setting == 8400.0


def test_the_offset_as_scipy_sees_it():
    rng = np.random.default_rng(5)
    true = np.array([30, 45, 60, 75, 90, 105, 120.0])
    shown = 1.02 * true + 3.0 + rng.normal(0, 0.2, 7)
    found = calibrate(
        8000, tuple(GpsRun(*map(float, run)) for run in zip(true, shown, strict=True)), "pulses_per_distance"
    )
    line = linregress(true, shown)
    assert found.offset_kmh[0] == pytest.approx(line.intercept)
    assert found.offset_kmh[1] == pytest.approx(
        2.5706 * line.intercept_stderr, rel=1e-4
    )  # Student's t, 5 degrees of freedom
    assert found.has_offset
    assert "speed_offset" in {f.code for f in found.findings}


# Sparks a turn, textbook: (cylinders, strokes, pick-up) -> pulses a turn of the crankshaft.
@pytest.mark.parametrize(
    ("cylinders", "strokes", "pickup", "per_rev"),
    [
        (4, 4, "coil_negative", 2),
        (6, 4, "coil_negative", 3),
        (8, 4, "ecu", 4),
        (2, 2, "coil_negative", 2),
        (2, 4, "plug_lead", 0.5),
        (2, 2, "plug_lead", 1),
        (4, 4, "wasted_spark_coil", 1),
        (2, 4, "wasted_spark_plug_lead", 1),
    ],
)
def test_pulses_of_an_engine(cylinders, strokes, pickup, per_rev):
    assert engine_pulses(cylinders, strokes, pickup).per_rev == per_rev
    assert engine_pulses(cylinders, strokes, pickup).hertz(6000) == pytest.approx(100 * per_rev)
