"""Sender laws: ranges respected, nothing extrapolated."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from metrolex.errors import BadInput
from metrolex.senders import (
    BetaCurve,
    LinearCurve,
    SteinhartHartCurve,
    TableCurve,
    is_monotonic,
    x_at,
    x_range,
    y_at,
    y_range,
)

TABLE = TableCurve(((100.0, 120.0), (250.0, 80.0), (1000.0, 20.0)))


def test_points_come_in_any_order():
    assert TableCurve(((1000.0, 20.0), (100.0, 120.0), (250.0, 80.0))) == TABLE


@pytest.mark.parametrize(
    ("x", "y"), [(100.0, 120.0), (175.0, 100.0), (250.0, 80.0), (625.0, 50.0), (1000.0, 20.0)]
)
def test_straight_between_points(x, y):
    assert y_at(TABLE, x).item() == pytest.approx(y)
    assert x_at(TABLE, y).item() == pytest.approx(x)


@pytest.mark.parametrize("x", [99.9, 1000.1, -5.0, np.inf])
def test_outside_its_points_a_table_says_nothing(x):
    assert np.isnan(y_at(TABLE, x))


def test_arrays_keep_their_shape():
    assert y_at(TABLE, [[100.0, 5.0], [250.0, 1000.0]]).shape == (2, 2)


def test_a_law_ends_where_its_range_ends():
    curve = BetaCurve(2200, 3600)
    low, high = y_range(curve)
    assert (low, high) == pytest.approx((-60.0, 400.0))
    assert np.isnan(x_at(curve, 400.1))
    narrow = BetaCurve(2200, 3600, x_range=(200.0, 3000.0))
    assert x_range(narrow) == (200.0, 3000.0)
    assert np.isnan(y_at(narrow, 199.0))


def test_a_line_goes_on_only_where_a_range_says_so():
    line = LinearCurve(((0.5, 0.0), (4.5, 10.0)))
    assert np.isnan(y_at(line, 4.6))
    assert y_at(LinearCurve(((0.5, 0.0), (4.5, 10.0)), x_range=(0.25, 4.75)), 4.7).item() == pytest.approx(
        10.5
    )


def test_a_curve_that_turns_back_cannot_be_inverted():
    bent = TableCurve(((1.0, 0.0), (2.0, 10.0), (3.0, 5.0)), x_unit="volt")
    assert not is_monotonic(bent)
    assert y_at(bent, 2.5).item() == pytest.approx(7.5)
    with pytest.raises(BadInput, match="turns back"):
        x_at(bent, 6.0)


REFUSED = [
    (lambda: TableCurve(((1.0, 1.0),)), "at least 2 points"),
    (lambda: TableCurve(((1.0, 1.0), (1.0, 2.0))), "Two points stand at x = 1"),
    (lambda: TableCurve(((0.0, 1.0), (1.0, 2.0)), interpolation="log_x"), "above 0"),
    (lambda: TableCurve(((-1.0, 1.0), (1.0, 2.0))), "0 or more"),
    (lambda: TableCurve(((1.0, 1.0), (2.0, 2.0)), x_range=(0.5, 2.0)), "within the curve"),
    (lambda: LinearCurve(((1.0, 1.0), (2.0, 2.0), (3.0, 4.0))), "two points"),
    (lambda: BetaCurve(100, 3000, t0_degc=-273.15), "above -273.15"),
    (lambda: BetaCurve(100, 3000, x_range=(5.0, 1.0)), "two rising numbers"),
    (lambda: SteinhartHartCurve(1e-3, -2e-4, 1e-7), "b"),
    (lambda: SteinhartHartCurve(1e-3, 2e-4, -1e-7), "two temperatures"),
]


@pytest.mark.parametrize(("make", "words"), REFUSED)
def test_impossible_curves_are_refused(make, words):
    with pytest.raises(BadInput) as refusal:
        make()
    assert words in str(refusal.value) + refusal.value.allowed


@given(st.floats(-50, 350), st.sampled_from(["linear", "log_x", "pchip"]))
def test_there_and_back(degc, interpolation):
    xs = np.geomspace(50.0, 20_000.0, 12)
    table = TableCurve(
        tuple(zip(xs.tolist(), np.linspace(350.0, -50.0, 12).tolist(), strict=True)),
        interpolation=interpolation,
    )
    assert y_at(table, x_at(table, degc)).item() == pytest.approx(degc, abs=1e-6)
