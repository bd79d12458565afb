"""Unit conversions against NIST SP 811 (2008), appendix B, to the digits printed there."""

from __future__ import annotations

from fractions import Fraction

import pint
import pytest

from metrolex.quantities import LENGTH, MASS, PRESSURE, SPEED, TEMPERATURE, VOLUME, _line, parse
from metrolex.tables import load_table

NIST = [
    ("1 psi", PRESSURE, 6.894757e3, 1e-7),
    ("1 bar", PRESSURE, 1e5, 1e-12),
    ("1 in", LENGTH, 2.54e-2, 1e-12),
    ("1 ft", LENGTH, 3.048e-1, 1e-12),
    ("1 mph", SPEED, 1.609344, 1e-7),
    ("1 US gal", VOLUME, 3.785412, 1e-6),
    ("1 imp gal", VOLUME, 4.54609, 1e-7),
    ("1 inHg", PRESSURE, 3.386389e3, 1e-6),
    ("1 kg/cm2", PRESSURE, 9.80665e4, 1e-7),
    ("1 MPa", PRESSURE, 1e6, 1e-12),
    ("1 lb", MASS, 4.535924e-1, 1e-7),
    ("1 kn", SPEED, 1.852, 1e-7),
    ("32 F", TEMPERATURE, 0.0, 1e-9),
    ("212 F", TEMPERATURE, 100.0, 1e-9),
    ("-40 F", TEMPERATURE, -40.0, 1e-9),
    ("273.15 K", TEMPERATURE, 0.0, 1e-9),
]


@pytest.mark.parametrize(("text", "dimension", "value", "within"), NIST)
def test_conversion(text, dimension, value, within):
    assert parse(text, dimension) == pytest.approx(value, rel=within, abs=1e-9)


def test_the_table_of_lines_is_pints():
    """Every unit of units.toml is in the table, and every pair of a kind converts exactly as pint has it."""
    registry = pint.UnitRegistry(non_int_type=Fraction)
    lines = load_table("unit_lines")
    for kind, section in load_table("units").items():
        if not isinstance(section, dict) or "units" not in section:
            continue
        names = {name for _, name in section["units"]}
        assert names == set(lines[kind])
        for a in names:
            for b in names:
                zero, one = (Fraction(registry.Quantity(Fraction(n), a).to(b).magnitude) for n in (0, 1))
                assert _line(a, b) == (one - zero, zero), (a, b)
