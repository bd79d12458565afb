"""Sums of uniform errors against the closed form of Irwin and Hall, and the normal limit."""

import math

import numpy as np
import pytest
from scipy.stats import norm

from metrolex.uniform_sum import half_width


def irwin_hall(x: float, n: int) -> float:
    """P(|sum of n terms uniform within 1| <= x) (Irwin, Hall, Biometrika 19, 1927)."""
    at = (x + n) / 2
    below = sum((-1) ** k * math.comb(n, k) * (at - k) ** n for k in range(int(at) + 1)) / math.factorial(n)
    return 2 * below - 1


@pytest.mark.parametrize("n", [2, 3, 4, 7, 12])
@pytest.mark.parametrize("share", [0.5, 0.95, 0.999, 0.99997])
def test_equal_terms_follow_the_closed_form(n, share):
    assert irwin_hall(half_width([1.0] * n, share), n) == pytest.approx(
        share, abs=0.1 * (1 - share) ** 2 + 1e-5
    )


def test_many_small_terms_are_normal():
    assert half_width([0.1] * 300, 0.95) == pytest.approx(0.1 * math.sqrt(100) * norm.ppf(0.975), rel=5e-3)


def test_unequal_terms_against_draws():
    sizes = [5.0, -1.0, 0.7, 0.01, 0.0]
    rng = np.random.default_rng(3)
    drawn = np.abs(sum(size * rng.uniform(-1, 1, 400_000) for size in sizes))
    for share in (0.95, 0.999):
        assert float(np.mean(drawn <= half_width(sizes, share))) == pytest.approx(share, abs=1.5e-3)


def test_one_term_and_none():
    assert half_width([2.0], 0.999) == pytest.approx(1.998)
    assert half_width([], 0.95) == 0.0
