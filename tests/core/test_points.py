"""Operating points: what is there, what the faces show, the cold start by the minute."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts.points import set_points
from metrolex.check import find_all
from metrolex.errors import BadInput
from metrolex.intake import dump, read
from metrolex.job import ENGINE_WORDS, RUNNING_POINTS, Channel, Job, State, TruePoint
from metrolex.jobfile import EXAMPLES
from metrolex.kit import measurands
from metrolex.quantities import in_unit
from metrolex.twin import build, solve
from metrolex.twin.faces import faces_at_points
from metrolex.twin.run import true_values
from metrolex.twin.warm_up import MINUTES, warm_up
from tests.jobs import shipped, van


@pytest.mark.parametrize("facts", measurands(), ids=lambda facts: facts.id)
def test_every_measurand_has_a_value_at_every_point_or_none_at_all(facts):
    channel = Channel("c", facts.name, facts.id, facts.unit, None, facts.true_stopped, facts.true_running)
    values = [channel.true(point) for point in ENGINE_WORDS]
    assert len({value is None for value in values}) == 1


def test_what_is_usual_is_the_same_in_any_unit():
    """Full load: six kelvin over the thermostat, whatever the gauge's unit: 96 degC are 204.8 degF."""
    celsius = Channel("c", "Coolant", "coolant_temperature", "degC", None, 20.0, 90.0)
    fahrenheit = Channel("c", "Coolant", "coolant_temperature", "degF", None, 68.0, 194.0)
    for point in ENGINE_WORDS:
        assert in_unit(celsius.true(point), "degC", "degF") == pytest.approx(fahrenheit.true(point), abs=0.6)
    assert fahrenheit.true("full load") == pytest.approx(204.8, abs=0.5)


def test_what_was_said_counts_before_what_is_usual():
    job = set_points(van(), "coolant", {"full load": 99.0, "running": 88.0})
    state = State("run", "off", "full load")
    assert true_values(job, state)["coolant"] == 99.0
    assert job.chain("coolant").true_running == 88.0
    assert true_values(van(), state)["coolant"] == 96.0
    unsaid = set_points(job, "coolant", {"full load": None})
    assert unsaid.chain("coolant").true_at == ()
    with pytest.raises(BadInput):
        set_points(job, "coolant", {"flat out": 99.0})


def test_each_point_stands_once():
    with pytest.raises(BadInput):
        Channel("c", "C", "boost", "bar", true_at=(TruePoint("cruise", 1.0), TruePoint("cruise", 2.0)))
    with pytest.raises(BadInput):
        Channel("c", "C", "boost", "bar", true_at=(TruePoint("running", 1.0),))
    job = set_points(van(), "coolant", {"cruise": 91.0})
    assert read(Job, dump(job)) == job


@pytest.mark.parametrize("point", ENGINE_WORDS)
def test_the_alternator_charges_at_every_point_the_engine_runs(point):
    job = van()
    volts = solve(build(job), State("run", "off", point)).true
    charging = solve(build(job), State("run", "off", point)).state.running
    assert charging == (point in RUNNING_POINTS)
    assert not solve(build(job), State("off", "off", point)).state.running
    assert set(volts) == {c.id for c in job.channels if c.true(point) is not None}


@pytest.mark.parametrize("name", EXAMPLES)
@pytest.mark.parametrize("point", ENGINE_WORDS)
def test_what_our_own_table_says_is_no_finding(name, point):
    job = shipped(name)
    found = {(f.code, f.subject) for f in find_all(build(job), solve(build(job), State("run", "off", point)))}
    at_rest = {(f.code, f.subject) for f in find_all(build(job), solve(build(job), State("run")))}
    warm = {
        (f.code, f.subject) for f in find_all(build(job), solve(build(job), State("run", "off", "running")))
    }
    assert found <= at_rest | warm


def test_the_cold_start_ends_where_the_warm_idle_is():
    """First-order lag, by hand: after one time constant 63.2 % of the way (coolant, 4 min: 20 + 0.632 * 70 = 64.2)."""
    network = build(van())
    found = {one.channel: one for one in warm_up(network)}
    coolant = found["coolant"]
    assert coolant.true[MINUTES.index(4.0)] == pytest.approx(64.25, abs=0.05)
    assert coolant.shown[-1].value == pytest.approx(
        faces_at_points(network)["running"]["coolant"].value, abs=1
    )
    assert coolant.warm_min == pytest.approx(9.2, abs=0.1)
    order = [one.channel for one in warm_up(network)]
    assert order.index("coolant") < order.index("gearbox")


def test_a_job_without_temperatures_has_no_cold_start():
    job = van()
    bare = replace(
        job, channels=tuple(c for c in job.channels if c.measurand == "supply_voltage"), readouts=()
    )
    assert warm_up(build(bare)) == ()
