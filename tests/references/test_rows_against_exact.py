"""Rows of a table against exact optima: dynamic programming over all grids, and closed forms."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from metrolex.scaling.best_rows import best_rows
from metrolex.senders import (
    BetaCurve,
    LinearCurve,
    SteinhartHartCurve,
    TableCurve,
    ThermocoupleCurve,
    x_range,
    y_at,
)


@pytest.mark.parametrize("points", [2, 3, 5, 9, 17])
def test_a_parabola_by_its_closed_form(points):
    # x^2 on [0, 1] by N - 1 straight pieces: each of width h leaves h^2/4 between chord and curve, half of it when the
    # chord is moved to the middle: 1/(8 (N-1)^2) (textbook).
    found = best_rows(lambda x: x**2, (0.0, 1.0), points)
    assert found.max_error == pytest.approx(1 / (8 * (points - 1) ** 2), rel=0.01)
    assert found.equal_error == pytest.approx(1 / (4 * (points - 1) ** 2), rel=0.01)


@pytest.mark.parametrize("points", [4, 8, 16])
def test_an_exponential_by_its_asymptotic_optimum(points):
    # Least greatest error -> (integral of sqrt f'')^2 / (16 (N-1)^2) as N grows (de Boor, A Practical Guide to Splines).
    law = np.exp
    whole = 2 * (np.exp(1.5) - np.exp(0))  # of exp(x/2) over [0, 3]
    found = best_rows(law, (0.0, 3.0), points)
    assert found.max_error == pytest.approx(whole**2 / (16 * (points - 1) ** 2), rel=0.03)


CURVES = {
    "ntc beta": BetaCurve(2200, 3600, 25, (40.0, 40000.0)),
    "ntc 10k": SteinhartHartCurve(1.129148e-3, 2.34125e-4, 8.76741e-8, (60.0, 60000.0)),
    "ntc points": TableCurve(
        ((55.4, 150), (68.8, 140), (108.5, 120), (179, 100), (311, 80), (577, 60), (1150, 40), (2480, 20)),
        interpolation="log_x",
    ),
    "tank": TableCurve(((33, 100), (66, 75), (103, 50), (153, 25), (240, 0)), "ohm", "pct"),
    "thermocouple": ThermocoupleCurve("K", (0.0, 45.0)),
    "sender pchip": TableCurve(
        ((10, 0), (31, 2), (52, 4), (88, 6), (129, 8), (184, 10)), "ohm", "bar", "pchip"
    ),
    "ratiometric": LinearCurve(((0.5, 0), (4.5, 10))),
}


def exact_on_grid(law, low, high, points, x_step, y_step, around):
    """The least greatest error over all tables on a small grid, by plain dynamic programming (slow, obvious)."""
    xs = np.arange(round(low / x_step), round(high / x_step) + 1) * x_step
    fine = np.linspace(low, high, 1501)
    y = law(fine)
    rows = [
        (i, k * y_step)
        for i in range(len(xs))
        for k in range(round(law(xs)[i] / y_step) - around, round(law(xs)[i] / y_step) + around + 1)
    ]
    best = {row: 0.0 if row[0] == 0 else np.inf for row in rows}
    cost = {}
    for a, b in itertools.product(rows, rows):
        if a[0] < b[0]:
            part = slice(np.searchsorted(fine, xs[a[0]] - 1e-12), np.searchsorted(fine, xs[b[0]] + 1e-12))
            line = a[1] + (b[1] - a[1]) * (fine[part] - xs[a[0]]) / (xs[b[0]] - xs[a[0]])
            cost[a, b] = float(np.abs(line - y[part]).max())
    for _ in range(points - 1):
        step = {}
        for b in rows:
            step[b] = min([best[b], *(max(best[a], cost[a, b]) for a in rows if a[0] < b[0])])
        best = step
    return min(value for row, value in best.items() if row[0] == len(xs) - 1)


@pytest.mark.parametrize(
    ("law", "span", "points", "x_step", "y_step"),
    [
        (lambda x: 40 / x, (0.5, 4.0), 4, 0.25, 1.0),
        (lambda x: 100 * np.exp(-x), (0.0, 3.0), 5, 0.25, 2.0),
        (lambda x: 20 * np.sin(x), (0.0, 6.0), 5, 0.5, 1.0),
        (np.sqrt, (0.0, 16.0), 4, 1.0, 0.25),
    ],
)
def test_steps_within_one_percent_of_the_exact(law, span, points, x_step, y_step):
    exact = exact_on_grid(law, *span, points, x_step, y_step, 2)
    found = best_rows(law, span, points, x_step=x_step, y_step=y_step)
    assert found.max_error <= exact * 1.01 + 1e-9
    for x, y in found.rows:
        assert (x / x_step, y / y_step) == pytest.approx((round(x / x_step), round(y / y_step)), abs=1e-9)


def test_free_rows_are_not_beaten_by_a_fine_grid():
    # Free rows can do no worse than the best rows on any grid (to the 0.7 % that is promised).
    exact = exact_on_grid(lambda x: 40 / x, 0.5, 4.0, 4, 0.25, 0.5, 3)
    assert best_rows(lambda x: 40 / x, (0.5, 4.0), 4).max_error <= exact * 1.007


@given(
    st.sampled_from(sorted(CURVES)),
    st.integers(2, 20),
    st.sampled_from([0.0, 0.5, 1.0]),
    st.floats(0.05, 0.6),
    st.floats(0.4, 1.0),
)
@settings(max_examples=25, deadline=None)
def test_never_worse_than_equal_spacing(name, points, share, start, width):
    curve = CURVES[name]
    low, high = x_range(curve)
    a = low + start * (high - low) * 0.5
    b = a + width * (high - a)
    y_span = abs(float(y_at(curve, b)) - float(y_at(curve, a)))
    y_step = float(f"{share * y_span / 40:.1g}")
    found = best_rows(
        lambda x: y_at(curve, np.clip(x, low, high)), (a, b), points, y_step=y_step, reach=(low, high)
    )
    assert found.max_error <= found.equal_error * (1 + 1e-12)
    assert 2 <= len(found.rows) <= points
    assert all(one[0] < two[0] for one, two in itertools.pairwise(found.rows))
    # The error told is the error had: numpy.interp over a fine grid, the curve by itself.
    xs = np.linspace(a, b, 4001)
    rows = np.array(found.rows)
    seen = np.abs(np.interp(xs, rows[:, 0], rows[:, 1]) - y_at(curve, xs)).max()
    assert seen <= found.max_error * 1.005 + 1e-9
