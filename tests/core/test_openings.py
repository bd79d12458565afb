"""Bundles and the openings they pass."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from metrolex.errors import BadInput
from metrolex.harness.bundle import (
    Connector,
    Wires,
    bundle_diameter_mm,
    pack_circles,
    pass_through,
    passes_surely,
)
from metrolex.harness.openings import crossing_of, opening_findings
from metrolex.job import Opening, Plug
from metrolex.jobfile import example_job_data, job_from_data
from tests.jobs import van

THROUGH = Opening("o", "Bulkhead", 30.0, "grommet", ("coolant run", "gearbox run"))


def with_opening(opening: Opening):
    return replace(van(), openings=(opening,))


@pytest.mark.thorough
@settings(max_examples=25, deadline=None)
@given(st.lists(st.floats(0.8, 9.0), min_size=1, max_size=24))
def test_circles_never_overlap_and_stay_in_their_ring(diameters):
    circles = pack_circles(diameters)
    assert [2 * c.r for c in circles] == pytest.approx(diameters)
    for a, b in itertools.combinations(circles, 2):
        assert math.hypot(a.x - b.x, a.y - b.y) >= a.r + b.r - 1e-9
    ring = bundle_diameter_mm(circles)
    assert ring >= max(diameters) - 1e-9
    assert ring**2 >= sum(d * d for d in diameters) - 1e-6  # no bundle is denser than full


@pytest.mark.thorough
@settings(max_examples=25, deadline=None)
@given(st.lists(st.floats(0.8, 9.0), min_size=1, max_size=24))
def test_what_passes_surely_passes_as_packed(diameters):
    sure = 1.1 * math.sqrt(2 * sum(d * d for d in diameters))
    assert not passes_surely(diameters, (), sure * 0.999)
    assert passes_surely(diameters, (), sure * 1.01)
    assert pass_through([Wires(d, 1) for d in diameters], (), sure * 1.01).passes


def test_a_plug_does_not_pass_surely_because_its_wires_do():
    assert passes_surely([2.0], [Connector(3.0, 4.0)], 5.0)
    assert not passes_surely([2.0], [Connector(3.0, 4.0)], 4.9)


def test_the_same_wires_give_the_same_bundle():
    assert pack_circles([1.6, 2.1, 1.6, 3.0]) == pack_circles([1.6, 2.1, 1.6, 3.0])


@pytest.mark.thorough
def test_two_hundred_wires_are_packed():
    circles = pack_circles([1.6] * 120 + [2.4] * 80)
    area = sum((2 * c.r) ** 2 for c in circles)
    assert area / bundle_diameter_mm(circles) ** 2 > 0.7


@pytest.mark.parametrize("wires", [[], [0.0], [-1.0], [1.0] * 401])
def test_what_is_no_bundle_is_refused(wires):
    with pytest.raises(BadInput):
        pack_circles(wires)


@pytest.mark.parametrize(
    ("connectors", "hole", "needed", "codes"),
    [
        # Two wires of 2 mm lie side by side: 4 mm, a tenth of room makes 4.4; a plug of 3 by 4 wants 5 corner to corner.
        ([], 4.5, 4.4, []),
        ([], 4.0, 4.4, ["bundle_too_thick"]),
        ([Connector(3, 4)], 5.0, 5.0, []),
        ([Connector(3, 4)], 4.6, 5.0, ["connector_too_wide"]),
        ([Connector(3, 4)], 4.0, 5.0, ["bundle_too_thick", "connector_too_wide"]),
    ],
)
def test_a_hole_by_hand(connectors, hole, needed, codes):
    passage = pass_through([Wires(2.0, 2)], connectors, hole)
    assert passage.hole_needed_mm == pytest.approx(needed, rel=2e-3)
    assert [f.code for f in passage.findings] == codes
    assert passage.passes == (not codes)
    assert pass_through([Wires(2.0, 2)], connectors).passes is None


def test_an_opening_packs_the_wires_of_its_runs():
    crossing = crossing_of(with_opening(THROUGH), THROUGH)
    assert {wire.run for wire in crossing.wires} == {"coolant run", "gearbox run"}
    assert crossing.passage.passes
    assert 0 < crossing.fill_ratio < 1
    more = crossing_of(with_opening(THROUGH), replace(THROUGH, there_mm=20.0))
    assert len(more.passage.circles) == len(crossing.passage.circles) + 1
    assert crossing_of(van(), replace(THROUGH, runs=())).passage is None


@pytest.mark.parametrize(
    ("opening", "codes"),
    [
        (THROUGH, []),
        (replace(THROUGH, edge="bare"), ["bare_edge"]),
        (replace(THROUGH, hole_mm=1.0), ["bundle_too_thick", "opening_too_small"]),
        (replace(THROUGH, plugs=(Plug("plug", 40, 30),)), ["connector_too_wide"]),
        (replace(THROUGH, runs=()), []),
    ],
)
def test_findings_of_an_opening(opening, codes):
    found = list(opening_findings(with_opening(opening)))
    assert [f.code for f in found] == codes
    assert all(f.subject == "Bulkhead" and f.place == "harness" for f in found)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"hole_mm": 0}, "openings[0].hole_mm"),
        ({"runs": ["x"]}, "openings[0].runs[0]"),
        ({"edge": "sharp"}, "openings[0].edge"),
        ({"plugs": [{"name": "p", "w_mm": 0, "h_mm": 1}]}, "openings[0].plugs[0].w_mm"),
    ],
)
def test_an_opening_that_cannot_be_meant_is_refused(change, field):
    data = example_job_data() | {"ways": [], "openings": [{"id": "o", "name": "O", "hole_mm": 20} | change]}
    with pytest.raises(BadInput) as fault:
        job_from_data(data)
    assert fault.value.field == field
