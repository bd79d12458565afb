"""The work cut into days: hours kept, needs and rests kept, nothing left open over night; minutes counted within the hours."""

from __future__ import annotations

import datetime
import itertools
import random
import zoneinfo
from dataclasses import replace

import pytest

from metrolex.acts.work import note_step
from metrolex.errors import BadInput
from metrolex.job import WorkHours
from metrolex.jobfile import EXAMPLES, example_job_data, job_from_data
from metrolex.twin import build
from metrolex.workorder.calendar import calendar_of_work
from metrolex.workorder.days import in_days, next_working_moment, worked_minutes
from metrolex.workorder.left import days_left
from metrolex.workorder.plan import plan_of_work, planned_steps
from metrolex.workorder.sheet import sheet_of_work
from tests.jobs import shipped

MONDAY = datetime.datetime(2026, 11, 30, 8, tzinfo=datetime.UTC)
HOURS = WorkHours()


def laid_out(name, hours=HOURS, begins=MONDAY):
    plan = plan_of_work(build(shipped(name)))
    sequence = [plan.by_name[one.step.name] for one in plan.ordered.sequence]
    return plan, in_days(sequence, hours, begins)


@pytest.mark.parametrize("name", EXAMPLES)
@pytest.mark.parametrize(
    "hours",
    [
        HOURS,
        WorkHours(begins="07:30", ends="12:00", pause_min=0, closed=(6,)),
        WorkHours(begins="13:00", ends="21:30", pause_min=30, closed=(0, 2, 4, 5, 6)),
    ],
)
def test_every_step_once_within_the_hours_after_what_it_needs(name, hours):
    plan, days = laid_out(name, hours)
    slots = [slot for day in days for slot in day.slots]
    assert sorted(slot.planned.step.name for slot in slots) == sorted(plan.by_name)
    ended = {
        s.planned.step.name: s.ends + datetime.timedelta(minutes=s.planned.step.wait_minutes) for s in slots
    }
    for day in days:
        assert day.date.weekday() not in hours.closed
        for slot in day.slots:
            assert slot.begins.date() == day.date
            assert f"{slot.begins:%H:%M}" >= hours.begins
            assert f"{slot.ends:%H:%M}" <= hours.ends
            for need in slot.planned.step.needs:
                assert need not in ended or ended[need] <= slot.begins + datetime.timedelta(seconds=1)
    for first, then in itertools.pairwise(slots):
        assert first.ends <= then.begins + datetime.timedelta(seconds=1)


@pytest.mark.parametrize("name", EXAMPLES)
@pytest.mark.parametrize("ends", ["11:00", "13:30", "17:00", "20:00"])
def test_a_place_is_closed_the_day_it_is_opened(name, ends):
    _, days = laid_out(name, WorkHours(begins="08:00", ends=ends, pause_min=0))
    for day in days:
        parts = {
            kind: {s.planned.part for s in day.slots if s.planned.kind == kind} for kind in ("open", "fit")
        }
        assert parts["open"] == parts["fit"]
        assert "a place stands open" not in day.why


def test_the_evening_says_what_the_vehicle_is_not_ready_for():
    _, days = laid_out("van")
    assert len(days) == 2
    first, last = days
    assert not first.may_be_driven
    assert "wires are joined in part" in first.why
    assert "no leak check yet" in first.why
    assert "the added fuses stay out" in first.leave
    assert "let down from the stands" in first.leave
    assert last.may_be_driven
    assert last.leave == ()


def test_nothing_let_out_is_driven():
    """Whatever the length of the day: while a fluid is out it is said, and the vehicle stays."""
    for minutes in range(70, 540, 35):
        ends = f"{8 + minutes // 60:02d}:{minutes % 60:02d}"
        _, days = laid_out("fire_tender", WorkHours(begins="08:00", ends=ends, pause_min=0))
        out = set()
        for day in days:
            for slot in day.slots:
                out |= {need for need in slot.planned.step.needs if need.startswith("drained")}
                out -= {need[4:] for need in slot.planned.step.needs if need.startswith("not drained")}
            assert not (out and day.may_be_driven)
            assert ("a note on the wheel: what is let out" in day.leave) == bool(out)


def test_what_rests_is_waited_for_and_the_time_filled():
    plan, days = laid_out("van")
    resting = [one for one in plan.planned if one.step.wait_minutes]
    assert resting
    first = list(days[0].slots)
    at = next(i for i, slot in enumerate(first) if slot.planned.step.wait_minutes)
    assert first[at + 1].begins == first[at].ends or first[at + 1].entered


def test_a_step_longer_than_a_day_goes_on_next_day():
    plan, _ = laid_out("sidecar")
    long = replace(plan.planned[0], step=replace(plan.planned[0].step, minutes=600.0))
    (slot,) = (slot for day in in_days([long], HOURS, MONDAY) for slot in day.slots)
    assert slot.ends == datetime.datetime(
        2026, 12, 1, 10, 0, tzinfo=datetime.UTC
    )  # 480 of them less the states, by hand: 15 min of trim


def test_minutes_worked_within_the_hours():
    friday = datetime.datetime(2026, 11, 27, 16, 30, tzinfo=datetime.UTC)
    monday = datetime.datetime(2026, 11, 30, 8, 20, tzinfo=datetime.UTC)
    assert worked_minutes(HOURS, friday, monday) == 50
    noon = (
        datetime.datetime(2026, 11, 30, 11, 50, tzinfo=datetime.UTC),
        datetime.datetime(2026, 11, 30, 12, 55, tzinfo=datetime.UTC),
    )
    assert worked_minutes(HOURS, *noon) == 20
    assert worked_minutes(HOURS, monday, friday) == 0  # a clock that was set back


def test_minutes_worked_against_counting_them_one_by_one():
    """Every minute of a fortnight asked by itself."""
    rng = random.Random(5)
    minute = datetime.timedelta(minutes=1)
    for _ in range(6):
        hours = WorkHours(
            begins=f"{rng.randint(6, 9):02d}:{rng.choice((0, 15, 30)):02d}",
            ends=f"{rng.randint(15, 21):02d}:00",
            pause_min=rng.choice((0, 30, 45)),
            closed=tuple(sorted(rng.sample(range(7), rng.randint(0, 3)))),
        )
        since = MONDAY + datetime.timedelta(minutes=rng.randint(0, 4000))
        until = since + datetime.timedelta(minutes=rng.randint(0, 9000))
        counted, at = 0, since
        while at < until:
            counted += next_working_moment(hours, at) == at
            at += minute
        assert worked_minutes(hours, since, until) == pytest.approx(counted, abs=1)


@pytest.mark.parametrize(
    ("said", "field"),
    [
        ({"begins": "17:00", "ends": "08:00"}, "ends"),
        ({"begins": "late"}, "begins"),
        ({"closed": tuple(range(7))}, "closed"),
        ({"first_day": "the third"}, "first_day"),
        ({"first_day": "9999-12-30"}, "first_day"),
        ({"pause_min": 239, "begins": "08:00", "ends": "12:00"}, "ends"),
    ],
)
def test_hours_nobody_works_are_refused(said, field):
    with pytest.raises(BadInput) as refused:
        WorkHours(**said)
    assert refused.value.field == field


@pytest.mark.parametrize("field", ["minutes", "wait_minutes"])
def test_a_step_ends_before_the_calendar_does(field):
    """What the gate lets through at most is laid out, and put into a calendar; a minute more is told."""
    data = example_job_data("van")
    data["own_steps"] = [{"id": "far", "name": "Far off", field: 100_000, "after": ["fit coolant"]}]
    data["work"] = [{"id": "w1", "step": "own far", "state": "done", "ended": "2199-12-31T23:59"}]
    job = job_from_data(data)
    sheet = sheet_of_work(build(job), MONDAY)
    left = days_left(job, sheet, MONDAY)
    assert calendar_of_work(job, sheet, left, MONDAY.replace(tzinfo=datetime.UTC), "van")
    data["own_steps"][0][field] = 100_001
    with pytest.raises(BadInput, match="100000"):
        job_from_data(data)


@pytest.mark.parametrize(
    ("zone", "evening"),
    [
        ("Europe/Berlin", "2027-03-27"),  # the clock goes on by an hour
        ("Europe/Berlin", "2027-10-30"),  # and back
        ("America/St_Johns", "2027-03-13"),
        ("Pacific/Kiritimati", "2028-02-28"),  # a leap year
    ],
)
def test_what_rests_over_night_rests_as_long_as_it_must(zone, evening):
    """Ten hours of rest are ten hours, whatever the clock on the wall does meanwhile; the day of work begins by the wall."""
    zone = zoneinfo.ZoneInfo(zone)
    at = datetime.datetime.fromisoformat(f"{evening}T16:30").replace(tzinfo=zone)
    job = shipped("van")
    step = next(one for one in planned_steps(build(job)) if one.step.wait_minutes)
    job = note_step(job, step.key, "done", at)
    (until,) = {row.rests_until for row in sheet_of_work(build(job), at).rows if row.rests_until}
    waited = (until.astimezone(datetime.UTC) - at.astimezone(datetime.UTC)).total_seconds() / 60
    assert waited == step.step.wait_minutes
    hours = replace(HOURS, closed=())
    plan, _ = laid_out("van")
    days = in_days(plan.planned, hours, at)
    assert all(
        f"{day.slots[0].begins:%H}" in ("08", "16") for day in days if day.slots and not day.slots[0].entered
    )
    assert all(slot.begins.tzinfo is zone for day in days for slot in day.slots)
    lasts = [(slot.ends.timestamp() - slot.begins.timestamp()) / 60 for day in days for slot in day.slots]
    assert min(lasts) >= 0
