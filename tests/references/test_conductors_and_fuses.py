"""Wire and fuse tables against the standards and against physics."""

from __future__ import annotations

import math

import pytest

from metrolex.harness.conductors import gauges, wire_ohm
from metrolex.harness.runs import insulation_class
from metrolex.tables import load_table

# ISO 6722 (now ISO 19642): largest resistance at 20 degC, milliohm per metre; from memory of the table.
ISO_6722 = {0.35: 54.4, 0.5: 37.1, 0.75: 24.7, 1.0: 18.5, 1.5: 12.7, 2.5: 7.60, 4.0: 4.71, 6.0: 3.14}
# ASTM B258 diameters in mm, and handbook resistances of solid annealed copper at 20 degC in milliohm per metre
# (as printed in wire tables; from memory).
AWG = {
    22: (0.6438, 52.96),
    20: (0.8118, 33.31),
    18: (1.024, 20.95),
    16: (1.291, 13.17),
    14: (1.628, 8.286),
    12: (2.053, 5.211),
    10: (2.588, 3.277),
    8: (3.264, 2.061),
}


@pytest.mark.parametrize(("size", "mohm"), ISO_6722.items())
def test_metric_resistance_is_the_standards(size, mohm):
    assert wire_ohm(size, "mm2", 1000.0) == pytest.approx(mohm, rel=1e-9)


@pytest.mark.parametrize(("size", "mohm"), ISO_6722.items())
def test_metric_resistance_is_possible_copper(size, mohm):
    # The largest allowed resistance is that of 100 % IACS copper (IEC 60028) of a little less than the nominal area.
    ideal = 1.7241e-8 / (size * 1e-6) * 1000
    assert ideal < mohm < 1.2 * ideal


@pytest.mark.parametrize(("size", "diameter_mm", "mohm"), [(k, *v) for k, v in AWG.items()])
def test_awg_resistance_follows_the_diameter(size, diameter_mm, mohm):
    assert wire_ohm(size, "awg", 1000.0) == pytest.approx(mohm, rel=2e-3)
    area = math.pi / 4 * (diameter_mm * 1e-3) ** 2
    assert wire_ohm(size, "awg", 1.0) == pytest.approx(1.7241e-8 / area, rel=1e-3)


def test_copper_rises_with_temperature():
    # IEC 60028: 0.393 % per kelvin, so 100 degC is 1 + 0.00393 x 80 = 1.3144 times 20 degC.
    assert wire_ohm(1.0, "mm2", 1.0, 100.0) / wire_ohm(1.0, "mm2", 1.0) == pytest.approx(1.3144)


@pytest.mark.parametrize("system", ["mm2", "awg"])
def test_thicker_wire_has_less_resistance_and_a_larger_fuse(system):
    rows = gauges(system)
    assert [r.ohm_per_m for r in rows] == sorted((r.ohm_per_m for r in rows), reverse=True)
    assert [r.max_fuse_a for r in rows] == sorted(r.max_fuse_a for r in rows)


def test_blade_fuses_have_the_standard_ratings_and_colours():
    # ISO 8820-3, blade fuses; from memory.
    colours = {
        1: "black",
        2: "grey",
        3: "violet",
        4: "pink",
        5: "tan",
        7.5: "brown",
        10: "red",
        15: "blue",
        20: "yellow",
        25: "clear",
        30: "green",
        35: "blue_green",
        40: "amber",
    }
    assert {row["rating_a"]: row["colour"] for row in load_table("fuses")["fuses"]} == colours


def test_a_fuse_drops_about_a_tenth_of_a_volt_at_its_rating():
    # Common practice, no source: typical drops of blade fuses at rated current are 50 to 150 mV.
    for row in load_table("fuses")["fuses"]:
        assert 0.05 < row["rating_a"] * row["mohm"] / 1000 < 0.15


def test_insulation_classes_are_those_of_iso_6722():
    limits = {85: "A", 100: "B", 125: "C", 150: "D", 175: "E", 200: "F", 225: "G", 250: "H"}
    assert [insulation_class(t) for t in limits] == list(limits.values())
    assert insulation_class(85.1) == "B"
    assert insulation_class(250.1) is None
