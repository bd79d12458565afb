"""What is burnt by injector time, against hand arithmetic."""

from __future__ import annotations

import pytest

from metrolex.errors import BadInput
from metrolex.fuel.consumption import consumption_of


def test_by_hand():
    """3000 rpm, four strokes: a cycle of 40 ms. 3 ms of it open are 7.5 %; four injectors of 250 cc/min hold 60 L/h open: 4.5 L/h, at 100 km/h 4.5 L."""
    found = consumption_of(3.0, 3000, 4, 250, kmh=100)
    assert found.duty == pytest.approx(0.075)
    assert found.litre_per_h == pytest.approx(4.5)
    assert found.litre_per_100km == pytest.approx(4.5)
    assert consumption_of(3.0, 3000, 4, 250, dead_ms=1.0).litre_per_h == pytest.approx(3.0)
    assert consumption_of(3.0, 3000, 4, 250, strokes=2).litre_per_h == pytest.approx(9.0)
    assert consumption_of(3.0, 3000, 4, 250, openings=2).litre_per_h == pytest.approx(9.0)
    assert consumption_of(3.0, 3000, 4, 250).litre_per_100km is None


def test_flow_goes_with_the_root_of_the_pressure():
    """Bernoulli: four times the pressure, twice the flow."""
    rated = consumption_of(3.0, 3000, 4, 250).litre_per_h
    assert consumption_of(3.0, 3000, 4, 250, rated_bar=3.0, rail_bar=12.0).litre_per_h == pytest.approx(
        2 * rated
    )


def test_injectors_that_hardly_close_are_said():
    assert [f.code for f in consumption_of(35.0, 3000, 4, 250).findings] == ["injectors_nearly_static"]
    assert not consumption_of(30.0, 3000, 4, 250).findings


@pytest.mark.parametrize(
    ("field", "values"),
    [
        ("open_ms", {"open_ms": 0.0}),
        ("open_ms", {"open_ms": 41.0}),
        ("dead_ms", {"dead_ms": 4.0}),
        ("rpm", {"rpm": 0.0}),
        ("rail_bar", {"rail_bar": 3.0}),
    ],
)
def test_what_cannot_be_is_refused(field, values):
    with pytest.raises(BadInput) as fault:
        consumption_of(**{"open_ms": 3.0, "rpm": 3000.0, "injectors": 4, "flow_cc_min": 250.0} | values)
    assert fault.value.field == field
