"""Why the battery reads other than at rest."""

from __future__ import annotations

import re

import pytest

from metrolex.circuit import GROUND
from metrolex.job import State
from metrolex.twin import addresses, build, solve
from metrolex.twin.battery_words import battery_said
from tests.jobs import van


@pytest.mark.parametrize("key", ["run", "crank"])
def test_the_difference_is_ohms_times_amperes(key):
    """By hand: the amperes said, through the ohms of the battery, are the volts said, and those are what is missing from rest."""
    job, solved = van(), solve(build(van()), State(key))
    words = battery_said(solved)
    volts, rest, amps, gap = (float(x) for x in re.findall(r"([0-9.]+) (?:V|A)", words))
    assert rest == pytest.approx(job.vehicle.electrics.rest_v, abs=0.05)
    assert volts == pytest.approx(solved.across(addresses.BATTERY_POSITIVE, GROUND), abs=0.006)
    assert gap == pytest.approx(job.vehicle.electrics.rest_v - volts, abs=0.011)
    assert amps * job.vehicle.electrics.battery.battery_ohm == pytest.approx(gap, rel=0.05)
    assert ("starter" in words) == (key == "crank")


def test_where_nothing_is_on_nothing_is_said():
    assert battery_said(solve(build(van()), State("off"))) == ""


def test_while_it_charges_the_posts_stand_at_what_was_read():
    job, solved = van(), solve(build(van()), State("run", "head", "running"))
    assert battery_said(solved) == ""
    volts = solved.across(addresses.BATTERY_POSITIVE, GROUND)
    assert volts == pytest.approx(job.vehicle.electrics.charging_v, abs=0.05)
