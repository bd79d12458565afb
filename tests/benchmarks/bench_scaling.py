"""Scaling: best rows, a million samples through a chain, an hour of GPS. Run on demand:

python -m pytest tests/benchmarks/bench_scaling.py --benchmark-only -p no:xdist -s
"""

from __future__ import annotations

import numpy as np
import pytest

from metrolex.kit import all_sender_kits
from metrolex.quantities import rounded
from metrolex.scaling.best_rows import best_rows
from metrolex.scaling.chain import Chain
from metrolex.senders import BetaCurve, TableCurve, x_at, x_range, y_at
from metrolex.series import read_gps
from metrolex.speed.gps import calibrate
from metrolex.speed.recording import delay_s, read_shown, steady_runs
from tests.core.test_speed import gpx, nmea, table

NTC = BetaCurve(2200, 3600, 25, (40.0, 40000.0))
SAMPLED = TableCurve(tuple((float(x), float(y_at(NTC, x))) for x in np.geomspace(60, 5000, 5000)))
SHIPPED = [name for name, kit in all_sender_kits().items() if kit.curve.kind != "linear"][:10]


def test_sixteen_rows_from_five_thousand_samples(benchmark):
    knots = tuple(x for x, _ in SAMPLED.points)
    found = benchmark(lambda: best_rows(lambda x: y_at(SAMPLED, x), x_range(SAMPLED), 16, knots=knots))
    assert found.max_error < found.equal_error / 10


@pytest.mark.parametrize("name", SHIPPED)
def test_error_against_equal_spacing(name, benchmark):
    curve = all_sender_kits()[name].curve
    span = x_range(curve)
    knots = tuple(x for x, _ in curve.points) if isinstance(curve, TableCurve) else ()
    found = benchmark(lambda: best_rows(lambda x: y_at(curve, np.clip(x, *span)), span, 8, knots=knots))
    benchmark.extra_info["equal_over_best"] = found.equal_error / max(found.max_error, 1e-12)
    print(
        f"\n{name}: best {found.max_error:.4g}, equal {found.equal_error:.4g}, ratio {found.equal_error / max(found.max_error, 1e-12):.1f}"
    )


def chain():
    rows = best_rows(lambda x: y_at(NTC, 1000 * x / (5 - x)), (0.25, 3.5), 16).rows
    return Chain(NTC, rows, 1000.0, 5.0, 12, 0.3, 0.02)


TRUE = np.random.default_rng(1).uniform(45, 140, 1_000_000)


def test_a_million_samples_through_the_chain(benchmark):
    through = chain()
    shown = benchmark.pedantic(lambda: np.round(through.shown(TRUE)), rounds=3)
    assert np.isfinite(shown).all()
    assert rounded(float(shown[0]), 0) == shown[0]


def test_a_million_samples_through_numpy_interp(benchmark):
    xs = x_at(NTC, np.linspace(140, 45, 16))
    ys = np.linspace(140, 45, 16)
    at = x_at(NTC, TRUE)
    benchmark.pedantic(lambda: np.interp(at, xs, ys), rounds=3)


@pytest.mark.parametrize("make", [nmea, gpx])
def test_an_hour_of_gps_at_ten_hertz(make, benchmark):
    t = np.arange(0, 3600, 0.1)
    levels = np.repeat([40, 60, 80, 100, 70, 50, 90, 110, 60], 4000)[: t.size].astype(float)
    kmh = np.convolve(levels, np.ones(150) / 150, mode="same")
    text, shown = make(t, kmh), table(t, 1.05 * np.interp(t - 1, t, kmh))

    def whole():
        true, face = read_gps(text), read_shown(shown)
        return calibrate(8000, steady_runs(true, face, delay_s(true, face)), "pulses_per_distance", 10)

    found = benchmark.pedantic(whole, rounds=2)
    assert found.ratio == pytest.approx(1.05, abs=1e-3)
