"""Quantities as a fitter writes them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from metrolex.errors import BadInput
from metrolex.quantities import (
    CURRENT,
    LENGTH,
    PRESSURE,
    RESISTANCE,
    SPEED,
    TEMPERATURE,
    VOLTAGE,
    VOLUME,
    in_unit,
    inch_fraction,
    parse,
    parse_number,
    rounded,
    show,
    show_both,
    typed,
)

READ = [
    ("3/8 in", LENGTH, 0.009525),
    ("1 7/8 in", LENGTH, 0.047625),
    ("1-7/8 in", LENGTH, 0.047625),
    ('2 1/16"', LENGTH, 0.0523875),
    ("9.5 mm", LENGTH, 0.0095),
    ("9,5mm", LENGTH, 0.0095),
    ("12 ft", LENGTH, 3.6576),
    (".5 m", LENGTH, 0.5),
    ("60 psi", PRESSURE, 413685.4),
    ("4.1 bar", PRESSURE, 410000),
    ("210 F", TEMPERATURE, 98.8889),
    ("-40C", TEMPERATURE, -40),
    ("90 °C", TEMPERATURE, 90),
    ("2k2", RESISTANCE, 2200),
    ("4R7", RESISTANCE, 4.7),
    ("1M5", RESISTANCE, 1.5e6),
    ("450 ohm", RESISTANCE, 450),
    ("10 kΩ", RESISTANCE, 10000),
    ("5 mΩ", RESISTANCE, 0.005),
    ("12.4V", VOLTAGE, 12.4),
    ("350 mV", VOLTAGE, 0.35),
    ("1e3 mm", LENGTH, 1.0),
    ("5 mOhm", RESISTANCE, 0.005),
    ("5m", RESISTANCE, 0.005),
    ("5 mohm", RESISTANCE, 0.005),
    ("5 m\u2126", RESISTANCE, 0.005),
    ("5 m\u03a9", RESISTANCE, 0.005),
    ("5 mOHMS", RESISTANCE, 0.005),
    ("5 MOhm", RESISTANCE, 5e6),
    ("5M", RESISTANCE, 5e6),
    ("5 M\u2126", RESISTANCE, 5e6),
    ("R47", RESISTANCE, 0.47),
    ("10k", RESISTANCE, 1e4),
    ("10K", RESISTANCE, 1e4),
    ("47R", RESISTANCE, 47),
    ("12 ohms", RESISTANCE, 12),
    ("29.92 inHg", PRESSURE, 101320.7),
    ("1 kg/cm2", PRESSURE, 98066.5),
    ("0.4 MPa", PRESSURE, 4e5),
    ("0,4 mpa", PRESSURE, 4e5),
    ("60 psig", PRESSURE, 413685.4),
    ("100 kph", SPEED, 100),
    ("60 mph", SPEED, 96.56064),
    ("2 inch", LENGTH, 0.0508),
    ("2 inches", LENGTH, 0.0508),
    ("0.9 m", LENGTH, 0.9),
    ("60 litres", VOLUME, 60),
    ("10 US gal", VOLUME, 37.85412),
    ("10 imp gal", VOLUME, 45.4609),
    ("2 amps", CURRENT, 2),
    ("257 F", TEMPERATURE, 125),
    ("-273.15 C", TEMPERATURE, -273.15),
    ("0 K", TEMPERATURE, -273.15),
]


@pytest.mark.parametrize(("text", "dimension", "value"), READ)
def test_reads(text, dimension, value):
    assert parse(text, dimension) == pytest.approx(value, rel=1e-5)


REFUSED = [
    ("", LENGTH, "like 3/8 in"),
    ("wide", LENGTH, "like 3/8 in"),
    ("3/0 in", LENGTH, "divides by zero"),
    ("9.5", LENGTH, "has no unit"),
    ("9.5 psi", LENGTH, "'psi' is not a unit of length"),
    ("1e999 mm", LENGTH, "too large"),
    ("12 volts dc", VOLTAGE, "not a unit"),
    ("1,000 mm", LENGTH, "can be read two ways"),
    ("-274 C", TEMPERATURE, "below absolute zero"),
    ("-460 F", TEMPERATURE, "below absolute zero"),
    ("-1 K", TEMPERATURE, "below absolute zero"),
    ("10 gal", VOLUME, "write US gal or imp gal"),
    ("10 Gallons", VOLUME, "write US gal or imp gal"),
    ("5 MV", VOLTAGE, "not a unit"),
    ("9" * 100, LENGTH, "is not"),
    ("nan V", VOLTAGE, "is not"),
]


@pytest.mark.parametrize(("text", "dimension", "words"), REFUSED)
def test_refuses_in_words(text, dimension, words):
    with pytest.raises(BadInput) as refusal:
        parse(text, dimension)
    assert words in refusal.value.message


@given(
    st.floats(-1e6, 1e6),
    st.sampled_from(
        [
            (LENGTH, "m", "mm"),
            (LENGTH, "mm", "m"),
            (VOLUME, "L", "ml"),
            (VOLTAGE, "V", "mV"),
            (RESISTANCE, "ohm", "kohm"),
        ]
    ),
)
def test_a_number_survives_the_field_it_is_typed_into(value, units):
    dimension, kept, shown = units
    assert parse(typed(value, kept), dimension, "", kept) == value
    turned = in_unit(value, kept, shown)
    assert parse(typed(turned, shown), dimension, "", kept) == pytest.approx(value, rel=4e-16)


@given(st.decimals(0, 10_000, places=4))
def test_what_is_written_in_one_unit_comes_back_the_same(written):
    value = float(written)
    assert in_unit(in_unit(value, "mm", "m"), "m", "mm") == value


def test_a_bare_number_takes_the_usual_unit():
    assert parse("12,4", VOLTAGE, "V") == 12.4
    assert parse("9.5", LENGTH, "mm") == pytest.approx(0.0095)


@pytest.mark.parametrize(
    ("text", "value"), [("12,4", 12.4), ("-3", -3.0), ("−3", -3.0), (" 7. ", 7.0), ("1/2", 0.5)]
)
def test_plain_numbers(text, value):
    assert parse_number(text) == value


def test_a_plain_number_has_no_unit():
    with pytest.raises(BadInput, match="is not a number"):
        parse_number("12 V")


@given(st.floats(0.001, 5.0))
def test_shown_length_reads_back(length_m):
    assert parse(show(length_m, LENGTH, "mm", 3), LENGTH) == pytest.approx(length_m, abs=6e-7)


@given(st.integers(1, 64 * 8))
def test_inch_fractions_read_back(sixty_fourths):
    length = sixty_fourths / 64 * 0.0254
    assert parse(f"{inch_fraction(length)} in", LENGTH) == pytest.approx(length)


def test_tools_are_shown_in_both_systems():
    assert show_both(0.009525) == "9.5 mm (3/8 in)"


@pytest.mark.parametrize(
    ("value", "digits", "shown"),
    [(90.5, 0, 91.0), (2.5, 0, 3.0), (-2.5, 0, -3.0), (0.15, 1, 0.2), (-0.01, 0, 0.0)],
)
def test_rounds_half_away_from_zero(value, digits, shown):
    assert rounded(value, digits) == shown
