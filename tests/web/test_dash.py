"""Pages of displays: laid out, faces put and moved, played; lamps and outputs; faces by day and night."""

from __future__ import annotations

import pytest

from metrolex.dash.faces import pages_of
from metrolex.twin import build, readings, solve
from tests.jobs import shipped
from workbench.jobs.door import import_job


@pytest.fixture
def tender(bay):
    bay.record = import_job(bay.member, shipped("fire_tender"))
    return bay


def test_gauges_without_pages_show_what_they_read(bay, text):
    page = text(bay.get("dash/", display="gauge 3"))
    assert "Oil pressure" in page
    assert ">3.5<" in page.replace(" ", "")
    assert "Go on from it" in page


def test_faces_stand_where_the_twin_puts_them(tender):
    """The figures on the page are those of the twin at the key switch; turned, they follow."""
    page = tender.get("dash/").content.decode()
    for shown in readings(solve(build(tender.job), tender_state("running"))).values():
        assert f">{shown.text}</text>" in page
    tender.post("key-switch/", key="off")
    dark = tender.get("dash/").content.decode()
    assert ">3.5</text>" not in dark


def test_lamps_glow_with_the_key_until_the_engine_runs(tender):
    assert tender.get("dash/").content.decode().count('class="lamp lit"') == 0
    tender.post("key-switch/", engine="stopped")
    assert tender.get("dash/").content.decode().count('class="lamp lit"') == 2


def tender_state(engine):
    from metrolex.job import State

    return State("run", "off", engine)


def test_laid_out_named_and_added_to(tender, text):
    for page in list(tender.job.pages):
        tender.post("dash/page/remove/", page=page.id, display="dash")
    assert "Go on from it" in text(tender.get("dash/"))
    tender.post("dash/lay-out/", display="dash")
    assert len(tender.job.faces) == 6
    page = tender.job.pages[0].id
    tender.post("dash/page/", page=page, name="Pump", use="working")
    assert (tender.job.pages[0].name, tender.job.pages[0].use) == ("Pump", "working")
    tender.post("dash/page/", page="", display="dash", name="Second")
    second = tender.job.pages[1].id
    assert "Nothing stands on it" in text(tender.get("dash/", at=second))
    tender.post("dash/face/add/", page=second, what="channel battery")
    tender.post("dash/face/add/", page=second, what="lamp charge")
    assert [(one.channel, one.lamp) for one in tender.job.faces if one.page == second] == [
        ("battery", ""),
        (None, "charge"),
    ]
    tender.post("dash/page/move/", page=second, by="-1")
    assert tender.job.pages[0].id == second
    assert "Choose what it shows" in text(
        tender.client.post(tender.path("dash/face/add/"), {"page": second, "what": ""}, follow=True)
    )


def test_a_face_set_moved_and_taken_off(tender, text):
    face = next(one for one in tender.job.faces if one.channel == "coolant")
    fields = {
        "face": face.id,
        "kind": "figure",
        "label": "Water",
        "column": "5",
        "row": "1",
        "columns": "2",
        "rows": "2",
        "low": "50",
        "high": "120",
    }
    tender.post("dash/face/", **fields)
    now = next(one for one in tender.job.faces if one.id == face.id)
    assert (now.kind, now.label, now.low, now.high) == ("figure", "Water", 50.0, 120.0)
    refused = tender.post("dash/face/", **(fields | {"low": "130"}))
    assert refused.status_code == 422
    assert "above the low end" in text(refused)
    assert 'value="130"' in text(refused)
    moved = tender.post("dash/face/move/", face=face.id, column="99", row="3", htmx=True)
    assert 'id="page-stage"' in text(moved)
    now = next(one for one in tender.job.faces if one.id == face.id)
    assert (now.column, now.row) == (5, 3)
    assert "lie on one another" in text(tender.get("dash/"))
    assert 'role="alert"' in text(tender.post("dash/face/move/", face=face.id, column="x", row="", htmx=True))
    tender.post("dash/face/remove/", face=face.id, page=face.page)
    assert "its warning would come without its figure" in text(tender.get("dash/"))
    assert tender.post("dash/face/", face="nobody", kind="figure").status_code == 404


def test_more_pages_than_it_holds_are_refused_with_what_was_typed(tender, text):
    for i in range(2, 5):
        tender.post("dash/page/", page="", display="dash", name=f"Page {i}")
    answer = tender.post("dash/page/", page="", display="dash", name="The fifth")
    assert answer.status_code == 422
    assert "holds 4" in text(answer)
    assert len(tender.job.pages) == 4


def test_the_drive_comes_moment_by_moment(tender):
    page = tender.job.pages[0].id
    drive = tender.get("dash/drive.json", display="dash", page=page, mishap="oil").json()
    (now,) = (one for one in pages_of(tender.job, "dash") if one.page.id == page)
    assert drive["faces"] == [face.face.id for face in now.faces]
    assert len(drive["moments"]) == 249
    oil = drive["faces"].index(next(one.id for one in tender.job.faces if one.channel == "oil pressure"))
    assert drive["first"][1] == "Oil pressure"
    assert drive["moments"][-1][2][oil][2] == 1  # it is still lit at the end
    assert all(share is None or 0 <= share <= 1 for _, _, faces in drive["moments"] for _, share, _ in faces)
    assert tender.get("dash/drive.json", display="dash", page=page, mishap="x").status_code == 422
    assert tender.get("dash/drive.json", display="dash", page="x").status_code == 404


def test_lamps_are_ticked_off_and_outputs_set(tender, text):
    page = text(tender.get("dash/lamps/"))
    assert "Dash, On the road" in page
    assert "Nobody tells it" in page  # brakes: lost with the cluster in this job
    fields = {
        "display": "dash",
        "pin": "24",
        "function": "fan",
        "limit_a": "1.5 A",
        "drives_a": "0.2 A",
        "works_by": "screen switch",
        "backed_by": "nothing",
    }
    tender.post("dash/lamps/output/", **fields)
    assert tender.job.display("dash").pin_called("24").drive.backed_by == "nothing"
    assert "A fan that only the screen switches" in text(tender.get("dash/lamps/"))
    refused = tender.post("dash/lamps/output/", **(fields | {"drives_a": "-3"}))
    assert refused.status_code == 422
    assert 'value="-3"' in text(refused)
    assert tender.post("dash/lamps/output/", display="dash", pin="99").status_code == 404


def test_by_day_at_dusk_and_at_night(bay, tender, text):
    page = text(tender.get("dash/night/"))
    assert [words in page for words in ("By day", "At dusk", "At night")] == [True] * 3
    assert "Dash: dimmed" in page
    bay.record = import_job(bay.member, shipped("van"))
    assert text(bay.get("dash/night/")).count("<figure") == 12


def test_a_page_as_a_file(tender):
    page = tender.job.pages[0].id
    answer = tender.get("dash/page.svg", display="dash", page=page)
    assert answer.headers["Content-Type"] == "image/svg+xml"
    assert b"<svg" in answer.content
    assert tender.get("dash/page.svg", display="dash", page="x").status_code == 404


def test_a_job_from_nothing_says_where_to_begin(bay, text):
    from metrolex.job import Identity, Job, Vehicle

    bay.record = import_job(bay.member, Job("New", Vehicle(Identity("v"))))
    assert "There is no display yet" in text(bay.get("dash/"))
    assert "No display here has an output" in text(bay.get("dash/lamps/"))
    assert "Nothing is shown anywhere yet" in text(bay.get("dash/night/"))
