"""Fits against scipy's own least squares and interpolation, and against a published thermistor."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import least_squares
from scipy.stats import linregress

from metrolex.senders import BetaCurve, SteinhartHartCurve, x_at, y_at
from metrolex.senders.fit import fit_curve

# The coefficients of a much printed 10 kohm thermistor (textbooks, from memory) give its table; the fit must give them back.
A, B, C = 1.129148e-3, 2.34125e-4, 8.76741e-8
DEGC = np.array([-10.0, 0.0, 15.0, 25.0, 50.0, 75.0, 100.0])


def points(curve, degc, off=0.0):
    return tuple(zip(x_at(curve, degc).tolist(), (degc + off).tolist(), strict=True))


def test_exact_points_give_their_own_law_back():
    found = fit_curve("steinhart_hart", points(SteinhartHartCurve(A, B, C), DEGC))
    assert (found.curve.a, found.curve.b, found.curve.c) == pytest.approx((A, B, C), rel=1e-5)
    assert found.max_residual < 1e-6
    beta = fit_curve("beta", points(BetaCurve(2200, 3600), DEGC))
    assert (beta.curve.r0_ohm, beta.curve.beta_k) == pytest.approx((2200, 3600), rel=1e-9)


@given(st.integers(0, 10_000))
@settings(max_examples=25, deadline=None)
def test_the_least_squares_are_least(seed):
    """scipy's least_squares, started at the true law, may not find an rms below ours (steinhart_hart, beta)."""
    noise = np.random.default_rng(seed).normal(0, 0.4, len(DEGC))
    given_points = points(SteinhartHartCurve(A, B, C), DEGC, noise)
    x, y = np.array(sorted(given_points)).T
    log_r = np.log(x)
    ours = fit_curve("steinhart_hart", given_points)
    scale = np.array([1e-3, 1e-4, 1e-7])
    theirs = least_squares(
        lambda p: 1 / (p[0] * scale[0] + p[1] * scale[1] * log_r + p[2] * scale[2] * log_r**3) - 273.15 - y,
        [A / scale[0], B / scale[1], C / scale[2]],
        bounds=([-50, 1e-9, 0], [50, 50, 50]),
        xtol=1e-14,
        ftol=1e-14,
        gtol=1e-14,
    )
    assert ours.rms_residual <= np.sqrt(np.mean(theirs.fun**2)) * (1 + 1e-4)
    beta = fit_curve("beta", given_points)
    flat = least_squares(
        lambda p: 1 / (p[0] + p[1] * log_r) - 273.15 - y,
        [A, B],
        x_scale=[1e-3, 1e-4],
        xtol=1e-15,
        ftol=1e-15,
        gtol=1e-15,
    )
    assert beta.rms_residual <= np.sqrt(np.mean(flat.fun**2)) * (1 + 1e-6)


def test_a_line_as_scipy_draws_it_with_its_confidence():
    rng = np.random.default_rng(3)
    x = np.linspace(0.5, 4.5, 9)
    y = 2.5 * x - 1.25 + rng.normal(0, 0.05, 9)
    found = fit_curve("linear", tuple(zip(x.tolist(), y.tolist(), strict=True)), "volt", "bar")
    line = linregress(x, y)
    at = np.array([0.5, 2.0, 4.5])
    assert y_at(found.curve, at) == pytest.approx(line.slope * at + line.intercept, abs=1e-9)
    # At the mean of x the band is t(0.975, 7) s / sqrt(9); t = 2.3646 (Student's table).
    s = np.sqrt(np.sum((y - line.slope * x - line.intercept) ** 2) / 7)
    assert found.band(np.array([x.mean()]))[0] == pytest.approx(2.3646 * s / 3, rel=1e-3)
