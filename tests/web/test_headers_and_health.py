"""What every answer carries, what a balancer asks, and what is said while the database is away."""

from __future__ import annotations

import logging

import pytest
from django.db import InterfaceError, OperationalError, connection
from django.http import HttpResponse

from workbench.log import WithRequest
from workbench.sheets import csv_answer


def test_pages_of_a_job_are_kept_by_no_cache(bay):
    for tail in ("", "feeds/", "handover/", "handover/job.json"):
        answer = bay.get(tail)
        assert answer.headers["Cache-Control"] == "no-store", tail
        assert "geolocation=()" in answer.headers["Permissions-Policy"]
        assert answer.headers["X-Request-ID"]


def test_head_is_answered_where_get_is(bay):
    for address in ("/", bay.path(), bay.path("feeds/"), bay.path("brief/"), "/log-in/", "/health/"):
        got, head = bay.client.get(address), bay.client.head(address)
        assert (head.status_code, head.content) == (got.status_code, b""), address


def test_a_balancer_is_told_whether_the_database_answers(client, db, monkeypatch):
    assert (client.get("/health/").status_code, client.get("/health/").content) == (200, b"well\n")

    def away():
        raise OperationalError("connection refused")

    with monkeypatch.context() as patch:
        patch.setattr(connection, "cursor", away)
        assert client.get("/health/").status_code == 503


@pytest.mark.parametrize(
    "fault", [OperationalError("server closed the connection"), InterfaceError("connection already closed")]
)
def test_without_a_database_a_page_says_so_at_once(bay, fault, monkeypatch):
    def away(*_, **__):
        raise fault

    bay.client.raise_request_exception = False
    with monkeypatch.context() as patch:
        patch.setattr("django.db.backends.utils.CursorWrapper.execute", away)
        answer = bay.get("feeds/")
        part = bay.client.post(bay.path("feeds/probe/"), {}, headers={"HX-Request": "true"})
    assert (answer.status_code, answer.headers["Retry-After"]) == (503, "30")
    assert b"nothing was changed" in answer.content
    assert (part.status_code, part.headers["Content-Type"]) == (503, "text/plain; charset=utf-8")


def test_another_fault_is_still_our_own(bay, monkeypatch):
    def broken(*_, **__):
        raise ZeroDivisionError

    bay.client.raise_request_exception = False
    monkeypatch.setattr("workbench.feeds.panels.page_context", broken)
    assert bay.get("feeds/").status_code == 500


def test_a_log_line_tells_the_request_and_the_workshop_and_nobodys_name(bay, caplog):
    caplog.handler.addFilter(WithRequest())
    with caplog.at_level(logging.INFO):
        answer = bay.get("feeds/nowhere/")
    assert answer.status_code == 404
    lines = [r for r in caplog.records if r.name == "django.request"]
    assert lines
    assert {r.request_id for r in lines} == {answer.headers["X-Request-ID"]}
    assert bay.user.username not in caplog.text


@pytest.mark.parametrize(
    ("cell", "written"),
    [
        ("=1+1", "'=1+1"),
        ("\t=1+1", "'\t=1+1"),
        ("＝cmd", "'＝cmd"),
        ("＠x", "'＠x"),
        (" =x", "' =x"),
        ("-12.5", "-12.5"),
        ("-2+3", "'-2+3"),
        ("+x", "'+x"),
        ("plain", "plain"),
    ],
)
def test_no_cell_is_taken_for_a_formula(cell, written):
    answer: HttpResponse = csv_answer("list", ["a"], [[cell]])
    import csv
    import io

    rows = list(csv.reader(io.StringIO(answer.content.decode())))
    assert rows[1] == [written]
