"""Sender laws against published tables, and against scipy doing the same another way."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator
from scipy.optimize import brentq

from metrolex.senders import BetaCurve, SteinhartHartCurve, TableCurve, x_at, y_at

# A much printed 10 kohm thermistor: coefficients and table points as found in textbooks and laboratory
# manuals, from memory. Tolerance: the table's own last digit turned into kelvin.
A, B, C = 1.129148e-3, 2.34125e-4, 8.76741e-8
PUBLISHED = {0: 32650, 25: 10000, 50: 3602, 75: 1481, 100: 678}


@pytest.mark.parametrize(("degc", "ohm"), PUBLISHED.items())
def test_steinhart_hart_gives_the_published_table(degc, ohm):
    assert y_at(SteinhartHartCurve(A, B, C), ohm).item() == pytest.approx(degc, abs=0.1)


@given(st.floats(min_value=-50.0, max_value=300.0))
def test_steinhart_hart_inverse_agrees_with_root_finding(degc):
    kelvin = degc + 273.15
    log_r = brentq(lambda u: A + B * u + C * u**3 - 1 / kelvin, -20.0, 40.0, xtol=1e-13)
    assert x_at(SteinhartHartCurve(A, B, C), degc).item() == pytest.approx(np.exp(log_r), rel=1e-9)


def test_beta_law_by_hand():
    # R = 2200 exp(3600 (1/363.15 - 1/298.15)) = 2200 x exp(-2.16121...) = 253.4 ohm at 90 degC.
    ohm = 2200 * np.exp(3600 * (1 / 363.15 - 1 / 298.15))
    assert x_at(BetaCurve(2200, 3600), 90.0).item() == pytest.approx(ohm, rel=1e-12)
    assert y_at(BetaCurve(2200, 3600), ohm).item() == pytest.approx(90.0, abs=1e-9)


points = (
    st.lists(st.floats(1.0, 1000.0), min_size=3, max_size=10, unique=True)
    .map(sorted)
    .filter(lambda xs: min(np.diff(xs)) > 0.5)
)


@given(points, st.randoms(use_true_random=False))
def test_pchip_is_scipys_and_its_inverse_comes_back(xs, rnd):
    ys = np.cumsum([rnd.uniform(1.0, 30.0) for _ in xs]).tolist()
    curve = TableCurve(tuple(zip(xs, ys, strict=True)), interpolation="pchip")
    middle = np.linspace(xs[0], xs[-1], 41)
    assert y_at(curve, middle) == pytest.approx(PchipInterpolator(xs, ys)(middle), rel=1e-12)
    assert y_at(curve, x_at(curve, y_at(curve, middle))) == pytest.approx(y_at(curve, middle), rel=1e-9)


def test_log_x_is_straight_over_the_logarithm():
    # Half way between ln 100 and ln 10000 is ln 1000: the middle of 0 and 80.
    curve = TableCurve(((100.0, 80.0), (10000.0, 0.0)), interpolation="log_x")
    assert y_at(curve, 1000.0).item() == pytest.approx(40.0)
    assert x_at(curve, 40.0).item() == pytest.approx(1000.0)
