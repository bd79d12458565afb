"""Why the battery reads other than at rest."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest

from metrolex.circuit import GROUND
from metrolex.job import State
from metrolex.job.within import replaced_within
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


def test_charging_is_said_by_its_lead():
    """A charge lead of 0.1 ohm: what flows through it is missing at the posts."""
    job = van()
    poor = replace(job, vehicle=replaced_within(job.vehicle, {"alternator_ohm": 0.1}))
    solved = solve(build(poor), State("run", "head", "running"))
    words = battery_said(solved)
    volts, held, gap = (float(x) for x in re.findall(r"([0-9.]+) V", words))
    assert held == pytest.approx(job.vehicle.electrics.charging_v, abs=0.05)
    assert gap == pytest.approx(job.vehicle.electrics.charging_v - volts, abs=0.011)
    assert "charge lead" in words
