"""The work as it stands: begun, paused, done, resting, held up; the rest anew from any moment; small edits move few steps."""

from __future__ import annotations

import datetime
import random
import zoneinfo
from dataclasses import replace

import pytest

from metrolex.acts.work import (
    alter_step,
    note_step,
    remove_own_step,
    set_own_step,
)
from metrolex.errors import BadInput
from metrolex.jobfile import EXAMPLES
from metrolex.twin import build
from metrolex.workorder.left import days_left
from metrolex.workorder.noted import read_worked, written
from metrolex.workorder.plan import plan_of_work
from metrolex.workorder.replan import rest_of, states_after
from metrolex.workorder.sheet import row_of_step, sheet_of_work, turns_of_work
from metrolex.workorder.step import ended_by
from tests.jobs import shipped

AT = datetime.datetime(2026, 11, 30, 10, 0, tzinfo=datetime.UTC)
MINUTE = datetime.timedelta(minutes=1)


def example(name="van"):
    return shipped(name)


def standing(job, at=AT):
    return {row.planned.key: row for row in sheet_of_work(build(job), at).rows}


def of_step(job, step):
    return next(one for one in job.work if one.step == step)


def test_a_step_begun_paused_and_gone_on_with_counts_its_minutes():
    job = note_step(example(), "find_feeds feeds", "start", AT)
    assert standing(job)["find_feeds feeds"].stands == "begun"
    job = note_step(job, "find_feeds feeds", "pause", AT + 12 * MINUTE)
    assert standing(job)["find_feeds feeds"].stands == "paused"
    job = note_step(job, "find_feeds feeds", "start", AT + 60 * MINUTE)
    job = note_step(job, "find_feeds feeds", "done", AT + 75 * MINUTE)
    done = of_step(job, "find_feeds feeds")
    assert (done.state, done.minutes, done.usual) == ("done", 27.0, 28.0)
    assert done.ended == "2026-11-30T11:15+00:00"


def test_a_night_between_is_not_worked():
    job = note_step(
        example(), "find_feeds feeds", "start", datetime.datetime(2026, 11, 30, 16, 50, tzinfo=datetime.UTC)
    )
    job = note_step(
        job, "find_feeds feeds", "done", datetime.datetime(2026, 12, 1, 8, 5, tzinfo=datetime.UTC)
    )
    assert of_step(job, "find_feeds feeds").minutes == 15.0


def test_a_clock_set_back_takes_no_minutes_away():
    job = note_step(example(), "find_feeds feeds", "start", AT)
    job = note_step(job, "find_feeds feeds", "done", AT - 50 * MINUTE, over=True)
    assert of_step(job, "find_feeds feeds").minutes == 0.0


def test_done_twice_stays_as_it_was_first():
    job = note_step(example(), "mount gauge 1", "31", AT)
    assert note_step(job, "mount gauge 1", "done", AT + 5 * MINUTE) is job
    assert note_step(job, "mount gauge 1", "31", AT + 5 * MINUTE) is job


def test_what_cures_is_waited_for_until_it_has_rested():
    job = example()
    plan = plan_of_work(build(job))
    glued = next(one for one in plan.planned if one.step.wait_minutes)
    for one in plan.planned:
        if glued.step.name in one.step.needs:
            job = note_step(job, one.key, "", AT)
    job = note_step(job, glued.key, "done", AT)
    rows = standing(job, AT + 10 * MINUTE)
    waiting = [key for key, row in rows.items() if row.stands == "waits"]
    assert rows[glued.key].stands == "rests"
    assert rows[glued.key].rests_until == AT + glued.step.wait_minutes * MINUTE
    assert waiting
    assert sheet_of_work(build(job), AT + 10 * MINUTE).now.planned.key not in waiting
    later = standing(job, AT + (glued.step.wait_minutes + 1) * MINUTE)
    assert later[glued.key].stands == "done"
    assert all(later[key].stands == "open" for key in waiting)


def test_the_bung_comes_tomorrow():
    """What hangs on it waits, all else goes on, and what it costs is the battery off once more and no more."""
    job = note_step(example(), "fit coolant", "could not until tomorrow: the bung comes", AT)
    assert of_step(job, "fit coolant").until == "2026-12-01"
    sheet = sheet_of_work(build(job), AT)
    held = {row.planned.key for row in sheet.held}
    assert {"fit coolant", "refill coolant", "plug_sender coolant", "fuses fuses"} <= held
    free = [row.planned for row in sheet.can_now]
    assert {one.key for one in free} & held == set()
    assert all(need not in {row.name for row in sheet.held} for one in free for need in one.step.needs)
    assert 0 <= sheet.lost_min <= 60
    days = days_left(job, sheet, AT)
    slots = {slot.planned.key: slot for day in days for slot in day.slots}
    assert slots["fit coolant"].begins >= datetime.datetime(2026, 12, 1, tzinfo=datetime.UTC)
    there = sheet_of_work(build(job), datetime.datetime(2026, 12, 1, 8, tzinfo=datetime.UTC))
    assert not there.held
    assert there.lost_min == 0


def test_what_is_not_closed_is_never_driven():
    """A place opened whose sender does not come: no evening says otherwise, however much else is done."""
    job = note_step(example(), "open coolant", "40", AT)
    job = note_step(job, "fit coolant", "could not: wrong thread", AT)
    days = days_left(job, sheet_of_work(build(job), AT), AT)
    assert days
    for day in days:
        assert not day.may_be_driven
        assert "a place stands open" in day.why
        assert any(words.startswith("plugged: ") for words in day.leave)


@pytest.mark.parametrize("name", EXAMPLES)
@pytest.mark.parametrize(
    "kind", ["open", "fit", "refill", "join", "fuses", "set_up", "trim_back", "prove_engine_running"]
)
def test_a_vehicle_is_driven_only_when_all_that_makes_it_safe_is_done(name, kind):
    """One step of each kind that could not be done, everything else done as planned."""
    job = example(name)
    stuck = next((one for one in plan_of_work(build(job)).planned if one.kind == kind), None)
    if stuck is None:
        assert kind == "refill"
        return
    job = note_step(job, stuck.key, "could not: broken", AT)
    last = days_left(job, sheet_of_work(build(job), AT), AT)[-1]
    opened = any(
        slot.planned.kind == "open"
        for day in days_left(job, sheet_of_work(build(job), AT), AT)
        for slot in day.slots
    )
    if kind != "open" or opened:
        assert not last.may_be_driven, last.why


def test_without_a_day_what_waits_has_none():
    job = note_step(example(), "fit coolant", "could not: no such bung anywhere", AT)
    sheet = sheet_of_work(build(job), AT)
    slots = {slot.planned.key for day in days_left(job, sheet, AT) for slot in day.slots}
    assert slots == {row.planned.key for row in sheet.can_now}


@pytest.mark.parametrize("name", EXAMPLES)
@pytest.mark.parametrize("seed", range(3))
def test_the_rest_keeps_every_need_from_any_moment(name, seed):
    rng = random.Random(seed)
    network = build(example(name))
    plan = plan_of_work(network)
    sequence = [one.step for one in plan.ordered.sequence]
    done = sequence[: rng.randrange(len(sequence))]
    gone = frozenset(step.name for step in done)
    left = [step.name for step in sequence if step.name not in gone]
    stuck = frozenset(rng.sample(left, min(len(left), rng.randint(0, 2))))
    holds = states_after(done)
    rest = rest_of(network, plan, gone, stuck, holds)
    order = [one.step.name for one in (*rest.free, *rest.held)]
    assert sorted(order) == sorted(left)
    at = {name: place for place, name in enumerate(order)}
    for step in sequence:
        for need in step.needs:
            if step.name in at and need in at:
                assert at[need] < at[step.name]
    late = {one.step.name for one in rest.held}
    assert stuck <= late
    for one in rest.free:
        assert not late.intersection(plan.by_name[one.step.name].step.needs)


@pytest.mark.parametrize("name", EXAMPLES)
def test_done_in_order_nothing_moves(name):
    job = example(name)
    plan = plan_of_work(build(job))
    before = [one.step.name for one in plan.ordered.sequence]
    for one in plan.ordered.sequence[:8]:
        job = note_step(job, plan.by_name[one.step.name].key, "done", AT)
        assert [row.name for row in sheet_of_work(build(job), AT).rows] == before


@pytest.mark.thorough
def test_ten_small_edits_move_few_steps():
    """Steps that change places, counted as the least that must be taken out for the others to stand as before."""
    job = example("single_seater")
    plan = plan_of_work(build(job))
    keys = [one.key for one in plan.planned if not one.kind.startswith("prove")]
    rng = random.Random(3)
    moved, before = [], [plan.by_name[one.step.name].key for one in plan.ordered.sequence]
    for _ in range(10):
        key = rng.choice(keys)
        minutes = next(one.step.minutes for one in plan.planned if one.key == key)
        job = alter_step(job, key, {"minutes": round(minutes * rng.uniform(0.7, 1.5), 1)})
        fresh = plan_of_work(build(job))
        after = [fresh.by_name[one.step.name].key for one in fresh.ordered.sequence]
        moved.append(len(before) - longest_kept(before, after))
        before = after
    assert max(moved) <= 6
    assert sum(moved) <= 15


def longest_kept(before, after):
    """How many stand in the same order in both (longest increasing subsequence)."""
    place = {key: i for i, key in enumerate(before)}
    tails = []
    for key in after:
        at = next((i for i, last in enumerate(tails) if last >= place[key]), len(tails))
        tails[at : at + 1] = [place[key]]
    return len(tails)


def test_states_after_steps_are_those_wanted_and_not_ended():
    plan = plan_of_work(build(example()))
    held = set()
    for one in plan.ordered.sequence:
        held -= {ended_by(need) for need in one.step.needs}
        held |= {need for need in one.step.needs if need in ("battery off", "trim out", "lifted", "cold")}
        assert {"battery off", "trim out", "lifted", "cold"} & states_after(
            [o.step for o in plan.ordered.sequence[: plan.ordered.sequence.index(one) + 1]]
        ) == held & {"battery off", "trim out", "lifted", "cold"}


TODAY = AT.date()


@pytest.mark.parametrize(
    ("typed", "doing", "minutes", "why", "until", "metres"),
    [
        ("start", "start", None, "", "", None),
        ("Done", "done", None, "", "", None),
        ("done: thread was crossed", "done", None, "thread was crossed", "", None),
        ("25", "done", 25.0, "", "", None),
        ("25 min", "done", 25.0, "", "", None),
        ("25, 3,4 m", "done", 25.0, "", "", 3.4),
        ("done 3.4 m", "done", None, "", "", 3.4),
        ("could not until monday: bung", "could not", None, "bung", "2026-12-07", None),
        ("could not until 2.12.: bung", "could not", None, "bung", "2026-12-02", None),
        ("could not until 2.1.: bung", "could not", None, "bung", "2027-01-02", None),
        ("left out: owner does it", "left out", None, "owner does it", "", None),
    ],
)
def test_what_is_typed_at_a_step(typed, doing, minutes, why, until, metres):
    found = read_worked(typed, TODAY)
    assert (found.doing, found.minutes, found.why, found.until, found.metres) == (
        doing,
        minutes,
        why,
        until,
        metres,
    )


@pytest.mark.parametrize(
    "typed",
    [
        "could not",
        "left out:",
        "perhaps",
        "-3",
        "1e9",
        "could not until doomsday: x",
        "could not until 31.2.: x",
        "3 m m",
    ],
)
def test_what_cannot_be_meant_is_refused(typed):
    with pytest.raises(BadInput) as refused:
        read_worked(typed, TODAY)
    assert refused.value.field == "found"


@pytest.mark.parametrize(
    "typed",
    ["25", "done", "25, 3.4 m", "could not: seized", "could not until 2026-12-03: bung", "left out: owner"],
)
def test_what_stands_in_a_cell_is_what_was_typed(typed):
    job = note_step(example(), "lay coolant run", typed, AT)
    assert written(of_step(job, "lay coolant run")) == typed
    assert note_step(job, "lay coolant run", typed, AT + 60 * MINUTE) is job


def test_litres_noted_are_those_of_the_fluid():
    job = note_step(example(), "open coolant", "40, 1.2 L out", AT)
    job = note_step(job, "refill coolant", "done, 0,9 l in", AT)
    fluid = next(one for one in job.fluids if one.id == "coolant")
    assert (fluid.lost_l, fluid.returned_l) == (1.2, 0.9)
    assert of_step(job, "open coolant").minutes == 40.0
    with pytest.raises(BadInput, match="No fluid"):
        note_step(job, "mount gauge 1", "20, 1 L out", AT)


def test_an_own_step_comes_after_and_before_what_it_names():
    job = set_own_step(
        example(),
        "",
        {
            "name": "Radiator hose changed",
            "minutes": 20.0,
            "states": ["drained coolant"],
            "after": ["open coolant"],
            "before": ["refill coolant"],
        },
    )
    rows = list(standing(job))
    assert rows.index("open coolant") < rows.index("own S1") < rows.index("refill coolant")
    plan = plan_of_work(build(job))
    assert plan.ordered.setups["drained coolant"] == 1
    job = note_step(job, "own S1", "25", AT)
    job = remove_own_step(job, "S1")
    assert job.own_steps == job.work == ()


@pytest.mark.thorough
@pytest.mark.parametrize("state", ["drained oil", "drained coolant", "drained gearbox", "fuel depressurised"])
@pytest.mark.parametrize("name", EXAMPLES)
def test_what_an_own_step_lets_out_is_filled_up_before_the_engine_runs(name, state):
    job = set_own_step(example(name), "", {"name": "Filter changed", "minutes": 15.0, "states": [state]})
    plan = plan_of_work(build(job))
    order = [plan.by_name[one.step.name] for one in plan.ordered.sequence]
    kinds = [one.kind for one in order]
    out = next(i for i, one in enumerate(order) if one.own)
    running = kinds.index("prove_engine_running")
    if state == "fuel depressurised":
        assert kinds.index("let_down") < out < kinds.index("prime") < running
    else:
        refilled = next(
            i for i, one in enumerate(order) if one.kind == "refill" and f"not {state}" in one.step.needs
        )
        assert out < refilled < running
    days = days_left(job, sheet_of_work(build(job), AT), AT)
    assert days[-1].may_be_driven


def test_needs_in_a_circle_are_named_and_nothing_is_kept():
    job = example()
    with pytest.raises(BadInput, match="wait for one another"):
        set_own_step(
            job,
            "",
            {"name": "Impossible", "minutes": 1.0, "after": ["refill coolant"], "before": ["open coolant"]},
        )
    with pytest.raises(BadInput, match="wait for one another"):
        alter_step(job, "open coolant", {"after": ["refill coolant"]})


def test_a_step_is_split_in_two():
    job = alter_step(
        example(), "join gauge 1", {"first_minutes": 20.0, "first": "Four wires", "second": "Two wires"}
    )
    plan = plan_of_work(build(job))
    parts = [one for one in plan.planned if one.part.startswith("gauge 1") and one.kind == "join"]
    whole = next(one for one in plan_of_work(build(example())).planned if one.key == "join gauge 1")
    assert [one.step.name for one in parts] == ["Four wires", "Two wires"]
    assert sum(one.step.minutes for one in parts) == pytest.approx(whole.step.minutes)
    assert "Four wires" in parts[1].step.needs
    plug = plan.by_name["Plug in Gearbox oil gauge"]
    assert "Two wires" in plug.step.needs
    rows = list(standing(job))
    assert rows.index("join gauge 1") < rows.index("join gauge 1, rest") < rows.index("plug_in gauge 1")
    back = alter_step(job, "join gauge 1", {"first_minutes": None, "first": "", "second": ""})
    assert back.altered_steps == ()
    with pytest.raises(BadInput, match="must leave something"):
        alter_step(job, "join gauge 1", {"first_minutes": 500.0})


def test_between_its_turns_the_sheet_of_a_day_stays_as_it_is():
    job = note_step(example(), "fit coolant", "done", AT)
    job = note_step(job, "mount gauge 1", "12", AT + 9 * MINUTE)
    job = note_step(job, "find_feeds feeds", "could not until 2026-12-01: no key", AT + 30 * MINUTE)
    network = build(job)
    turns = turns_of_work(network)
    assert turns
    moments = [AT + 197 * i * MINUTE for i in range(12)]
    moments += [turn + by * MINUTE for turn in turns for by in (-1, 0)]
    seen = {}
    for at in moments:
        come = (at.date(), sum(turn <= at for turn in turns))
        sheet = sheet_of_work(network, at)
        assert seen.setdefault(come, sheet) == sheet
    assert len({repr(sheet.rows) for sheet in seen.values()}) > len(turns)


def test_the_row_of_a_step_alone_is_its_row_on_the_sheet():
    job = note_step(example(), "fit coolant", "done", AT)
    job = note_step(job, "mount gauge 2", "start", AT)
    network = build(note_step(job, "find_feeds feeds", "could not: no key", AT))
    rows = sheet_of_work(network, AT).rows
    assert {row.stands for row in rows} >= {"rests", "waits", "begun", "could not", "held up", "open"}
    for row in rows:
        alone = row_of_step(network, row.planned.key, AT)
        assert replace(alone, start_min=row.start_min, end_min=row.end_min) == row
    assert row_of_step(network, "no such step", AT) is None


def test_what_could_not_be_done_after_all_keeps_its_minutes_and_its_note():
    job = note_step(example(), "find_feeds feeds", "25, 3.4 m", AT)
    job = note_step(job, "find_feeds feeds", "could not: the clip broke", AT + MINUTE)
    left = of_step(job, "find_feeds feeds")
    assert (left.state, left.minutes, left.metres, left.ended) == ("could not", 25.0, 3.4, "")


def test_only_what_is_begun_is_paused():
    for words in ("done", "could not: no key", "left out: owner"):
        job = note_step(example(), "find_feeds feeds", words, AT)
        with pytest.raises(BadInput, match="start it first"):
            note_step(job, "find_feeds feeds", "pause", AT + MINUTE)


def test_moments_of_other_zones_are_one_order():
    """One noted in Kiritimati's time, one in St. John's: the order of the work is that of the instants."""
    east, west = (zoneinfo.ZoneInfo(name) for name in ("Pacific/Kiritimati", "America/St_Johns"))
    job = note_step(example(), "find_feeds feeds", "start", AT.astimezone(east))
    assert standing(job, (AT + MINUTE).astimezone(west))["find_feeds feeds"].stands == "begun"
    job = note_step(job, "find_feeds feeds", "done", AT + 20 * MINUTE)
    assert of_step(job, "find_feeds feeds").minutes == 20.0
