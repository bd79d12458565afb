"""Proving phase by phase: the page of the plan, checks written down on it."""

from __future__ import annotations

import pytest

from metrolex.jobfile import EXAMPLES
from metrolex.proving import checks_of, phases
from metrolex.proving.enough import enough_of
from metrolex.twin import build
from tests.jobs import shipped, van, with_facts
from workbench.jobs.door import import_job


@pytest.mark.parametrize("name", EXAMPLES)
def test_every_phase_of_every_example_is_shown(name, bay, text):
    bay.record = import_job(bay.member, shipped(name))
    checks = checks_of(build(bay.job))
    for phase in phases():
        page = text(bay.get("proving/plan/", htmx=True, phase=phase.key))
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
    page = text(bay.get("proving/plan/", htmx=True, phase="battery_off"))
    assert 'value="3"' in page
    assert "find the cause" in page
    answer = bay.post("proving/checked/", check=key, found="not done: box sealed")
    assert answer.status_code == 302
    assert "phase=battery_off" in answer["Location"]
    assert "box sealed" in text(bay.get("proving/plan/", htmx=True, phase="battery_off"))
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
    wanted = next(one for one in enough_of(build(bay.job)).tests if one.state.key == "crank")
    data = {"test": wanted.point.test.key, "key": "crank", "lamps": "off", "engine": "stopped"}
    bay.post("proving/seen/", htmx=True, found="not done: no helper", **data)
    assert bay.job.left_out[0].why == "no helper"
    page = text(bay.get("proving/plan/", htmx=True, phase="crank"))
    assert "not done: no helper" in page
    bay.post("proving/seen/", htmx=True, found="10.7", **data)
    assert bay.job.left_out == ()


def of_a_new_circuit(bay, rest_v):
    """The bay at a job whose circuit nobody has worked out before."""
    bay.record = import_job(bay.member, with_facts(van(), rest_v=rest_v))


def test_of_a_new_circuit_the_page_answers_first_and_asks_for_its_plan(bay, text):
    of_a_new_circuit(bay, 12.57)
    page = bay.get("proving/plan/", phase="crank")
    assert page.status_code == 202
    assert "Working out which tests are enough" in text(page)
    assert "likely faults" not in text(page)
    assert "likely faults" in text(bay.get("proving/plan/", phase="crank", whole="yes")), "without scripts"
    page = bay.get("proving/plan/", phase="crank")
    assert page.status_code == 200
    assert "likely faults" in text(page), "once worked out it is there at once"


def test_what_was_refused_stays_on_the_page_that_waits(bay, text):
    of_a_new_circuit(bay, 12.58)
    bay.post("proving/checked/", check="battery_off|short|T1", found="perhaps")
    page = bay.get("proving/plan/")
    assert page.status_code == 202
    assert "perhaps" in text(page)
