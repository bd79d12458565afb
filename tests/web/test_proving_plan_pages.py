"""Proving phase by phase: the page of the plan, checks written down on it."""

from __future__ import annotations

import pytest

from metrolex.jobfile import EXAMPLES
from metrolex.proving import checks_of, phases
from metrolex.twin import build
from tests.jobs import shipped
from workbench.jobs.door import import_job


@pytest.mark.parametrize("name", EXAMPLES)
def test_every_phase_of_every_example_is_shown(name, bay, text):
    bay.record = import_job(bay.member, shipped(name))
    checks = checks_of(build(bay.job))
    for phase in phases():
        page = text(bay.get("proving/plan/", phase=phase.key))
        assert f"<h2>{phase.name}</h2>" in page
        for check in checks:
            if check.ref.phase == phase.key and "'" not in check.do:
                assert check.do in page
    assert "likely faults" in page


def test_a_check_is_written_down_and_taken_back(bay, text):
    key = "battery_off|short|T1"
    answer = bay.post("proving/checked/", htmx=True, check=key, found="3")
    assert "off" in text(answer)
    assert answer["HX-Trigger"]
    assert (bay.job.checks[0].result, bay.job.checks[0].value) == ("off", 3.0)
    assert "1 off" in text(bay.get("proving/plan/live/", phase="battery_off"))
    page = text(bay.get("proving/plan/", phase="battery_off"))
    assert 'value="3"' in page
    assert "find the cause" in page
    answer = bay.post("proving/checked/", check=key, found="not done: box sealed")
    assert answer.status_code == 302
    assert "phase=battery_off" in answer["Location"]
    assert "box sealed" in text(bay.get("proving/plan/", phase="battery_off"))
    bay.post("proving/checked/", htmx=True, check=key, found="")
    assert bay.job.checks == ()


@pytest.mark.parametrize(
    ("check", "typed", "words"),
    [
        ("battery_off|short|T1", "perhaps", "Or ok, off, not done: why"),
        ("battery_off|plugs|", "12", "Type ok, off, or not done"),
        ("battery_off|plugs|", "not done", "Say why"),
        ("battery_off|plugs|nobody", "ok", "not there any more"),
        ("", "ok", "not there any more"),
    ],
)
def test_what_cannot_be_meant_is_told_beside_it(check, typed, words, bay, text):
    before = bay.job
    assert words in text(bay.post("proving/checked/", htmx=True, check=check, found=typed))
    answer = bay.post("proving/checked/", check=check, found=typed)
    assert answer.status_code == 302
    page = text(bay.get("proving/plan/"))
    assert typed in page
    assert bay.job == before


def test_a_test_left_out_says_why_on_both_pages(bay, text):
    data = {"test": "readout|battery|shown|", "key": "crank", "lamps": "off", "engine": "stopped"}
    bay.post("proving/seen/", htmx=True, found="not done: no helper", **data)
    assert bay.job.left_out[0].why == "no helper"
    page = text(bay.get("proving/plan/", phase="crank"))
    assert "not done: no helper" in page
    bay.post("proving/seen/", htmx=True, found="10.7", **data)
    assert bay.job.left_out == ()
