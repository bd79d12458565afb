"""The 95 % band of a fitted law against points drawn again and again about a law that is known."""

from __future__ import annotations

import numpy as np
import pytest

from metrolex.senders import BetaCurve, LinearCurve, SteinhartHartCurve, x_at, x_range, y_at
from metrolex.senders.bay import which_sender
from metrolex.senders.fit import fit_curve

LAWS = {
    "beta": BetaCurve(2200.0, 3600.0, 25.0),
    "steinhart_hart": SteinhartHartCurve(1.468e-3, 2.383e-4, 1.007e-7),
    "linear": LinearCurve(((0.5, 0.0), (4.5, 10.0)), "volt", "bar"),
}


@pytest.mark.parametrize(
    ("kind", "count"),
    [("beta", 4), ("beta", 8), ("steinhart_hart", 5), ("steinhart_hart", 10), ("linear", 4), ("linear", 9)],
)
def test_bands_of_95_percent_cover_95(kind, count, truth, sample):
    law, rng = LAWS[kind], np.random.default_rng(16 + count)
    true_y = np.linspace(0, 100, count) if kind != "linear" else np.linspace(0.5, 9.5, count)
    x, noise, draws = x_at(law, true_y), 0.8 if kind != "linear" else 0.05, sample(400, 4000)
    units = ("volt", "bar") if kind == "linear" else ("ohm", "degC")
    at = np.array([x.min(), np.median(x), x.max()])
    inside = np.zeros(3)
    for _ in range(draws):
        y = true_y + noise * rng.standard_normal(count)
        fit = fit_curve(kind, tuple(zip(x.tolist(), y.tolist(), strict=True)), *units)
        inside += np.abs(y_at(fit.curve, at) - y_at(law, at)) <= fit.band(at)
    share = inside / draws
    truth(
        f"95 % band of a fit, {kind}, {count} points",
        "points drawn about a known law",
        f"{draws} draws at both ends and the middle",
        f"covers {100 * share.min():.1f} to {100 * share.max():.1f} %",
    )
    chance = 3 * (0.95 * 0.05 / draws) ** 0.5
    assert (share > 0.93 - chance).all()
    assert (share < 0.97 + chance).all()


@pytest.mark.parametrize("kind", ["beta", "steinhart_hart"])
def test_a_fit_ends_a_fifth_of_its_span_beyond_its_points(kind):
    law = LAWS[kind]
    y = np.linspace(20, 90, 6)
    fit = fit_curve(kind, tuple(zip(x_at(law, y).tolist(), y.tolist(), strict=True)))
    low, high = x_range(fit.curve)
    x = np.sort(x_at(law, y))
    assert np.log(x[0] / low) == pytest.approx(0.2 * np.log(x[-1] / x[0]))
    assert np.log(high / x[-1]) == pytest.approx(0.2 * np.log(x[-1] / x[0]))
    assert np.isnan(y_at(fit.curve, np.array([low * 0.99, high * 1.01]))).all()


def test_which_sender_wants_every_point_inside_and_says_ties():
    law = LAWS["beta"]
    points = tuple(
        (float(x), float(y)) for x, y in zip(x_at(law, [20.0, 50.0, 90.0]), (20.0, 50.0, 90.0), strict=True)
    )
    narrow = BetaCurve(2200.0, 3600.0, 25.0, (float(x_at(law, 60.0)), float(x_at(law, 0.0))))
    found = which_sender(
        points,
        {
            "it": law,
            "its twin": BetaCurve(2201.0, 3601.0, 25.0),
            "narrow": narrow,
            "other": BetaCurve(5000.0, 3600.0, 25.0),
        },
    )
    assert [s.name for s in found] == ["it", "its twin", "other"]
    assert found[0].ties == ("its twin",)
    assert found[2].ties == ()
