"""Two like readings agree at rest and rise together."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts import channels, ports, proving, scaling
from metrolex.errors import BadInput
from metrolex.harness.plan import plan_wires
from metrolex.job import Job, Segment, State
from metrolex.twin import build, expect, points_to_test
from metrolex.twin.expectations import verdict
from tests.jobs import van

STATES = (State("run"), State("run", "off", "running"))


@pytest.fixture(scope="module")
def banks() -> Job:
    """The van with a second gearbox temperature: left and right."""
    job = channels.name_channel(van(), "gearbox", "Gearbox, left")
    job = channels.add_channel(job, "gearbox_temperature")
    key = job.chains[-1].id
    job = channels.name_channel(job, key, "Gearbox, right")
    job = ports.choose_sender(job, key, "NTC, two wires, 1/8-27 NPT")
    job = scaling.confirm_table(job, key)
    job = plan_wires(job).job
    return replace(
        job, runs=tuple(replace(run, segments=run.segments or (Segment("way", 2.0),)) for run in job.runs)
    )


def agreement(job: Job, state: State):
    return next(e for e in expect(build(job), state) if e.point.kind == "agrees")


def test_like_readings_have_one_test_together_and_unlike_have_none(banks):
    found = [point.name for point in points_to_test(build(banks)) if point.kind == "agrees"]
    assert found == ["Gearbox, left less Gearbox, right"]
    assert not [point for point in points_to_test(build(van())) if point.kind == "agrees"]


@pytest.mark.parametrize("state", STATES, ids=lambda s: s.words())
def test_they_stand_together_within_both_bands(banks, state):
    expected = agreement(banks, state)
    faces = {e.point.channel: e for e in expect(build(banks), state) if e.point.kind == "shown"}
    left, right = faces["gearbox"], faces[banks.chains[-1].id]
    assert expected.value == pytest.approx(left.value - right.value)
    assert expected.low == pytest.approx(left.low - right.high)
    assert expected.high == pytest.approx(left.high - right.low)
    assert expected.low <= 0 <= expected.high


def test_a_bank_that_runs_away_is_off(banks):
    test = agreement(banks, STATES[1]).point.test.key
    for typed, wanted in (("0", "as expected"), ("-1", "as expected"), ("15", "off")):
        seen = proving.observe(banks, test, STATES[1], typed, "2026-01-02").observations[-1]
        assert verdict(agreement(banks, STATES[1]), seen.value)[0] == wanted
    with pytest.raises(BadInput):
        proving.observe(banks, test, STATES[1], "some", "2026-01-02")


def test_they_are_compared_with_the_key_on_only(banks):
    assert not [e for e in expect(build(banks), State("off")) if e.point.kind == "agrees"]
