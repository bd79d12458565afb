"""Closing a job: check sum, what has been since, bars, what is seen and done, rechecks, label sheets."""

from __future__ import annotations

import datetime
import hashlib
import itertools
import json
from dataclasses import replace

import pytest
from icalendar import Calendar

from metrolex.check import find_all, still_standing
from metrolex.errors import BadInput
from metrolex.handover import bars_of, check_sum, rechecks_of, since, what_to_do, will_see
from metrolex.handover.calendar import calendar_file
from metrolex.harness.label_sheets import label_sheets, laid_out
from metrolex.job import Job, State
from metrolex.jobfile import (
    EXAMPLES,
    job_from_text,
    job_to_data,
    job_to_text,
)
from metrolex.tables import load_table
from metrolex.twin import build, readings, solve
from tests.jobs import a_vehicle, shipped, small_job, with_chain

PAGES_MM = {"A4": (210.0, 297.0), "letter": (215.9, 279.4)}  # ISO 216; ANSI/ASME Y14.1


def standing_of(job: Job):
    network = build(job)
    return still_standing(job, find_all(network, solve(network, State("run", "off", "running"))))


@pytest.mark.parametrize("name", EXAMPLES)
def test_the_check_sum_is_that_of_the_plain_data(name: str) -> None:
    """By hand: SHA-256 over the compact JSON with its keys in order; the same after the job was written and read."""
    job = shipped(name)
    plain = json.dumps(job_to_data(job), sort_keys=True, ensure_ascii=False, separators=(",", ":"))
    assert check_sum(job) == hashlib.sha256(plain.encode()).hexdigest()
    assert check_sum(job_from_text(job_to_text(job))) == check_sum(job)
    assert check_sum(replace(job, name=job.name + " ")) != check_sum(job)


def test_what_has_been_since_is_said_part_by_part() -> None:
    job = shipped("van")
    assert since(job, job) == ()
    wires = tuple(replace(w, length_m=9.5) if w.id == "W19" else w for w in job.conductors)
    (first, second) = since(job, replace(job, conductors=wires, name="Other"))
    assert "name" in first
    assert "W19" in second
    assert "9.5 m" in second


def test_warnings_that_must_be_there_and_open_stops_bar_it() -> None:
    job = shipped("van")
    assert [bar.subject for bar in bars_of(job, standing_of(job))] == ["F9"]
    chain = job.chain("coolant")
    silent = job.with_chain(replace(chain, warn_high=None))
    assert {bar.subject for bar in bars_of(silent, ())} == {"Coolant"}
    oil = job.chain("oil pressure")
    by_rpm_alone = job.with_chain(replace(oil, warn_low=None))
    assert not bars_of(by_rpm_alone, ())
    none = job.with_chain(replace(oil, warn_low=None, behaviour=type(oil.behaviour)()))
    assert {bar.subject for bar in bars_of(none, ())} == {"Oil pressure"}
    assert bars_of(Job("New", a_vehicle()), ()) == ()


@pytest.mark.parametrize("name", EXAMPLES)
def test_every_warning_that_is_set_is_told_with_what_to_do(name: str) -> None:
    job = shipped(name)
    told = {(one.chain.id, one.side) for one in what_to_do(job)}
    for chain in job.chains:
        if chain.display:
            assert ((chain.id, "high") in told) == (chain.warn_high is not None)
            assert ((chain.id, "low") in told) == (chain.warn_low is not None or bool(chain.behaviour.by_rpm))
    at_once = [one.at_once for one in what_to_do(job)]
    assert at_once == sorted(at_once, reverse=True)
    for one in what_to_do(job):
        own = load_table("warnings").get(one.chain.measurand, {}).get(one.side)
        assert one.do == (own or load_table("warnings")["usual"][one.side])["do"]


@pytest.mark.parametrize("name", EXAMPLES)
def test_what_will_be_seen_is_what_the_twin_shows(name: str) -> None:
    """Each sentence of a face that stands at its end is true of the twin at that point, and none is left out."""
    job = shipped(name)
    network = build(job)
    said = {(one.on, one.words) for one in will_see(network)}
    faces = readings(solve(network, State("run")))
    for chain in job.chains:
        true, low = chain.true_stopped, chain.scaling.low
        ends_low = any(
            on == chain.name and "lower end" in words and "before a cold start" in words for on, words in said
        )
        if chain.display and true is not None and low is not None:
            assert ends_low == (true < low and faces[chain.id].value == low), chain.name


def test_a_heated_sensor_and_dashes_on_overrun_are_told() -> None:
    said = {one.words for one in will_see(build(shipped("single_seater"))) if one.on == "Mixture"}
    assert any("heats for about 25 s" in words for words in said)
    assert any(words.startswith("Shows dashes on overrun") for words in said)


def test_a_quiet_warning_and_one_that_is_lit_with_the_key() -> None:
    van = {one.words for one in will_see(build(shipped("van"))) if one.on == "Oil pressure"}
    assert "Its warning keeps quiet until the engine turns." in van
    tender = {one.words for one in will_see(build(shipped("fire_tender"))) if one.on == "Oil pressure"}
    assert any("on with the key until the engine runs" in words for words in tender)


def test_the_500_km_fall_when_they_are_driven() -> None:
    job = shipped("van")
    days = {one.key: one.days for one in rechecks_of(job)}
    assert days == {"first_heat": 1, "km_500": 28, "yearly": 365}
    driven = replace(job, closing=replace(job.closing, km_a_week=250.0))
    assert {one.key: one.days for one in rechecks_of(driven)}["km_500"] == 14
    hardly = (replace(job, closing=replace(job.closing, km_a_week=km)) for km in (1.0, 1e-300))
    assert [{one.key: one.days for one in rechecks_of(each)}["km_500"] for each in hardly] == [365, 365]
    assert [one.key for one in rechecks_of(Job("New", a_vehicle()))] == ["yearly"]


def test_the_calendar_is_one_that_a_calendar_reads() -> None:
    """Read back by the package's own parser; lines end and fold as RFC 5545 3.1 asks."""
    rechecks = rechecks_of(shipped("van"))
    stamp = datetime.datetime(2026, 11, 29, 8, 0, tzinfo=datetime.UTC)
    made = calendar_file(rechecks, "Van; with, odd\nname", datetime.date(2026, 11, 29), stamp, "job-4")
    assert all(len(line) <= 75 for line in made.split(b"\r\n"))
    events = Calendar.from_ical(made).walk("VEVENT")
    assert [event["dtstart"].dt for event in events] == [
        datetime.date(2026, 11, 30),
        datetime.date(2026, 12, 27),
        datetime.date(2027, 11, 29),
    ]
    assert "rrule" in events[-1]
    assert "rrule" not in events[0]
    assert len({str(event["uid"]) for event in events}) == 3
    for event, one in zip(events, rechecks, strict=True):
        assert all(words in str(event["description"]) for words in one.look_at)


@pytest.mark.parametrize("key", list(label_sheets()))
def test_labels_lie_on_their_sheet_and_on_no_other(key: str) -> None:
    sheet = label_sheets()[key]
    width, height = PAGES_MM[sheet.page]
    pages = laid_out(sheet, range(2 * sheet.count), first=3)
    assert [len(page) for page in pages] == [sheet.count - 2, sheet.count, 2]
    assert [one.label for page in pages for one in page] == list(range(2 * sheet.count))
    for one in pages[1]:
        assert 0 <= one.x_mm <= width - sheet.width_mm + 0.05
        assert 0 <= one.y_mm <= height - sheet.height_mm + 0.05
    for a, b in itertools.combinations(pages[1], 2):
        apart = (
            abs(a.x_mm - b.x_mm) >= sheet.width_mm - 1e-6 or abs(a.y_mm - b.y_mm) >= sheet.height_mm - 1e-6
        )
        assert apart
    assert laid_out(sheet, ()) == []
    for first in (0, sheet.count + 1):
        with pytest.raises(BadInput, match=f"1 to {sheet.count}"):
            laid_out(sheet, "ab", first)


def test_a_small_job_closes_too() -> None:
    job = small_job()
    assert will_see(build(job)) is not None
    assert check_sum(with_chain(job, warn_high=100.0)) != check_sum(job)
