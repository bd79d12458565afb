"""Types K, J, N and T against the package thermocouple-its90 (checked by its author against NIST's tables), and NIST table values."""

from __future__ import annotations

import numpy as np
import pytest
import thermocouple_its90

from metrolex.errors import BadInput
from metrolex.senders import ThermocoupleCurve, x_at, y_at
from metrolex.senders.thermocouple import copper_error_degc, degc_array, degc_at, emf_mv, range_degc

# NIST ITS-90 tables (Monograph 175), reference junction at 0 degC, in millivolt.
TABLE = [
    ("K", -200, -5.891),
    ("K", -100, -3.554),
    ("K", 0, 0.0),
    ("K", 25, 1.000),
    ("K", 100, 4.096),
    ("K", 300, 12.209),
    ("K", 500, 20.644),
    ("K", 800, 33.275),
    ("K", 1000, 41.276),
    ("K", 1372, 54.886),
    ("J", 100, 5.269),
    ("J", 500, 27.393),
    ("J", 760, 42.919),
    ("N", 100, 2.774),
    ("N", 1000, 36.256),
    ("T", 100, 4.279),
    ("T", -200, -5.603),
    ("T", 400, 20.872),
]


@pytest.mark.parametrize(("kind", "degc", "mv"), TABLE)
def test_the_published_table(kind, degc, mv):
    assert emf_mv(kind, degc) == pytest.approx(mv, abs=0.0006)


@pytest.mark.parametrize("kind", ["K", "J", "N", "T"])
def test_every_stretch_of_the_curve_both_ways(kind):
    package = getattr(thermocouple_its90, f"Type{kind}")
    low, high = range_degc(kind)
    # Below -200 degC the couples are so flat that the package's own inverse is not defined.
    degc = np.linspace(max(low, -200.0) + 1, high - 1, 211)
    emf = np.array([package.emf(float(t)) for t in degc])
    assert x_at(ThermocoupleCurve(kind), degc) == pytest.approx(emf, abs=1e-6)
    assert y_at(ThermocoupleCurve(kind), emf) == pytest.approx(degc, abs=0.01)
    back = np.array([package.temperature(float(e)) for e in emf])
    assert degc_array(kind, emf) == pytest.approx(back, abs=0.01)


@pytest.mark.parametrize(
    ("hot", "joint", "gauge"), [(800, 60, 25), (700, 110, 25), (950, 25, 60), (300, 40, 40)]
)
def test_copper_from_a_joint_adds_about_the_difference(hot, joint, gauge):
    # By hand from the package: what reaches the gauge is E(hot) - E(joint); the gauge adds E(gauge).
    package = thermocouple_its90.TypeK
    seen = package.temperature(package.emf(hot) - package.emf(joint) + package.emf(gauge))
    assert copper_error_degc("K", hot, joint, gauge) == pytest.approx(seen - hot, abs=0.01)
    assert copper_error_degc("K", hot, joint, gauge) == pytest.approx(gauge - joint, abs=6)


@pytest.mark.parametrize(("kind", "degc"), [("K", 1400), ("K", -280), ("J", 1250), ("T", 401), ("Q", 20)])
def test_what_no_couple_gives_is_refused(kind, degc):
    with pytest.raises(BadInput):
        emf_mv(kind, degc)
    with pytest.raises(BadInput):
        degc_at(kind, 80.0)
