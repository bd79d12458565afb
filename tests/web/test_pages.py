"""Every page in every state of the key: it answers, within 12 queries, and shows what the core says."""

from __future__ import annotations

import itertools
from dataclasses import replace

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from metrolex.job import KEY_STATES, LAMP_STATES, Job, State
from metrolex.twin import build, readings, solve
from tests.jobs import a_vehicle
from tests.pages import PAGES
from workbench.jobs.door import import_job


@pytest.mark.parametrize("page", PAGES)
def test_a_page_answers_within_12_queries(page, bay):
    with CaptureQueriesContext(connection) as queries:
        assert bay.get(page).status_code in (200, 202)
    assert len(queries) <= 12, [q["sql"] for q in queries]


def test_the_shelf_takes_no_more_queries_for_more_jobs(bay):
    with CaptureQueriesContext(connection) as one:
        bay.client.get("/")
    for _ in range(5):
        import_job(bay.member, bay.job)
    with CaptureQueriesContext(connection) as six:
        bay.client.get("/")
    assert len(six) == len(one) <= 12


@pytest.mark.parametrize("page", PAGES)
def test_a_job_from_nothing_has_every_page_too(page, bay):
    bay.record = import_job(bay.member, Job("Empty", a_vehicle("Sidecar outfit")))
    expected = (404,) if "channel=" in page else (200, 202)
    assert bay.get(page).status_code in expected


@pytest.mark.parametrize("page", ["no-such/", "ports/?channel=nothing", "scaling/?channel=nothing"])
def test_what_is_not_there_says_so(page, bay, text):
    answer = bay.get(page)
    assert answer.status_code == 404
    assert "There is no such page in your workshop" in text(answer)


@pytest.mark.parametrize(
    ("key", "lamps", "engine"),
    [*itertools.product(KEY_STATES, LAMP_STATES, ["stopped"]), ("run", "off", "running")],
)
def test_the_key_switch_drives_every_figure(key, lamps, engine, bay, text):
    answer = bay.post("key-switch/", key=key, lamps=lamps, next=bay.path())
    assert (answer.status_code, answer.url) == (302, bay.path())
    bay.post("key-switch/", engine=engine)
    page = text(bay.get())
    faces = readings(solve(build(bay.job), State(key, lamps, engine)))
    for face in faces.values():
        assert f"<big>{face.text or '··'}</big>" in page
    assert State(key, lamps, engine).words() in page
    assert bay.get("proving/").status_code == bay.get("harness/diagram/").status_code == 200


def test_the_engine_stops_when_the_key_leaves_run(bay, text):
    bay.post("key-switch/", engine="running")
    bay.post("key-switch/", key="acc")
    assert "key acc" in text(bay.get())
    bay.post("key-switch/", engine="running")
    assert "key run, engine running" in text(bay.get())


@pytest.mark.parametrize("data", [{"key": "on"}, {"lamps": "fog"}, {"engine": "idling"}])
def test_a_position_the_switch_has_not(data, bay):
    assert bay.post("key-switch/", **data).status_code == 400


@pytest.mark.parametrize(
    "target", ["https://elsewhere.example/", "//elsewhere.example", "javascript:alert(1)", ""]
)
def test_the_switch_leads_nowhere_else(target, bay):
    assert bay.post("key-switch/", key="run", next=target).url == bay.path()


def test_each_job_has_a_switch_of_its_own(bay, text):
    other = import_job(bay.member, bay.job)
    bay.post("key-switch/", key="crank")
    assert "key crank" not in text(bay.client.get(f"/jobs/{other.pk}/"))


def test_what_it_will_show(bay, text):
    assert "<big>95</big>" in text(bay.get("scaling/shown/", channel="coolant", true="93"))
    assert "is not a temperature" in text(bay.get("scaling/shown/", channel="coolant", true="warm"))
    assert bay.get("scaling/shown/", channel="coolant", true="9" * 5000).status_code == 200


def test_search_finds_by_job_and_vehicle(bay, text):
    import_job(bay.member, replace(bay.job, name="Another", vehicle=a_vehicle("Fire tender")))
    assert "Another" in text(bay.client.get("/", {"q": "tender"}))
    assert "Another" not in text(bay.client.get("/", {"q": "ridge"}))
    assert "No job or vehicle is called that" in text(bay.client.get("/", {"q": "zz" * 500}))


def test_the_board_says_where_the_wrong_choice_sits(bay, text):
    page = text(bay.get())
    assert "F9 refused" in page
    assert "'Seat belts and airbag' is on the never-tap list: restraint" in page


def test_names_are_escaped(bay):
    bay.record = import_job(bay.member, replace(bay.job, name="<script>alert(1)</script>"))
    for page in ("", "handover/", "handover/book/", "harness/diagram/", "harness/diagram.svg"):
        assert b"<script>alert" not in bay.get(page).content
