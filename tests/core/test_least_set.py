"""The least set of tests, against trying every set on small cases; its promises on the examples."""

from __future__ import annotations

import itertools
import random

import numpy as np
import pytest

from metrolex.acts.proving import observe
from metrolex.faults import catalogue
from metrolex.faults.classes import columns_of, noticed_by
from metrolex.faults.probes import probe_of
from metrolex.jobfile import EXAMPLES
from metrolex.proving import judge_all, least_set
from metrolex.proving.least_set import cover
from metrolex.twin import build
from metrolex.twin.expectations import expect_at, passing, points_to_test
from tests.jobs import shipped, small_job

ALLOW = ("volts", "shown", "ohms")


def cheapest(notices, takes):
    """Every set of rows tried."""
    some, best = notices.any(axis=0), np.inf
    for size in range(len(takes) + 1):
        for rows in itertools.combinations(range(len(takes)), size):
            cost = takes[list(rows)].sum()
            if cost < best and (notices[list(rows)].any(axis=0) == some).all():
                best = cost
    return best


@pytest.mark.parametrize("seed", range(6))
def test_no_set_is_cheaper(seed):
    draw = random.Random(seed)
    notices = np.array([[draw.random() < 0.3 for _ in range(14)] for _ in range(10)])
    takes = np.array([draw.choice([0.5, 2.0, 3.0]) for _ in range(10)])
    chosen, at_least = cover(notices, takes)
    assert (notices[chosen].any(axis=0) == notices.any(axis=0)).all()
    assert takes[chosen].sum() == pytest.approx(cheapest(notices, takes)) == pytest.approx(at_least)


def test_nothing_to_notice_needs_no_test():
    assert cover(np.zeros((3, 4), dtype=bool), np.ones(3)) == ([], 0.0)
    assert least_set(build(small_job()), allow=()).unnoticed == tuple(
        range(len(catalogue(build(small_job()))))
    )


@pytest.mark.thorough
@pytest.mark.parametrize("name", EXAMPLES)
def test_the_set_notices_all_that_any_test_notices_and_proves_its_price(name):
    network = build(shipped(name))
    found = least_set(network)
    every = np.array([noticed_by(column) for column in columns_of(network, ALLOW)]).any(axis=0)
    mine = {place for test in found.tests for place in test.notices}
    assert mine == set(np.flatnonzero(every))
    assert set(found.unnoticed) == set(np.flatnonzero(~every))
    assert found.minutes == pytest.approx(sum(test.minutes for test in found.tests))
    assert found.minutes <= 1.05 * found.at_least + 1e-6
    assert len(mine) > 0.75 * len(every)


def test_a_sound_job_is_inside_every_band_and_dearer_tests_are_left():
    network = build(small_job())
    found = least_set(network)
    for test in found.tests:
        expected = test.column.expected
        assert expected.value is None or expected.band > 0
    dear = least_set(network, minutes={"volts": 50.0, "shown": 0.1, "ohms": 50.0, "action": 50.0})
    shown = [sum(test.column.probe.kind == "shown" for test in one.tests) for one in (found, dear)]
    assert shown[1] >= shown[0]


@pytest.mark.parametrize("name", EXAMPLES)
def test_every_test_that_is_enough_can_be_passed_and_fails_on_what_it_is_said_to_notice(name):
    """Each test of the set tried both ways, written down and judged as on the sheet: a sound job passes, each fault it notices does not."""
    network = build(shipped(name))
    job = network.job
    points = {probe_of(point): point for point in points_to_test(network)}
    for test in least_set(network, on_the_sheet=True).tests:
        point, state = points[test.column.probe], test.column.state
        good = passing(expect_at(network, state, point))
        assert good is not None, point.name
        tried = {False: [good], True: [test.column.found(place) for place in test.notices]}
        for noticed, readings in tried.items():
            for reading in readings:
                text = reading if isinstance(reading, str) else f"{reading:.6f}"
                after = observe(job, point.test.key, state, text, "2026-11-29")
                (judged,) = [
                    one for one in judge_all(build(after)) if one.observation == after.observations[-1]
                ]
                assert (judged.verdict != "as expected") == noticed, (point.name, state.words(), text)
