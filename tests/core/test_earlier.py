"""A job that stands on an earlier one of the same vehicle."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts import feeds
from metrolex.acts.channels import add_channel
from metrolex.acts.earlier import stand_on
from metrolex.acts.mount import place_display
from metrolex.check import find_all
from metrolex.harness.loads import load_of_tap
from metrolex.harness.openings import crossing_of
from metrolex.job import Electrics, Identity, Job, State, Vehicle, VehicleState
from metrolex.job.references import check_references
from metrolex.mount.check import mount_findings
from metrolex.twin import addresses, build, solve
from tests.jobs import van


@pytest.fixture
def second():
    """A boost gauge for the van, after its four gauges are in."""
    return stand_on(add_channel(Job("Boost", Vehicle(Identity("Van, again"))), "boost"), van())


def test_what_was_found_out_of_the_vehicle_is_there(second):
    check_references(second)
    earlier = van()
    assert second.vehicle.name == "Van, again"
    assert second.vehicle.electrics == earlier.vehicle.electrics
    assert [c.readings for c in second.circuits] == [c.readings for c in earlier.circuits]
    assert (second.panels, second.grounds, second.zones, second.paths) == (
        earlier.panels,
        earlier.grounds,
        earlier.zones,
        earlier.paths,
    )
    assert not second.taps
    assert not second.conductors


def test_loads_of_the_earlier_job_add_up(second):
    """What the four gauges draw through F22 is drawn there still: by hand, the sum of its taps."""
    earlier = van()
    drawn = sum(load_of_tap(earlier, tap).steady_a for tap in earlier.taps if tap.circuit == "F22")
    circuit = second.circuit("F22")
    assert drawn > 0
    assert circuit.taken_a == pytest.approx(drawn, abs=1e-3)
    assert earlier.name in circuit.taken_by
    chosen = next(c for c in feeds.weighed(second, "ignition_crank") if c.circuit.id == "F22")
    assert "Tapped already by" in chosen.reason
    full = replace(
        second,
        circuits=tuple(replace(c, taken_a=9.99) if c.id == "F22" else c for c in second.circuits),
    )
    assert not next(c for c in feeds.weighed(full, "ignition_crank") if c.circuit.id == "F22").serves
    through = solve(build(second), State("run")).solution.currents[
        addresses.circuit_part("F22", "vehicle load")
    ]
    own = earlier.circuit("F22").load_a
    assert through == pytest.approx((drawn + own) * 12.4 / 12, rel=0.05)


def test_wires_of_the_earlier_job_fill_its_openings(second):
    for before, after in zip(van().openings, second.openings, strict=True):
        passage = crossing_of(van(), before).passage
        if passage is not None:
            assert after.there_mm == pytest.approx(passage.bundle_mm, abs=0.05)
            assert crossing_of(second, after).passage.bundle_mm == pytest.approx(after.there_mm, rel=1e-6)


def test_a_third_job_stands_on_both(second):
    tapped = feeds.choose_tap(second, "ignition_crank", "F22")
    third = stand_on(Job("Third", Vehicle(Identity("Van"))), tapped)
    assert third.circuit("F22").taken_a > second.circuit("F22").taken_a
    assert "Boost" in third.circuit("F22").taken_by


def test_it_starts_without_a_finding_of_our_own(second):
    network = build(second)
    found = find_all(network, solve(network, State("run")))
    of_the_van = {(f.code, f.subject) for f in find_all(build(van()), solve(build(van()), State("run")))}
    new = [f for f in found if f.grade != "note" and (f.code, f.subject) not in of_the_van]
    assert not new


@pytest.mark.parametrize(
    ("said", "rest_v", "nominal_v"),
    [(None, None, 12), (24, None, 24), (6, None, 6), (24, 12.5, 12), (12, 25.1, 24)],
)
def test_what_was_read_outweighs_what_was_said(said, rest_v, nominal_v):
    """Usual rest of a lead-acid battery, 2.1 V a cell: 12.6 V, and twice or half of it."""
    electrics = Electrics(state=VehicleState(rest_v=rest_v), system_v=said)
    assert electrics.nominal_v == nominal_v
    assert electrics.rest_v == pytest.approx(rest_v or 1.05 * nominal_v)


def test_what_it_mounted_is_part_of_the_dash_now(second):
    """A gauge put where one of the earlier job sits lies on it and hides it."""
    earlier = van()
    assert second.sites == earlier.sites
    assert [(part.name, part.x, part.y) for part in second.fixtures] == [
        (earlier.display(one.display).name, one.x, one.y) for one in earlier.mountings
    ]
    assert not second.mountings
    there = earlier.mountings[0]
    put = place_display(second, second.displays[0].id, there.site, there.x, there.y)
    hides = [finding for finding in mount_findings(put) if finding.code == "hides"]
    assert [(finding.grade, finding.figure) for finding in hides] == [("stop", "100%")]
