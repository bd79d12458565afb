"""The steps of a job, and the order they come to: what must hold on every example."""

from __future__ import annotations

import pytest

from metrolex.acts.channels import add_channel
from metrolex.job import Job
from metrolex.jobfile import EXAMPLES
from metrolex.twin import build
from metrolex.twin.left_alone import tap_left_alone
from metrolex.workorder import order_steps
from metrolex.workorder.plan import plan_of_work
from metrolex.workorder.planned import states_at_work
from metrolex.workorder.recipes import steps_of
from metrolex.workorder.step import ended_by
from metrolex.workorder.unplanned import unplanned
from tests.jobs import a_vehicle, shipped


@pytest.fixture(scope="module", params=EXAMPLES)
def ordered(request):
    job = shipped(request.param)
    planned = steps_of(build(job))
    return job, planned, order_steps([one.step for one in planned])


def test_every_part_has_its_steps(ordered):
    job, planned, _ = ordered
    of_kind = {}
    for one in planned:
        of_kind.setdefault(one.kind, []).append(one.part)
    network = build(job)
    alone = [tap.id for tap in job.taps if tap_left_alone(network, tap)]
    assert of_kind.get("other_feed", []) == alone
    assert of_kind.get("tap", []) == [tap.id for tap in job.taps if tap.circuit and tap.id not in alone]
    assert of_kind["mount"] == of_kind["plug_in"] == [display.id for display in job.displays]
    assert of_kind.get("ground", []) == [point.id for point in job.grounds]
    fitted = [c.channel for c in job.measured if c.sender and c.port and not job.sender(c.sender).rides]
    assert set(of_kind.get("fit", [])) <= set(fitted)
    assert all(one.step.minutes > 0 for one in planned)


def test_needs_name_states_and_steps_that_are_there(ordered):
    _, planned, _ = ordered
    names, states = {one.step.name for one in planned}, set(states_at_work())
    for one in planned:
        for need in one.step.needs:
            assert need in names or (ended_by(need) or need) in states, (one.step.name, need)


def test_the_vehicle_is_taken_apart_once(ordered):
    """No state is entered a second time: the battery goes off after the feeds are found and comes on for good before the set-up."""
    _, _, found = ordered
    assert found.proved
    assert set(found.setups.values()) <= {0, 1}
    assert found.at_least == pytest.approx(found.total_min)


def test_no_joint_is_made_live_and_fuses_come_last(ordered):
    _, planned, found = ordered
    kind = {one.step.name: one.kind for one in planned}
    order = [kind[one.step.name] for one in found.sequence]
    power = order.index("fuses") if "fuses" in order else len(order)
    for wired in ("tap", "join", "plug_in", "ground", "mount"):
        assert all(i < power for i, one in enumerate(order) if one == wired), wired
    assert order.index("find_feeds") < min(i for i, one in enumerate(order) if one == "tap")
    if "prove_engine_running" in order and "refill" in order:
        assert max(i for i, one in enumerate(order) if one == "refill") < order.index("prove_engine_running")


def test_what_hurts_says_so_at_its_step(ordered):
    _, planned, _ = ordered
    for one in planned:
        if one.kind in ("hole", "tap", "mount", "fuses", "prove_engine_running"):
            assert one.caution


@pytest.mark.parametrize("name", [None, *EXAMPLES])
def test_nothing_is_set_up_or_proved_before_it_is_in(name):
    """Also of a job that has a gauge and nothing else planned yet."""
    job = shipped(name) if name else add_channel(Job("New", a_vehicle()), "coolant_temperature")
    plan = plan_of_work(build(job))
    at = {plan.by_name[one.step.name].key: place for place, one in enumerate(plan.ordered.sequence)}
    assert any(key.startswith("set_up ") for key in at)
    for key, place in at.items():
        kind, _, part = key.partition(" ")
        for earlier in ("mount", "join", "plug_in"):
            if kind == "set_up":
                assert at.get(f"{earlier} {part}", -1) < place
        if kind.startswith("prove_") and kind != "prove_battery_off":
            assert all(
                at[other] < place for other in at if other.startswith(("mount ", "plug_in ", "plug_sender "))
            )
        if kind == "trim_back":
            assert all(at[other] < place for other in at if other.startswith(("lay ", "join ", "mount ")))


def test_what_is_not_planned_yet_is_said():
    job = add_channel(Job("New", a_vehicle()), "coolant_temperature")
    words = unplanned(job)
    assert "the feeds" in words
    assert any(word.startswith("the wires of") for word in words)
    said = {name: unplanned(shipped(name)) for name in EXAMPLES}
    assert said == dict.fromkeys(EXAMPLES, ()) | {
        "van": ("the place of Oil pressure",)
    }  # it has none chosen yet


def test_a_job_with_nothing_planned_has_nothing_to_do():
    assert steps_of(build(Job("New", a_vehicle()))) == ()
    assert order_steps([]).sequence == ()
