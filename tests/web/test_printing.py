"""Papers printed by the queue: sent where they are there, with their progress where they are not, once for each edition."""

from __future__ import annotations

import datetime
import io
import os
import signal
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

import pytest
from django.core.management import call_command
from django.db import connection
from django.utils import timezone
from pdfminer.high_level import extract_text
from procrastinate.contrib.django.models import ProcrastinateJob

import workbench.urls  # noqa: F401  with the addresses come the papers they give
from tests.web.served import asked, served_by
from workbench.printing import papers, tasks
from workbench.printing.models import LOST_AFTER, NOBODY_AFTER, Printed
from workbench.printing.papers import PAPERS

PDFS = {
    "book": "handover/book.pdf",
    "handed": "handover/as/1/book.pdf",
    "card": "handover/card.pdf",
    "fuses": "handover/fuses.pdf",
    "settings": "handover/settings.pdf",
    "work": "work/sheet.pdf",
    "tools": "work/tools.pdf",
    "quote": "work/quote.pdf",
    "wiring": "harness/diagram.pdf",
    "labels": "harness/labels.pdf",
    "stencil": "mount/template.pdf?mounting=gauge 1&kind=cup",
}


@pytest.fixture
def no_patience(monkeypatch):
    monkeypatch.setattr(papers, "PATIENCE_S", 0.0)


def test_every_paper_is_printed_with_its_pages(bay):
    assert set(PAPERS) == set(PDFS)
    bay.tap_a_fuel_pump()
    bay.post("handover/over/", to="Station two", reason="The pump's feed moves at the next visit")
    for name, address in PDFS.items():
        answer = bay.get(address)
        assert (answer.status_code, answer.content[:5]) == (200, b"%PDF-"), name
        assert answer.headers["Content-Type"] == "application/pdf", name
        assert "attachment" in answer.headers["Content-Disposition"], name
        printed = Printed.objects.get(record=bay.record, paper=name)
        assert printed.pages >= (4 if name in ("book", "handed") else 1), name


def test_the_words_of_a_drawing_stand_in_its_paper(bay):
    """A wiring diagram that is left out is worse than no paper."""
    words = extract_text(io.BytesIO(bay.get("harness/diagram.pdf").content))
    for said in ("Ground rail", "Gauge 1", "F31", "14.2"):
        assert said in words


def test_a_paper_is_printed_once_until_the_job_changes(bay, monkeypatch):
    printings = []
    html = PAPERS["fuses"].html
    counted = papers.Paper(
        "fuses", "The label", "handover:fuses_pdf", lambda *a, **k: printings.append(1) or html(*a, **k)
    )
    monkeypatch.setitem(PAPERS, "fuses", counted)
    first = bay.get("handover/fuses.pdf").content
    assert bay.get("handover/fuses.pdf").content == first
    assert len(printings) == 1
    bay.post("feeds/probe/", circuit="F14", state="later", reading="11.9")
    bay.get("handover/fuses.pdf")
    assert len(printings) == 2
    assert Printed.objects.filter(record=bay.record).count() == 1


def test_what_an_older_program_printed_is_printed_again(bay):
    """A new version is put in with ``migrate``, whether or not it has anything to migrate."""
    bay.get("handover/fuses.pdf")
    bay.get("handover/card.pdf")
    Printed.objects.filter(paper="card").update(done=None)  # on its way
    call_command("migrate", verbosity=0)
    assert set(Printed.objects.values_list("paper", flat=True)) == {"card"}
    assert bay.get("handover/fuses.pdf").content.startswith(b"%PDF-")


def test_the_wiring_is_printed_at_the_key_switch_as_it_stands(bay):
    bay.get("harness/diagram.pdf")
    bay.post("key-switch/", key="crank")
    name = bay.get("harness/diagram.pdf").headers["Content-Disposition"]
    assert "wiring-crank.pdf" in name
    assert Printed.objects.get(record=bay.record, paper="wiring").about["state"]["key"] == "crank"


@pytest.mark.queue
def test_while_it_waits_a_page_says_so(bay, text, no_patience):
    answer = bay.get("handover/book.pdf")
    assert answer.status_code == 202
    assert "it is next" in text(answer)
    assert ProcrastinateJob.objects.filter(task_name="print_paper", status="todo").count() == 1
    bay.get("handover/book.pdf")  # asked for again, it is not queued again
    assert ProcrastinateJob.objects.count() == 1
    printed = Printed.objects.get(record=bay.record)
    steps = [({"begun": timezone.now(), "progress": "Laying out page 3"}, "Laying out page 3")]
    steps += [
        ({"asked": timezone.now() - 2 * NOBODY_AFTER, "begun": None}, "worker of the queue is not running")
    ]
    steps += [({"failed": True}, "could not be printed")]
    for change, words in steps:
        Printed.objects.filter(pk=printed.pk).update(**change)
        assert words in text(bay.get("printing/book/"))
    assert "every 1s" not in bay.get("printing/book/").content.decode()


@pytest.mark.queue
def test_those_before_it_are_counted(bay, other_bay, text, no_patience):
    other_bay.get("handover/book.pdf")
    bay.get("harness/labels.pdf")
    assert "2 before it" in text(bay.get("handover/book.pdf"))


@pytest.mark.queue
@pytest.mark.parametrize("change", [{"failed": True}, {"begun": timezone.now() - 2 * LOST_AFTER}])
def test_what_failed_or_went_down_is_printed_when_it_is_asked_for_again(bay, no_patience, change):
    bay.get("handover/fuses.pdf")
    printed = Printed.objects.get(record=bay.record)
    Printed.objects.filter(pk=printed.pk).update(**change)
    assert bay.get("handover/fuses.pdf").status_code == 202
    assert ProcrastinateJob.objects.count() == 2
    tasks.print_paper.func(printed.pk)
    assert bay.get("handover/fuses.pdf").content.startswith(b"%PDF-")


@pytest.mark.queue
def test_two_workers_do_not_print_one_paper_twice(bay, no_patience, monkeypatch):
    bay.get("handover/book.pdf")
    printed = Printed.objects.get(record=bay.record)
    Printed.objects.filter(pk=printed.pk).update(begun=timezone.now() - datetime.timedelta(seconds=5))
    monkeypatch.setattr(tasks, "printed_pages", lambda *a: pytest.fail("printed twice"))
    tasks.print_paper.func(printed.pk)


@pytest.mark.queue
def test_a_paper_that_breaks_is_said_to_have_failed(bay, no_patience, monkeypatch, caplog):
    bay.get("handover/book.pdf")
    monkeypatch.setattr(tasks, "printed_pages", lambda *a: 1 / 0)
    with pytest.raises(ZeroDivisionError):
        tasks.print_paper.func(Printed.objects.get(record=bay.record).pk)
    assert Printed.objects.get(record=bay.record).failed
    assert "paper book" in caplog.text


def test_nobody_sees_how_far_the_papers_of_another_workshop_are(bay, other_bay):
    bay.get("handover/fuses.pdf")
    assert other_bay.client.get(bay.path("printing/fuses/")).status_code == 404
    assert bay.get("printing/fuses/").status_code == 200
    assert bay.get("printing/else/").status_code == 404


@pytest.mark.queue
@pytest.mark.django_db(transaction=True)
def test_the_server_has_its_worker_and_takes_it_along(bay):
    """Gunicorn as it is served in earnest: a book is printed by the worker beside it; killed without warning, none stays behind."""
    with served_by("-c", "python:workbench.serving", "--workers", "1") as (port, server):
        for _ in range(60):
            status, words = asked(port, bay, "handover/book.pdf")
            if status == 200:
                break
            assert status == 202
        assert words.startswith("%PDF-")
        children = [pid for pid, parent in processes() if parent == server.pid]
        (worker,) = (pid for pid in children if "procrastinate" in command_of(pid))
        os.kill(server.pid, signal.SIGKILL)
        server.wait()
        assert soon(lambda: "procrastinate" not in command_of(worker)), "the worker stayed behind"
        for child in {*children} - {
            worker
        }:  # gunicorn's own, which would look for its master only every now and then
            os.kill(child, signal.SIGKILL)
        assert soon(lambda: not others_connected()), "someone holds on to the database"


def soon(true: Callable[[], bool]) -> bool:
    """Whether something comes true within ten seconds."""
    for _ in range(100):
        if true():
            return True
        time.sleep(0.1)
    return False


def others_connected() -> int:
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()"
        )
        return cursor.fetchone()[0]


def processes() -> list[tuple[int, int]]:
    """(process, its parent) of all there are."""
    found = []
    for stat in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError):
            found.append((int(stat.parent.name), int(stat.read_text().rpartition(")")[2].split()[1])))
    return found


def command_of(pid: int) -> str:
    """How a process was called; '' where it has ended."""
    try:
        return Path(f"/proc/{pid}/cmdline").read_text()
    except OSError:
        return ""


def test_the_book_says_where_a_reading_without_a_port_comes_from(bay, text):
    """A second reading of a box, and a sender the vehicle has: neither is called 'not chosen'."""
    bay.post(
        "ports/reader/",
        channel="oil pressure",
        name="Old gauge",
        control="no",
        pull_up="90 ohm",
        reference="12",
    )
    book = text(bay.get("handover/book/"))
    assert "There already" in book
    assert "not chosen" not in book.split("<h3>Channels</h3>")[1].split("<h3>")[0]
