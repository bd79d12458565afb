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
import time_machine
from django.core.management import call_command
from django.db import connection
from django.utils import timezone
from pdfminer.high_level import extract_text
from procrastinate.contrib.django.models import ProcrastinateJob

import workbench.urls  # noqa: F401  with the addresses come the papers they give
from metrolex.limits import limit
from tests.web.served import asked, served_by
from workbench.printing import papers, tasks
from workbench.printing.models import LOST_AFTER, NOBODY_AFTER, Printed
from workbench.printing.papers import PAPERS

PAGE_S = 0.5  # generously: a page of this job

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
    Printed.objects.update(done=timezone.now() - 2 * papers.OLD_AFTER)
    bay.post("feeds/probe/", circuit="F14", state="later", reading="12.0")
    bay.get("handover/fuses.pdf")  # the older ones are forgotten as a new one is asked for
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
    keys = [
        one.about["state"].get("key", "run")
        for one in Printed.objects.filter(paper="wiring").order_by("asked")
    ]
    assert keys == ["run", "crank"]


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("mount/template.pdf?mounting=gauge 1&kind=drill", "mount/template.pdf?mounting=gauge 1&kind=cup"),
        ("mount/template.pdf?mounting=gauge 1&kind=drill", "mount/template.pdf?mounting=gauge 2&kind=drill"),
        ("handover/card.pdf", "handover/card.pdf?size=letter"),
        ("harness/labels.pdf", "harness/labels.pdf?sheet=a4_65&first=5"),
    ],
)
def test_a_paper_with_other_options_is_another_paper(bay, one, other):
    """A template at another's size is a hole in the wrong place."""
    first, second = bay.get(one).content, bay.get(other).content
    assert first != second
    assert bay.get(one).content == first
    assert bay.get(other).content == second


def test_a_template_says_what_it_is_of_and_its_scale(bay):
    name = bay.job.display("gauge 1").name
    words = extract_text(io.BytesIO(bay.get("mount/template.pdf?mounting=gauge 1&kind=drill").content))
    for said in (name, "drill template", "Scale 1:1", bay.job.sites[0].name):
        assert said in " ".join(words.split())


def test_the_job_sheet_of_today_is_not_that_of_tomorrow(bay):
    now = timezone.now()
    with time_machine.travel(now, tick=False):
        today = bay.get("work/sheet.pdf").content
        assert bay.get("work/sheet.pdf").content == today
    with time_machine.travel(now + datetime.timedelta(days=1), tick=False):
        assert bay.get("work/sheet.pdf").content != today


@pytest.mark.queue
def test_no_request_waits_for_the_queue(bay):
    begun = time.monotonic()
    for first in range(1, 11):
        assert bay.get(f"harness/labels.pdf?sheet=a4_65&first={first}").status_code == 202
    assert time.monotonic() - begun < 20 * PAGE_S


@pytest.mark.queue
def test_a_workshop_has_its_share_of_the_queue_and_no_more(bay, other_bay, text, monkeypatch):
    """Whoever asks for fifty papers at once is told, and the one of another workshop is printed second."""
    answers = [bay.get(f"harness/labels.pdf?sheet=a4_65&first={first}") for first in range(1, 25)]
    most = int(limit("printing", "waiting"))
    assert [answer.status_code for answer in answers] == [202] * most + [429] * (24 - most)
    assert f"{most} papers of your workshop are waiting" in text(answers[-1])
    mine = other_bay.get("handover/fuses.pdf")
    assert "1 before it" in text(mine)
    monkeypatch.setattr(tasks, "printed_pages", lambda *a: (b"%PDF-", 1))
    for _ in range(2):
        tasks.print_paper.func(0)
    assert other_bay.get("handover/fuses.pdf").status_code == 200
    assert Printed.objects.filter(record=bay.record).exclude(done=None).count() == 1


@pytest.mark.queue
def test_while_it_waits_a_page_says_so(bay, text):
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
        assert words in text(bay.get(f"printing/{printed.key}/"))
    assert "every 1s" not in bay.get(f"printing/{printed.key}/").content.decode()


@pytest.mark.queue
def test_those_before_it_are_counted(bay, other_bay, text):
    other_bay.get("handover/book.pdf")
    bay.get("harness/labels.pdf")
    assert "2 before it" in text(bay.get("handover/book.pdf"))


@pytest.mark.queue
@pytest.mark.parametrize("change", [{"failed": True}, {"begun": timezone.now() - 2 * LOST_AFTER}])
def test_what_failed_or_went_down_is_printed_when_it_is_asked_for_again(bay, change):
    bay.get("handover/fuses.pdf")
    printed = Printed.objects.get(record=bay.record)
    Printed.objects.filter(pk=printed.pk).update(**change)
    assert bay.get("handover/fuses.pdf").status_code == 202
    assert ProcrastinateJob.objects.count() == 2
    tasks.print_paper.func(printed.pk)
    assert bay.get("handover/fuses.pdf").content.startswith(b"%PDF-")


@pytest.mark.queue
def test_two_workers_do_not_print_one_paper_twice(bay, monkeypatch):
    bay.get("handover/book.pdf")
    printed = Printed.objects.get(record=bay.record)
    Printed.objects.filter(pk=printed.pk).update(begun=timezone.now() - datetime.timedelta(seconds=5))
    monkeypatch.setattr(tasks, "printed_pages", lambda *a: pytest.fail("printed twice"))
    tasks.print_paper.func(printed.pk)


@pytest.mark.queue
def test_a_paper_that_breaks_is_said_to_have_failed(bay, monkeypatch, caplog):
    bay.get("handover/book.pdf")
    monkeypatch.setattr(tasks, "printed_pages", lambda *a: 1 / 0)
    with pytest.raises(ZeroDivisionError):
        tasks.print_paper.func(Printed.objects.get(record=bay.record).pk)
    assert Printed.objects.get(record=bay.record).failed
    assert "paper book" in caplog.text


def test_nobody_sees_how_far_the_papers_of_another_workshop_are(bay, other_bay):
    bay.get("handover/fuses.pdf")
    key = Printed.objects.get(record=bay.record).key
    assert other_bay.client.get(bay.path(f"printing/{key}/")).status_code == 404
    assert bay.get(f"printing/{key}/").status_code == 200
    assert bay.get("printing/else/").status_code == 404


@pytest.mark.queue
@pytest.mark.django_db(transaction=True)
def test_the_server_has_its_worker_and_takes_it_along(bay):
    """Gunicorn as it is served in earnest: a book is printed by the worker beside it; killed without warning, none stays behind."""
    with served_by("-c", "python:workbench.serving", "--workers", "1") as (port, server):
        assert soon(lambda: asked(port, bay, "handover/fuses.pdf")[0] == 200, 60)
        children = [pid for pid, parent in processes() if parent == server.pid]
        (keeper,) = (pid for pid in children if "workbench.keeper" in command_of(pid))
        os.kill(worker_of(keeper), signal.SIGKILL)
        assert soon(lambda: asked(port, bay, "handover/card.pdf")[0] == 200, 60), "nobody started it again"
        worker = worker_of(keeper)
        os.kill(server.pid, signal.SIGKILL)
        server.wait()
        assert soon(lambda: not command_of(worker)), "the worker stayed behind"
        assert soon(lambda: "workbench.keeper" not in command_of(keeper)), "its keeper stayed behind"
        for child in {*children} - {
            keeper
        }:  # gunicorn's own, which would look for its master only every now and then
            os.kill(child, signal.SIGKILL)
        assert soon(lambda: not others_connected()), "someone holds on to the database"


def worker_of(keeper: int) -> int:
    """The process the keeper keeps; 0 while there is none."""
    return next(
        (pid for pid, parent in processes() if parent == keeper and "print_papers" in command_of(pid)), 0
    )


def soon(true: Callable[[], bool], seconds: float = 10.0) -> bool:
    """Whether something comes true within some seconds."""
    for _ in range(int(10 * seconds)):
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
