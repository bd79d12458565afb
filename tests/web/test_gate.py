"""What is refused before it is read: too much, and what is no text."""

from __future__ import annotations

import http.client

import pytest
from django.conf import settings
from django.test import Client

from tests.web.served import served_by
from workbench.jobs.models import JobRecord
from workbench.work.models import StepPhoto

MUCH = 600_000_000


@pytest.mark.django_db
@pytest.mark.parametrize("path", ["/log-in/", "/", "/jobs/new/", "/jobs/from-file/"])
def test_a_stranger_sends_a_name_and_a_password_and_no_more(path):
    client = Client()
    much = {"CONTENT_LENGTH": str(settings.STRANGERS_MAX_BYTES + 1)}
    assert client.post(path, **much).status_code == 413
    assert (
        Client(enforce_csrf_checks=True).post("/log-in/", **much).status_code == 413
    )  # before the token is looked for
    assert client.post("/log-in/", {"username": "x", "password": "y" * 100}).status_code == 200


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize("chunked", [False, True])
def test_a_flood_is_answered_at_its_first_bytes(chunked):
    """600 MB for the log-in page: refused while next to nothing of it was sent."""
    with served_by("-c", "python:workbench.serving", "--workers", "1") as (port, _):
        link = http.client.HTTPConnection("127.0.0.1", port, timeout=20)
        link.putrequest("POST", "/log-in/")
        link.putheader("Content-Type", "multipart/form-data; boundary=x")
        if chunked:
            link.putheader("Transfer-Encoding", "chunked")
            link.endheaders()
            link.send(b"10000\r\n" + b"x" * 0x10000 + b"\r\n")
        else:
            link.putheader("Content-Length", str(MUCH))
            link.endheaders()
            link.send(b"x" * 0x1000)
        answer = link.getresponse()
        assert answer.status == (411 if chunked else 413)
        assert answer.getheader("Connection") == "close"
        link.close()


def test_who_is_logged_in_sends_no_more_than_the_page_takes(bay, text):
    most = settings.DATA_UPLOAD_MAX_MEMORY_SIZE
    answer = bay.client.post(bay.path("feeds/probe/"), CONTENT_LENGTH=str(most + 1))
    assert answer.status_code == 413
    assert "At most 4.2 MB" in text(answer)
    much = {"CONTENT_LENGTH": str(most + 15_000_001)}  # a photograph's size on top of a form's
    assert bay.client.post(bay.path("work/photo/"), **much).status_code == 413
    assert bay.client.post("/jobs/from-file/", CONTENT_LENGTH="x" * 40).status_code == 413


@pytest.mark.parametrize("sign", ["%00", "a%00b", "%0B", "%EF%BF%BE"])
@pytest.mark.parametrize(
    "tail",
    [
        "mount/photo/show.jpg?site=",
        "ports/?channel=",
        "harness/?run=",
        "?x=",
        "faults/?search=",
        "dash/?face=",
    ],
)
def test_what_is_no_text_in_an_address_is_refused_in_one_place(tail, sign, bay):
    assert bay.client.get(bay.path(tail) + sign).status_code == 400


@pytest.mark.parametrize(
    ("tail", "data"),
    [
        ("mount/photo/out/", {"site": "a\x00"}),
        ("work/photo/", {"step": "\x00"}),
        ("faults/end/", {"search": "\x00", "cause": "x\x00"}),
        ("waiver/", {"code": "\x00", "subject": "\x00", "reason": "\x00"}),
    ],
)
def test_what_is_no_text_in_a_form_that_is_looked_up_breaks_nothing(tail, data, bay):
    assert bay.client.post(bay.path(tail), data).status_code in (302, 400, 404, 422)


def test_the_last_photograph_a_job_may_have_is_counted_once_at_a_time(bay):
    """The count and the keeping are one: the record is locked between them."""
    from django.db import connection
    from django.test.utils import CaptureQueriesContext

    from workbench.work.photos import _keep

    with CaptureQueriesContext(
        connection,
    ) as asked:
        _keep(JobRecord.objects.get(pk=bay.record.pk), "x", "", b"jpeg")
    said = [one["sql"] for one in asked]
    lock = next(i for i, sql in enumerate(said) if "FOR NO KEY UPDATE" in sql)
    count = next(i for i, sql in enumerate(said) if "COUNT" in sql)
    assert lock < count
    assert StepPhoto.objects.count() == 1


def test_a_reader_who_is_refused_teaches_the_workshop_nothing(bay):
    bay.member.role = bay.member.Role.READER
    bay.member.save()
    before = bay.workshop.library_version
    bay.post("faults/end/", search="search 1", cause="a joint")
    bay.workshop.refresh_from_db()
    assert bay.workshop.library_version == before


def test_the_demo_starts_again_beside_a_workshop_of_ones_own(db, settings):
    from django.core.management import CommandError, call_command

    from workbench.accounts.models import Workshop
    from workbench.jobs.management.commands import prepare

    prepare.load_demo()
    Workshop.objects.create(name="One's own")
    assert prepare._demo_is_there()
    call_command("prepare", demo=True)
    assert prepare.load_demo() is None
    from django.contrib.auth import get_user_model

    get_user_model().objects.filter(is_demo=True).delete()
    with pytest.raises(CommandError, match="workshops of its own"):
        call_command("prepare", demo=True)
