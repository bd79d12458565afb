"""Type K against the package thermocouple-its90 (checked by its author against NIST's tables), and against NIST table values."""

from __future__ import annotations

import pytest
from thermocouple_its90 import TypeK

from metrolex.errors import BadInput
from metrolex.senders.thermocouple import copper_error_degc, degc_at, emf_mv

# NIST ITS-90 table of type K, reference junction at 0 degC, in millivolt.
TABLE = [
    (-200, -5.891),
    (-100, -3.554),
    (0, 0.0),
    (25, 1.000),
    (100, 4.096),
    (300, 12.209),
    (500, 20.644),
    (800, 33.275),
    (1000, 41.276),
    (1372, 54.886),
]


@pytest.mark.parametrize(("degc", "mv"), TABLE)
def test_the_published_table(degc, mv):
    assert emf_mv("K", degc) == pytest.approx(mv, abs=0.0006)


@pytest.mark.parametrize("degc", range(-250, 1373, 31))
def test_every_stretch_of_the_curve(degc):
    assert emf_mv("K", degc) == pytest.approx(TypeK.emf(degc), abs=1e-6)


@pytest.mark.parametrize("mv", [-5.0, -1.0, 0.0, 4.096, 20.644, 41.276, 54.0])
def test_back_to_degrees(mv):
    assert degc_at("K", mv) == pytest.approx(TypeK.temperature(mv), abs=0.01)


@pytest.mark.parametrize(
    ("hot", "joint", "gauge"), [(800, 60, 25), (700, 110, 25), (950, 25, 60), (300, 40, 40)]
)
def test_copper_from_a_joint_adds_about_the_difference(hot, joint, gauge):
    # By hand from the package: what reaches the gauge is E(hot) - E(joint); the gauge adds E(gauge).
    seen = TypeK.temperature(TypeK.emf(hot) - TypeK.emf(joint) + TypeK.emf(gauge))
    assert copper_error_degc("K", hot, joint, gauge) == pytest.approx(seen - hot, abs=0.01)
    assert copper_error_degc("K", hot, joint, gauge) == pytest.approx(gauge - joint, abs=6)


@pytest.mark.parametrize(("kind", "degc"), [("K", 1400), ("K", -280), ("Q", 20)])
def test_what_no_couple_gives_is_refused(kind, degc):
    with pytest.raises(BadInput):
        emf_mv(kind, degc)
    with pytest.raises(BadInput):
        degc_at("K", 60.0)
