"""The proving plan: phases, the tests that are enough, checks with hand and eye, what is written down of them."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace

import numpy as np
import pytest

from metrolex.acts import proving as acts
from metrolex.errors import BadInput
from metrolex.job import BATTERY_POSTS, Job, State
from metrolex.jobfile import EXAMPLES, job_from_text, job_to_text
from metrolex.proving import checks_of, enough_of, phase_of, phases, plan_of
from metrolex.senders import x_at
from metrolex.twin import build
from metrolex.twin.expectations import expect_at, points_at, states_of
from metrolex.twin.left_alone import tap_left_alone
from metrolex.twin.load_test import feeds_for_lamp, load_test
from tests.big import full_job
from tests.jobs import a_vehicle, shipped

DAY = "2026-11-29"


def check_called(job: Job, key: str):
    return next(one for one in checks_of(build(job)) if one.ref.key == key)


@pytest.mark.parametrize("name", EXAMPLES)
def test_every_test_of_the_sheet_has_its_phase_and_phases_come_in_order(name: str) -> None:
    job = shipped(name)
    network, order = build(job), [phase.key for phase in phases()]
    met = [phase_of(job, state, p) for state in states_of(job) for p in points_at(network, state)]
    assert set(met) <= set(order)
    assert ("battery_off" in met) == any(p.kind == "ohms" for p in points_at(network, State("off")))
    assert phase_of(job, State("run", "head")) == "lamps"
    assert [phase_of(job, s) for s in (State("off"), State("acc"), State("crank"))] == [
        "first_power",
        "accessory",
        "crank",
    ]


@pytest.mark.thorough
@pytest.mark.parametrize("name", EXAMPLES)
def test_what_is_enough_and_what_escapes_are_all_the_faults(name: str) -> None:
    enough = enough_of(build(shipped(name)))
    assert enough.noticed + len(enough.further) + len(enough.driving) + len(enough.never) == enough.faults
    assert enough.minutes == sum(one.minutes for one in enough.tests)
    assert enough.at_least <= enough.minutes + 1e-9 <= 1.05 * enough.at_least + 1e-6


@pytest.mark.thorough
@pytest.mark.parametrize("name", EXAMPLES)
def test_each_needed_test_stands_in_one_phase(name: str) -> None:
    network = build(shipped(name))
    planned = Counter((one.state, one.point.test) for phase in plan_of(network) for one in phase.tests)
    extra = set(planned) - enough_of(network).wanted
    assert enough_of(network).wanted <= set(planned)
    assert {test for _, test in extra} <= {BATTERY_POSTS}
    assert set(planned.values()) <= {1}


def test_boiling_water_shows_what_table_and_curve_make_of_it() -> None:
    """By hand: ohms of the sender's own curve at 100 degC, then straight between the rows of the display's table."""
    job = shipped("van")
    check = check_called(job, "run|boiling|gearbox")
    sender, chain = job.sender("gearbox sender"), job.chain("gearbox")
    ohm = float(x_at(sender.curve, 100.0))
    x, y = np.array(chain.scaling.table).T
    assert check.finds.value == pytest.approx(float(np.interp(ohm, x, y)), abs=1.0)
    assert check.finds.low <= 100.0 <= check.finds.high


def test_unplugged_and_grounded_go_where_an_input_of_ohms_goes() -> None:
    """An open pull-up input stands at its reference, a grounded one at nought: this display shows dashes at both ends."""
    job = shipped("van")
    assert check_called(job, "run|unplug|coolant sender").finds.words == "Coolant shows dashes"
    assert check_called(job, "run|ground|coolant sender").finds.words == "Coolant shows dashes"
    volts = check_called(job, "run|unplug|oil pressure sender").finds
    assert volts.value == 0.0
    assert "run|ground|oil pressure sender" not in {one.ref.key for one in checks_of(build(job))}


def test_the_standing_current_is_what_the_memories_draw() -> None:
    """Resistive loads at their nominal 12 V, with a rested battery of 12.58 V on them."""
    job = shipped("van")
    found = [one for one in checks_of(build(job)) if one.ref.kind == "standing"]
    drawn = sum(
        pin.load_a
        for display in job.displays
        for pin in display.pins
        if pin.role == "memory" and display.id != "gauge 3"  # it hangs on a circuit that is left alone
    )
    assert sum(one.finds.value for one in found) == pytest.approx(1000 * 12.58 / 12 * drawn, rel=0.02)
    assert all(one.finds.holds(one.finds.value) and not one.finds.holds(100.0) for one in found)


def test_a_lamp_that_is_new_is_off_by_itself() -> None:
    job = shipped("van")
    assert check_called(job, "warm|lamps|").result == ""
    looked = replace(job, survey=replace(job.survey, lamps_after=("Oil lamp",)))
    assert check_called(looked, "warm|lamps|").result == "off"
    clean = replace(job, survey=replace(job.survey, lamps_after=()))
    assert check_called(clean, "warm|lamps|").result == "good"


@pytest.mark.parametrize(
    ("typed", "result", "value", "why"),
    [
        ("ok", "good", None, ""),
        ("Off: gauge 3", "off", None, "gauge 3"),
        ("OL", "good", None, ""),
        ("2,2 k", "off", 2200.0, ""),
        ("1 M", "good", 1e6, ""),
        ("not done: fuse box sealed", "not done", None, "fuse box sealed"),
    ],
)
def test_a_check_is_written_down_as_typed(typed: str, result: str, value: float | None, why: str) -> None:
    job = acts.check_off(shipped("van"), "battery_off|short|T1", typed, DAY)
    (written,) = job.checks
    assert (written.result, written.value, written.why, written.seen) == (result, value, why, DAY)
    assert job_from_text(job_to_text(job)) == job
    assert acts.check_off(job, "battery_off|short|T1", " ", DAY).checks == ()
    assert acts.check_off(job, "battery_off|short|T1", typed, DAY) is job


@pytest.mark.parametrize("typed", ["not done", "not done: ", "perhaps", "12 V"])
def test_a_check_that_cannot_be_meant_is_refused(typed: str) -> None:
    with pytest.raises(BadInput) as refused:
        acts.check_off(shipped("van"), "battery_off|short|T1", typed, DAY)
    assert refused.value.field == "seen"
    with pytest.raises(BadInput, match="not there any more"):
        acts.check_off(shipped("van"), "battery_off|short|T99", "ok", DAY)


def test_a_test_not_done_says_why_and_gives_way_to_a_reading() -> None:
    job = shipped("van")
    state, test = State("crank"), enough_of(build(job)).tests[-1].point.test
    left = acts.observe(job, test.key, state, "not done: no helper", DAY)
    (one,) = left.left_out
    assert (one.test, one.state, one.why) == (test, state, "no helper")
    assert acts.observe(left, test.key, state, "", DAY).left_out == ()
    seen = acts.observe(left, test.key, state, "dark", DAY)
    assert seen.left_out == ()
    assert len(seen.observations) == len(job.observations) + 1
    again = acts.observe(seen, test.key, state, "not done, no helper", DAY)
    assert len(again.observations) == len(job.observations)
    with pytest.raises(BadInput, match="Say why"):
        acts.observe(job, test.key, state, "not done", DAY)


@pytest.mark.thorough
@pytest.mark.parametrize("key", ["battery_off", "first_power"])
def test_a_phase_is_done_when_its_tests_and_checks_are(key) -> None:
    job = shipped("van")
    network = build(job)
    phase = next(one for one in plan_of(network) if one.phase.key == key)
    assert phase.open
    assert phase.minutes > 0
    for planned in phase.checks:
        job = acts.check_off(job, planned.check.ref.key, "ok", DAY)
    job = acts.check_off(job, phase.checks[0].check.ref.key, "not done: no meter", DAY)
    still = [planned for planned in phase.tests if planned.stands == "open"]
    assert bool(still) == (key == "first_power")
    for planned in still:
        found = expect_at(network, planned.state, planned.point).value
        job = acts.observe(job, planned.point.test.key, planned.state, f"{found}", DAY)
    phase = next(one for one in plan_of(build(job)) if one.phase.key == key)
    assert (phase.open, phase.off, phase.not_done, phase.minutes) == (0, 0, 1, 0)


def test_a_job_of_nothing_has_a_plan_of_nothing() -> None:
    plan = plan_of(build(Job("New", a_vehicle())))
    assert {t.point.test.kind for one in plan for t in one.tests} <= {"battery"}
    assert {one.check.ref.kind for phase in plan for one in phase.checks} <= {"lamps"}


@pytest.mark.parametrize("name", EXAMPLES)
def test_the_lamp_at_the_plug_tells_a_poor_joint_on_either_side(name: str) -> None:
    """2 ohm more in the feed or the ground of the display, solved again: the lamp falls below what is asked, a meter hardly moves."""
    network = build(shipped(name))
    found = [one for one in checks_of(network) if one.ref.kind == "load"]
    assert found
    for check in found:
        display = network.job.display(check.ref.on)
        pin = display.pin_for("ignition")
        watts = float(check.do.split(" of ")[1].split(" W")[0])
        good, *poor = load_test(network, State("run"), f"pin|{display.id}|{pin.id}", "", watts).legs
        assert check.finds.holds(good.lamp.volts)
        assert len(poor) == 2
        for leg in poor:
            assert not check.finds.holds(leg.lamp.volts)


def test_an_added_fuse_pulled_darkens_what_hangs_on_it() -> None:
    job = shipped("van")
    check = check_called(job, "run|pulled|T2")
    assert check.finds.words == "gauge 1, gauge 2, gauge 3, gauge 4 dark, nothing else"
    assert "run|pulled|T1" not in {one.ref.key for one in checks_of(build(job))}


def test_nothing_is_done_at_a_circuit_that_is_left_alone() -> None:
    """The van's tap T4 sits in belts and airbag, a stop until it is moved: no check measures, loads or pulls there."""
    network = build(shipped("van"))
    assert [tap.id for tap in network.job.taps if tap_left_alone(network, tap)] == ["T4"]
    for check in checks_of(network):
        assert "T4" not in check.ref.on
        assert "T4" not in check.do
    places = {place.key for place in feeds_for_lamp(network)}
    assert "circuit|F9" not in places
    assert "pin|gauge 3|1" not in places
    assert "pin|gauge 3|2" in places


def test_a_job_at_its_limits_has_its_plan_at_once():
    """So many parts that no least set is chosen and the twin is not asked one by one: the whole sheet, and each check in words."""
    network = build(full_job(0))
    enough = enough_of(network)
    assert not enough.chosen
    assert len(enough.tests) > 1000
    run = next(phase for phase in plan_of(network) if phase.phase.key == "run")
    asked = [one.check for one in run.checks if one.check.ref.kind in ("load", "pulled", "unplug", "ground")]
    assert len(asked) > 80
    assert all(one.finds.words and one.finds.low is None for one in asked)
