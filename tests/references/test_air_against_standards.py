"""The standard atmosphere and boiling water against their published tables."""

from __future__ import annotations

import pytest

from metrolex.air.atmosphere import boiling_degc, pressure_kpa, saturation_kpa
from metrolex.air.boost import boost_of
from metrolex.errors import BadInput

# ISO 2533:1975, table of the standard atmosphere: geopotential altitude m, kPa.
ISA = [
    (-500, 107.478),
    (0, 101.325),
    (500, 95.461),
    (1000, 89.875),
    (2000, 79.495),
    (3000, 70.109),
    (5000, 54.020),
    (11000, 22.632),
]
# IAPWS-IF97 / steam tables: degC, kPa (from memory of the printed table, a published standard).
STEAM = [(20, 2.339), (50, 12.352), (80, 47.414), (90, 70.182), (100, 101.418), (110, 143.38)]
# Boiling point of water by altitude, as printed in handbooks (from memory; to 0.2 degC).
BOILING = [(0, 100.0), (1000, 96.7), (1500, 95.0), (2000, 93.3), (3000, 90.0)]


@pytest.mark.parametrize(("metres", "kpa"), ISA)
def test_pressure_by_altitude(metres, kpa):
    assert pressure_kpa(metres) == pytest.approx(kpa, rel=1e-4)


@pytest.mark.parametrize(("degc", "kpa"), STEAM)
def test_steam_table(degc, kpa):
    assert saturation_kpa(degc) == pytest.approx(kpa, rel=1e-3)


@pytest.mark.parametrize(("degc", "kpa"), [(degc, kpa) for degc, kpa in STEAM if 20 <= kpa <= 120])
def test_boiling_by_the_barometer(degc, kpa):
    assert boiling_degc(barometer_kpa=kpa) == pytest.approx(degc, abs=0.05)


@pytest.mark.parametrize("kpa", [2.0, 143.0])
def test_no_barometer_reads_that(kpa):
    with pytest.raises(BadInput):
        boiling_degc(barometer_kpa=kpa)


@pytest.mark.parametrize(("metres", "degc"), BOILING)
def test_boiling_by_altitude(metres, degc):
    assert boiling_degc(altitude_m=metres) == pytest.approx(degc, abs=0.2)


def test_boost_by_hand():
    # 201.325 kPa absolute at sea level is 100 kPa = 1 bar = 14.504 psi (NIST SP 811: 1 psi = 6.894757 kPa).
    found = boost_of(201.325, altitude_m=0)
    assert (found.gauge_kpa, found.gauge_bar) == pytest.approx((100.0, 1.0))
    assert found.gauge_psi == pytest.approx(100 / 6.894757, rel=1e-6)
    assert boost_of(60.0, barometer_kpa=100.0, altitude_m=3000).gauge_kpa == -40.0
    # 40 kPa of vacuum over 3.38639 kPa/inHg (NIST SP 811, conventional inch of mercury).
    assert boost_of(60.0, barometer_kpa=100.0).vacuum_inhg == pytest.approx(11.812, abs=1e-3)


@pytest.mark.parametrize(
    ("absolute", "more", "field"),
    [
        (-1, {"altitude_m": 0}, "absolute_kpa"),
        (100, {}, "altitude_m"),
        (100, {"altitude_m": 20000}, "altitude_m"),
        (100, {"barometer_kpa": 1013}, "barometer_kpa"),
    ],
)
def test_boost_that_cannot_be(absolute, more, field):
    with pytest.raises(BadInput) as refusal:
        boost_of(absolute, **more)
    assert refusal.value.field == field
