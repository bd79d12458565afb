"""What the owner is told: the band against drawing it, factors by hand, tools and parts by step, ways fitters differ in."""

from __future__ import annotations

import datetime
import itertools
import random
import statistics
from dataclasses import replace

import numpy as np
import pytest

from metrolex.acts.brief import set_kit
from metrolex.acts.work import (
    add_maintenance,
    choose_school,
    have_tool,
    note_step,
    offered_maintenance,
    set_hours,
)
from metrolex.brief.shopping import shopping_list
from metrolex.errors import BadInput
from metrolex.job import Worked
from metrolex.jobfile import EXAMPLES
from metrolex.twin import build
from metrolex.workorder import Step, order_steps
from metrolex.workorder.compare import compared, critical_path_min, gauge_after_gauge, hands_on_min
from metrolex.workorder.goods import needed_before, spanners, tools_of
from metrolex.workorder.greedy import greedy_order
from metrolex.workorder.needs import needs_of
from metrolex.workorder.plan import plan_of_work
from metrolex.workorder.quote import learned_factors, quote_of, spread_of
from metrolex.workorder.sheet import sheet_of_work
from metrolex.workorder.tidy import Work, timed
from tests.core.test_order import drawn
from tests.jobs import shipped


def example(name="van"):
    return shipped(name)


def test_the_band_against_jobs_drawn():
    """Three-point steps drawn as PERT betas (low, 1, high), a common part by a shared normal: 80 of 100 sums lie in the band, give or take."""
    planned = plan_of_work(build(example())).planned
    low, likely, high = spread_of(planned)
    rng = np.random.default_rng(1)
    sums = np.zeros(4000)
    common = rng.standard_normal(4000)
    for one in planned:
        a, m, b = (one.step.minutes * share for share in (one.low, 1.0, one.high))
        if b <= a:
            sums += m
            continue
        mean, sd = (a + 4 * m + b) / 6, (b - a) / 6
        own = rng.beta(1 + 4 * (m - a) / (b - a), 1 + 4 * (b - m) / (b - a), 4000) * (b - a) + a
        sums += mean + sd * np.sqrt(0.3) * common + np.sqrt(0.7) * (own - own.mean())
    assert likely == pytest.approx(sums.mean(), rel=0.01)
    inside = ((sums > low) & (sums < high)).mean()
    assert 0.74 < inside < 0.86


def test_lines_of_a_quote_add_up_and_a_margin_is_on_top():
    job = example()
    network = build(job)
    quote = quote_of(network)
    plan = plan_of_work(network)
    usual = (
        sum(one.step.minutes for one in plan.planned) + 45
    )  # five states entered: 15 + 5 + 0 + 10 + 15 min
    assert sum(line.minutes for line in quote.lines) == pytest.approx(usual)
    assert quote.low_h < quote.likely_h < quote.high_h
    more = quote_of(build(set_hours(job, {"margin": 20.0})))
    assert more.likely_h == pytest.approx(1.2 * quote.likely_h)
    assert quote.labour is None
    rated = quote_of(build(replace(job, brief=replace(job.brief, rate_per_h=60.0))))
    assert rated.labour[1] == pytest.approx(60 * quote.likely_h)


def test_a_factor_is_the_median_of_the_last_ten():
    rng = random.Random(2)
    worked = [
        Worked(f"K{i}", f"lay run {i}", "done", minutes=20.0 * rng.uniform(0.8, 2.0), usual=20.0)
        for i in range(14)
    ]
    worked += [Worked("a", "tap T1", "done", minutes=24.0, usual=12.0)] * 2
    worked += [Worked("b", "mount gauge", "could not", minutes=9.0, usual=9.0, why="x")] * 5
    found = dict(learned_factors(worked))
    by_hand = statistics.median(one.minutes / 20.0 for one in worked[4:14])
    assert found == {"lay": pytest.approx(by_hand, abs=0.005)}


def test_factors_turn_the_minutes_of_the_next_job():
    network = build(example())
    usual = {one.key: one.step.minutes for one in plan_of_work(network).planned}
    turned = {one.key: one.step.minutes for one in plan_of_work(network, (("lay", 1.5),)).planned}
    for key, minutes in turned.items():
        share = 1.5 if key.startswith("lay ") else 1.0
        assert minutes == pytest.approx(share * usual[key], abs=0.06)


@pytest.mark.parametrize("name", EXAMPLES)
def test_what_is_to_be_got_stands_before_a_step_that_is_there(name):
    job = example(name)
    rows = [(row.number, row.planned) for row in sheet_of_work(build(job)).rows]
    names = {number: one.step.name for number, one in rows}
    needed = needed_before(job, rows)
    to_buy = {item.name for item in shopping_list(job) if item.buy and item.group != "tools"}
    assert {one.name for one in needed if one.item} == to_buy
    assert all(names[one.before] == one.step for one in needed)
    assert list(needed) == sorted(needed, key=lambda one: one.before)


def test_a_part_is_wanted_where_it_goes_in():
    job = example()
    rows = [(row.number, row.planned) for row in sheet_of_work(build(job)).rows]
    at = {one.key: number for number, one in rows}
    by_name = {one.name: one.before for one in needed_before(job, rows)}
    assert by_name["Battery gauge"] == at["mount gauge 4"]
    assert by_name["NTC, two wires, 1/8-27 NPT"] == at["fit gearbox"]
    assert by_name["Coolant"] in (at["open coolant"], at["refill coolant"])


def test_a_tool_at_hand_is_not_to_borrow():
    job = example()
    rows = [(row.number, row.planned) for row in sheet_of_work(build(job)).rows]
    tools = {one.name: one for one in tools_of(job, rows)}
    assert {"meter", "drill", "jack", "goggles"} <= set(tools)
    assert not any(tool.at_hand for tool in tools.values())
    assert 19.0 in spanners(tools.values())
    there = have_tool(job, "drill", have=True)
    assert next(one for one in tools_of(there, rows) if one.name == "drill").at_hand
    assert have_tool(there, "drill", have=False) == job
    with pytest.raises(BadInput):
        have_tool(job, "time machine", have=True)


def test_a_tool_with_a_price_keeps_it():
    job = example()
    tool = next(item for item in shopping_list(job) if item.group == "tools")
    priced = set_kit(job, tool.key, 0.0, 12.5)
    plain = next(
        t for one in plan_of_work(build(job)).planned for t in one.tools if t.lower() == tool.name.lower()
    )
    there = have_tool(priced, plain, have=True)
    assert next(item for item in there.kit if item.id == tool.key).price == 12.5
    assert have_tool(there, plain, have=False).kit == priced.kit


@pytest.mark.parametrize("name", EXAMPLES)
@pytest.mark.parametrize(("school", "way"), [("loom", "bench"), ("battery", "first"), ("try_in", "first")])
def test_every_way_has_an_order(name, school, way):
    job = choose_school(example(name), school, way)
    plan = plan_of_work(build(job))
    assert plan.ordered.proved
    at = {plan.by_name[one.step.name].key: place for place, one in enumerate(plan.ordered.sequence)}
    for one in plan.planned:
        if way == "bench" and one.kind == "lay":
            assert all(at[key] < at[one.key] for key in at if key.startswith("join "))
        if school == "battery" and one.kind in ("open", "lay"):
            assert at["find_feeds feeds"] < at[one.key]
        if school == "try_in" and one.kind in ("hole", "mount"):
            assert all(at[key] < at[one.key] for key in at if key.startswith("try_in "))
    assert (school == "try_in") == any(one.kind == "try_in" for one in plan.planned)


def test_no_such_way_is_refused():
    for school, way in (("loom", "words"), ("loom", "elsewhere"), ("soup", "bench")):
        with pytest.raises(BadInput):
            choose_school(example(), school, way)


def test_what_is_due_joins_the_teardown_and_enters_nothing_more():
    job = example()
    offered = [one.name for one in offered_maintenance(job)]
    assert any("weeps" in name for name in offered)
    before = plan_of_work(build(job)).ordered.setups
    for name in offered:
        job = add_maintenance(job, name)
    assert offered_maintenance(job) == ()
    assert plan_of_work(build(job)).ordered.setups == before
    with pytest.raises(BadInput):
        add_maintenance(job, offered[0])


@pytest.mark.parametrize("name", EXAMPLES)
def test_no_order_is_shorter_than_its_bounds_and_gauge_after_gauge_is_no_better(name):
    network = build(example(name))
    plan = plan_of_work(network)
    steps = [one.step for one in plan.planned]
    at = {step.name: i for i, step in enumerate(steps)}
    best = compared(steps, [at[one.step.name] for one in plan.ordered.sequence if one.step.hands])
    naive = gauge_after_gauge(network, plan)
    least = max(critical_path_min(steps), hands_on_min(steps))
    assert best.total_min - best.entering_min >= least - 0.1  # a step is counted in twelfths of a minute
    assert best.total_min - best.entering_min <= 1.01 * least
    assert naive.entries > best.entries
    assert naive.total_min > best.total_min


def test_a_critical_path_by_hand():
    steps = [
        Step("a", 10, wait_minutes=30),
        Step("b", 5, ("a",)),
        Step("c", 20),
        Step("d", 7, ("b", "c")),
    ]
    assert critical_path_min(steps) == 10 + 30 + 5 + 7
    assert hands_on_min(steps) == 42


@pytest.mark.parametrize("seed", range(12))
def test_an_order_at_once_keeps_every_need(seed):
    steps = drawn(seed, 25)
    needs = needs_of(steps)
    hands = [bool(step.hands) for step in steps]
    takes, waits = [round(12 * s.minutes) for s in steps], [round(12 * s.wait_minutes) for s in steps]
    work = Work(needs, hands, takes, waits)
    order = greedy_order(work)
    assert sorted(order) == [i for i, hand in enumerate(hands) if hand]
    assert timed(work, order) is not None


@pytest.mark.parametrize("seed", range(6))
def test_from_a_state_that_holds_no_order_is_better(seed):
    """Every order tried, the state holding at the beginning."""
    steps = [step for step in drawn(seed, 7) if step.hands][:6]
    names = {step.name for step in steps}
    steps = [replace(s, needs=tuple(n for n in s.needs if "step" not in n or n in names)) for s in steps]
    found = order_steps(steps, holds=frozenset({"battery off"}))
    best = min(
        tried
        for order in itertools.permutations(range(len(steps)))
        if (tried := by_hand(steps, order, {"battery off"})) is not None
    )
    assert (sum(found.setups.values()), found.total_min) == pytest.approx(best)


def by_hand(steps, order, holds):
    held, entries, ended, now = set(holds), 0, {}, 0.0
    for i in order:
        step, ready = steps[i], now
        for need in step.needs:
            if need.startswith("step"):
                if need not in ended:
                    return None
                ready = max(ready, ended[need])
            elif need.startswith("not "):
                held.discard(need[4:])
            elif need not in held:
                held.add(need)
                entries += 1
        now = ready + step.minutes
        ended[step.name] = now + step.wait_minutes
    return entries, now


def test_two_people_are_called_once_where_it_costs_nothing():
    steps = [
        Step("a", 10, hands=2),
        Step("b", 10),
        Step("c", 10, ("b",), hands=2),
        Step("d", 10),
        Step("e", 10, hands=2),
    ]
    found = [one.step.hands == 2 for one in order_steps(steps).sequence]
    assert sum(two and (i == 0 or not found[i - 1]) for i, two in enumerate(found)) == 1


def test_a_job_worked_gives_the_next_one_its_factors():
    job, at = example(), datetime.datetime(2026, 11, 30, 9, tzinfo=datetime.UTC)
    runs = [one.part for one in plan_of_work(build(job)).planned if one.kind == "lay"]
    for run, minutes in zip(runs, ("60", "50", "55", "20"), strict=True):
        job = note_step(job, f"lay {run}", minutes, at)
    factors = dict(learned_factors(job.work))
    by_hand = statistics.median(one.minutes / one.usual for one in job.work)
    assert factors == {"lay": pytest.approx(by_hand, abs=0.01)}
