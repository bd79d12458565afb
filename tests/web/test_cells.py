"""A cell of a sheet answers with its row; all else follows on its own, and nothing hangs on that it did."""

from __future__ import annotations

import logging

import pytest

from metrolex.acts.harness import set_wire
from metrolex.faults import what_if
from metrolex.job import State
from metrolex.twin import build, expect
from tests.web.forms_of import read_page
from workbench.jobs import door, summary
from workbench.jobs.door import change
from workbench.jobs.models import JobRecord

SEEN = {"key": "run", "lamps": "off", "engine": "stopped"}


def test_a_probe_cell_answers_with_its_row_alone(bay, text):
    answer = bay.post("feeds/probe/", htmx=True, circuit="F31", state="later", reading="0.2")
    said = text(answer)
    assert 'id="class-F31"' in said
    assert "timed" in said
    assert said.count('id="class-') == 1
    assert 'id="findings"' not in said
    assert "job-changed" in answer.headers["HX-Trigger"]


def test_what_hangs_on_a_cell_follows(bay, text):
    before = text(bay.get("feeds/live/"))
    bay.post("feeds/probe/", htmx=True, circuit="F31", state="later", reading="0.2")
    after = text(bay.get("feeds/live/"))
    assert "goes to sleep" in after
    assert "goes to sleep" not in before
    for part in ("panel", "live", "spine", "findings"):
        assert f'id="{part}"' in after
    assert after.count('id="class-') == len(bay.job.circuits)


def test_a_refused_cell_asks_for_nothing_more(bay):
    answer = bay.post("feeds/probe/", htmx=True, circuit="F31", state="later", reading="900")
    assert "HX-Trigger" not in answer.headers


def test_a_test_seen_answers_with_its_verdict_and_the_counts_follow(bay, text):
    bay.post("key-switch/", key="run", engine="stopped", next=bay.path())
    network = build(bay.job)
    test = expect(network, State("run"))[0].point.test.key
    answer = bay.post("proving/seen/", htmx=True, test=test, found="0.5", **SEEN)
    assert text(answer).count('id="verdict-') == 1
    assert "below the band" in text(answer)
    assert "job-changed" in answer.headers["HX-Trigger"]
    assert f"{len(bay.job.observations)} seen in all" in text(bay.get("proving/live/"))


def test_the_faults_of_a_channel_are_worked_out_when_it_is_opened(bay, text):
    page = text(bay.get("proving/"))
    assert "sender lead broken" not in page.lower()
    look = build(bay.job)
    channel = bay.job.chain("coolant")
    shown = text(bay.get("proving/faults/", channel="coolant"))
    wanted = what_if(look, State("run", "off", "running"), channel)
    assert wanted
    for fault in wanted:
        assert fault.words in shown
    assert wanted[0].words in text(bay.get("proving/", channel="coolant"))
    assert bay.get("proving/faults/", channel="gone").status_code == 404


def test_the_summary_is_worked_out_after_the_answer_and_by_the_shelf_where_it_was_not(bay, monkeypatch, text):
    monkeypatch.setattr(door, "keep_summary", lambda *_: None)
    bay.post("feeds/tap/remove/", tap="T1")
    record = JobRecord.objects.get(pk=bay.record.pk)
    assert record.summary_version < record.version
    monkeypatch.undo()
    page = text(bay.client.get("/"))
    record.refresh_from_db()
    assert record.summary_version == record.version
    assert record.next_words in page


def test_a_summary_of_an_older_version_is_not_stored_over_a_newer_one(bay):
    old, before = JobRecord.objects.get(pk=bay.record.pk), bay.job
    change(bay.record, lambda job: set_wire(job, "W3", {"length_m": 3.3}), by=None)
    summary.keep_summary(old, before)
    record = JobRecord.objects.get(pk=bay.record.pk)
    assert record.summary_version == record.version


def test_what_goes_wrong_after_an_answer_is_logged_and_loses_nothing(bay, monkeypatch, caplog):
    def fail(*_):
        raise RuntimeError("no room")

    monkeypatch.setattr(door, "keep_summary", fail)
    with caplog.at_level(logging.ERROR):
        answer = bay.post("feeds/probe/", htmx=True, circuit="F31", state="later", reading="0.2")
    assert answer.status_code == 200
    assert "no room" in caplog.text
    assert bay.job.circuit("F31").readings.later == 0.2


@pytest.mark.parametrize("tail", ["feeds/live/", "proving/live/", "proving/faults/?channel=coolant"])
def test_another_workshop_gets_none_of_it(tail, bay, other_bay):
    assert other_bay.client.get(bay.path(tail)).status_code == 404


@pytest.mark.parametrize(
    ("tail", "data", "page"),
    [
        ("feeds/live/", None, "feeds/"),
        ("proving/live/", None, "proving/"),
        ("feeds/circuit/", {"circuit": "F99"}, "feeds/"),
        ("feeds/?slot=F9", None, "feeds/?slot=F9"),
    ],
)
def test_what_is_sent_from_a_part_of_a_page_or_a_refused_form_comes_back_to_a_page(tail, data, page, bay):
    """Waiving a stop or turning the key there must not lead to an address that is no page."""
    bay.tap_a_fuel_pump()
    answer = bay.get(tail) if data is None else bay.post(tail, **data)
    assert answer.status_code == (200 if data is None else 422)
    forms, _ = read_page(answer.content.decode())
    backs = {values[0] for form in forms for name, values in form.fields.items() if name == "next"}
    assert backs <= {bay.path(page)}
    assert backs or tail == "proving/live/"
    for address in backs:
        assert bay.client.get(address).status_code == 200
