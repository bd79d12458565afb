"""A quick look: five answers make a job that works out, with suspects and a first test."""

from __future__ import annotations

import pytest

from metrolex.acts.quick import QUICK, quick_look
from metrolex.errors import BadInput
from metrolex.faults.complaints import Complaint
from metrolex.faults.next_test import ranked_tests
from metrolex.faults.suspects import suspects
from metrolex.job import State
from metrolex.jobfile import job_from_text, job_to_text
from metrolex.kit import measurands
from metrolex.topology import topology_of
from metrolex.twin import build, readings, solve

RUNNING = State("run", "off", "running")


@pytest.mark.thorough
@pytest.mark.parametrize("measurand", QUICK)
@pytest.mark.parametrize("lit", [True, False])
def test_every_gauge_reads_as_it_should_while_nothing_is_wrong(measurand: str, lit: bool) -> None:
    job = quick_look(measurand, "", lit=lit, rest_v=12.6, word="dark", day="2026-11-29")
    assert job_from_text(job_to_text(job)) == job
    network = build(job)
    face = readings(solve(network, RUNNING))[job.chains[0].id]
    assert face.state == "reading"
    wiring = topology_of(job)
    assert all(wire.id in wiring.lengths_m for wire in job.conductors)
    assert any(pin.role == "lamps" for display in job.displays for pin in display.pins if display.face) == lit


@pytest.mark.parametrize("measurand", ["coolant_temperature", "oil_pressure", "supply_voltage"])
def test_it_says_what_to_measure_first(measurand: str) -> None:
    job = quick_look(measurand, "", lit=True, rest_v=12.4, word="dark", day="2026-11-29")
    network = build(job)
    (search,) = job.searches
    verdict = suspects(network, [], [Complaint(one.word, one.channel) for one in search.said])
    tests = ranked_tests(network, verdict, here=State("run"))
    assert tests[0].bits > 0.3
    assert verdict.suspects[0].probability > 0.02


def test_what_cannot_be_meant_is_refused() -> None:
    def look(measurand: str = "coolant_temperature", sender: str = "", word: str = "dark") -> None:
        quick_look(measurand, sender, lit=True, rest_v=12.6, word=word, day="2026-11-29")

    for wrong in (
        {"measurand": "mood"},
        {"measurand": "road_speed"},
        {"sender": "a brick"},
        {"word": "sulks"},
    ):
        with pytest.raises(BadInput):
            look(**wrong)
    assert {one.id for one in measurands()} - set(QUICK) == {"road_speed", "engine_speed", "fuel_temperature"}


def test_what_nobody_measured_is_said_to_be_taken_as_usual():
    job = quick_look("oil_pressure", "", lit=True, rest_v=12.6, word="dark", day="2026-11-29")
    assert all("not measured" in tap.why for tap in job.taps)
    assert all("not measured" in point.surface for point in job.grounds)
    assert "none of them was measured" in job.survey.notes
