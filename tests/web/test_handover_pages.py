"""Handover: versions kept for good, what bars them, closing words, papers, what is changed later."""

from __future__ import annotations

import io
import json

import pytest
from pdfminer.high_level import extract_pages

from metrolex.handover import check_sum
from metrolex.harness.label_sheets import label_sheets
from metrolex.jobfile import job_from_text, job_to_text
from workbench.handover.models import Handed
from workbench.handover.papers import AS_HANDED, BOOK, CARD, FUSES, SETTINGS
from workbench.harness.papers import LABELS
from workbench.jobs.cache import JOBS
from workbench.pdf import printed_pages


def hand_over(bay, to="Station two", reason="The pump's feed moves at the next visit"):
    return bay.post("handover/over/", to=to, reason=reason)


def test_a_tapped_airbag_is_not_handed_over_with_any_reason(bay, text):
    answer = hand_over(bay)
    assert answer.status_code == 422
    assert "Put it right first." in text(answer)
    assert not Handed.objects.exists()


def test_what_bars_it_wants_a_reason(bay, text):
    bay.tap_a_fuel_pump()
    answer = hand_over(bay, reason="")
    assert answer.status_code == 422
    page = text(answer)
    assert "bars the handing over" in page
    assert 'value="Station two"' in page
    assert not Handed.objects.exists()
    assert hand_over(bay).status_code == 302
    handed = Handed.objects.get()
    assert handed.reason
    assert any(words.startswith("F9") for words in handed.passed)


def test_who_it_is_handed_to_must_be_said_and_once_is_enough(seater, text):
    assert hand_over(seater, to=" ").status_code == 422
    assert hand_over(seater, to="x" * 121).status_code == 422
    assert hand_over(seater, reason="not needed").status_code == 302
    assert Handed.objects.get().reason == ""
    assert "already, as version 1" in text(hand_over(seater))
    assert hand_over(seater, to="Its new owner").status_code == 302
    assert [one.number for one in Handed.objects.all()] == [2, 1]


def test_a_version_stays_as_it_was_and_what_is_since_is_said(seater, text):
    hand_over(seater)
    handed = Handed.objects.get()
    before = seater.job
    assert handed.job == before
    assert handed.check_sum == check_sum(before)
    assert "Nothing changed since" in text(seater.get("handover/"))
    seater.post(
        "handover/closing/", hours="14,5", open_items="tyre sensors to come", seen=str(seater.record.version)
    )
    page = text(seater.get("handover/"))
    assert "1 part changed since" in page
    assert "Since handover" in text(seater.get("handover/book/"))
    frozen = text(seater.get("handover/as/1/"))
    assert handed.sum_in_groups in frozen
    assert "tyre sensors" not in frozen
    assert "tyre sensors" in text(seater.get("handover/book/"))
    as_file = seater.get("handover/as/1/job.json").content.decode()
    assert job_from_text(as_file) == before
    assert check_sum(job_from_text(as_file)) == handed.check_sum
    for tail in ("", "book.pdf", "job.json"):
        assert seater.get(f"handover/as/9/{tail}").status_code == 404
        assert seater.post(f"handover/as/1/{tail}", to="me").status_code == 405
    assert Handed.objects.get().job_file == handed.job_file


def test_no_other_workshop_sees_a_version(bay, other_bay):
    bay.tap_a_fuel_pump()
    hand_over(bay)
    for tail in ("as/1/", "as/1/job.json", "as/1/book.pdf", "card.pdf", "rechecks.ics", "later/"):
        assert other_bay.client.get(f"/jobs/{bay.record.pk}/handover/{tail}").status_code == 404
    assert (
        other_bay.client.post(
            f"/jobs/{bay.record.pk}/handover/over/", {"to": "me", "reason": "x"}
        ).status_code
        == 404
    )
    assert Handed.objects.count() == 1


def test_a_reader_hands_nothing_over(seater, text):
    seater.member.role = "reader"
    seater.member.save()
    assert "You may read here" in text(hand_over(seater))
    assert not Handed.objects.exists()


def test_closing_words_are_kept_and_told_wrong_at_their_field(bay, text):
    answer = bay.post("handover/closing/", hours="many", left_in_box="x" * 130, hindsight="less tapping")
    assert answer.status_code == 422
    page = text(answer)
    assert 'value="many"' in page
    assert "less tapping" in page
    assert "At most 120 characters a line" in page
    bay.post(
        "handover/closing/",
        hours="6 1/2",
        km="84120",
        km_a_week="250",
        left_in_box="old sender\nspare plugs",
        hindsight="",
    )
    closing = bay.job.closing
    assert (closing.hours, closing.km, closing.km_a_week) == (6.5, 84120.0, 250.0)
    assert closing.left_in_box == ("old sender", "spare plugs")
    book = text(bay.get("handover/book/"))
    assert "old sender; spare plugs" in book


def test_the_book_tells_what_was_checked_and_what_was_not(bay, text):
    bay.post("proving/checked/", check="battery_off|short|T1", found="OL")
    bay.post("proving/checked/", check="battery_off|short|T2", found="not done: box sealed")
    bay.post(
        "proving/seen/",
        test="readout|battery|shown|",
        key="crank",
        lamps="off",
        engine="stopped",
        found="not done: no helper",
    )
    book = text(bay.get("handover/book/"))
    assert "open: no way to ground" in book
    assert "not done</b>: box sealed" in book
    assert "no helper" in book
    for words in ("What you will see", "What to do when", "Looked at again", "Its law", "Fed by"):
        assert words in book
    assert "Faults found and cured" in book


def test_the_calendar_file_and_labels(bay, text):
    answer = bay.get("handover/rechecks.ics")
    assert answer["Content-Type"].startswith("text/calendar")
    assert answer.content.count(b"BEGIN:VEVENT") == 3
    refused = bay.get("harness/labels.pdf?sheet=a4_65&first=66")
    assert refused.status_code == 302
    assert "1 to 65" in text(bay.get("handover/"))
    assert bay.get("harness/labels.pdf?sheet=round&first=1").status_code == 302


@pytest.mark.parametrize("size", ["A4", "letter"])
def test_papers_are_of_the_size_asked_for(size, bay):
    bay.tap_a_fuel_pump()
    hand_over(bay)
    job, address = JOBS.job_of(bay.record), "http://localhost/jobs/1/"
    made = {
        "book": BOOK.html(bay.record, job, address=address, size=size),
        "handed": AS_HANDED.html(bay.record, job, number=1, address=address, size=size),
        "card": CARD.html(bay.record, job, size=size),
        "fuses": FUSES.html(bay.record, job, size=size),
        "settings": SETTINGS.html(bay.record, job, size=size),
    }
    for name, html in made.items():
        assert ("size:letter" in html) == (size == "letter"), name
    for chain in job.chains:
        for x, _ in chain.scaling.table:
            assert f">{x:g}<" in made["settings"]
    pdf, pages = printed_pages(made["card"])
    assert pages == 1, "the owner's card is one page"
    (page,) = extract_pages(io.BytesIO(pdf))
    assert (page.width, page.height) == pytest.approx({"A4": (595, 842), "letter": (612, 792)}[size], abs=1)
    assert Handed.objects.get().sum_in_groups in made["handed"]


@pytest.mark.parametrize("key", list(label_sheets()))
def test_every_sheet_of_labels_prints(key, bay):
    html = LABELS.html(bay.record, bay.job, sheet=key, first=2)
    sheet = label_sheets()[key]
    _, pages = printed_pages(html)
    labels = 2 * len(bay.job.conductors)
    assert pages == -(-(labels + 1) // sheet.count)


def test_new_tyres_come_to_the_book_and_to_proving(seater, text):
    hand_over(seater)
    page = text(seater.get("handover/later/"))
    assert "New tyres" in page
    answer = seater.post("handover/later/tyres/", tyre="nothing", km="12 000")
    assert answer.status_code == 422
    assert 'value="nothing"' in text(answer)
    assert seater.post("handover/later/tyres/", tyre="200/50R13", km="1200", note="slicks").status_code == 302
    (page,) = seater.job.later
    assert (page.kind, page.km, page.note) == ("tyres", 1200.0, "slicks")
    assert "becomes" in page.follows[0]
    assert "Changed later" in text(seater.get("handover/book/"))
    assert "note it there" in text(seater.get("proving/plan/", htmx=True, phase="drive"))
    seater.post("handover/later/forget/", later=page.id)
    assert seater.job.later == ()
    assert seater.post("handover/later/wheels/", tyre="200/50R13").status_code == 404


def test_software_sender_and_tank_each_by_its_form(bay, text):
    display = bay.job.displays[0].id
    assert bay.post("handover/later/software/", display=display, version="2.4").status_code == 302
    assert bay.post("handover/later/sender/", of="coolant", sender="a brick").status_code == 422
    assert (
        bay.post("handover/later/sender/", of="coolant", sender="NTC, two wires, 1/8-27 NPT").status_code
        == 302
    )
    assert [one.kind for one in bay.job.later] == ["software", "sender"]
    assert bay.post("handover/later/tank/", of="coolant", capacity_l="60").status_code == 422
    assert "Another tank" not in text(bay.get("handover/later/"))


def test_the_shelf_leads_on_from_what_was_handed_over(seater, text):
    assert "Handed over" not in text(seater.client.get("/"))
    hand_over(seater)
    assert f"/jobs/{seater.record.pk}/handover/later/" in text(seater.client.get("/"))


def test_the_job_file_carries_all_of_it(bay):
    bay.post("handover/closing/", hours="3", hindsight="plug first, glue later")
    bay.post("proving/checked/", check="battery_off|short|T1", found="OL")
    bay.post("handover/later/tyres/", tyre="205/60R16")
    job = bay.job
    assert job_from_text(job_to_text(job)) == job
    plain = json.loads(bay.get("handover/job.json").content)
    assert {"closing", "checks", "later"} <= set(plain)
