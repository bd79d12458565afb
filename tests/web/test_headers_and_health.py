"""What every answer carries, what a balancer asks, and what is said while the database is away."""

from __future__ import annotations

import io
import logging

import pytest
from django.db import OperationalError, connection
from django.http import HttpResponse
from django.test import override_settings
from psycopg_pool import PoolTimeout

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
    "fault", [OperationalError("server closed the connection"), PoolTimeout("no connection")]
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


def test_a_printed_page_reads_our_static_files_only(tmp_path):
    from django.contrib.staticfiles import finders

    from workbench.pdf import _is_ours

    assert _is_ours(f"file://{finders.find('css/book.css')}")
    secret = tmp_path / "secret"
    secret.write_text("x")
    for address in (
        f"file://{secret}",
        "file:///etc/passwd",
        f"file://{finders.find('css/book.css')}/../../../settings/base.py",
        "file://elsewhere/etc/passwd",
        "http://127.0.0.1/",
    ):
        assert not _is_ours(address), address


def test_a_picture_it_brings_is_printed_and_with_one_from_elsewhere_nothing_is(tmp_path):
    import base64

    from workbench.pdf import NotPrintedWhole, printed_pages

    drawing = (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path d="M0 0L{} 9" stroke="#f00"/></svg>'
    )
    secret = tmp_path / "secret.svg"
    secret.write_text(drawing.format(7))
    brought = "data:image/svg+xml;base64," + base64.b64encode(drawing.format(8).encode()).decode()
    plain, _ = printed_pages("<p>x</p>")
    with_it, _ = printed_pages(f'<p>x</p><img src="{brought}">')
    assert len(with_it) > len(plain) + 20
    for elsewhere in (f"file://{secret}", "http://127.0.0.1:9/x.png"):
        with pytest.raises(NotPrintedWhole, match="our own static files"):
            printed_pages(f'<p>x</p><img src="{elsewhere}">')


def test_a_drawing_that_cannot_be_drawn_is_not_left_out_in_silence(monkeypatch):
    """The log names nobody: neither does it hold the drawing, whose words are the job's."""
    from weasyprint.svg import SVG

    from workbench.drawing import Drawing, as_image
    from workbench.pdf import NotPrintedWhole, printed_pages

    sheet = Drawing(900, 900, "Wiring")
    for i in range(60):
        sheet.line(0, i, 900, i)
    printed_pages(as_image(str(sheet)))
    monkeypatch.setattr(SVG, "draw_node", lambda *a, **k: 1 / 0)
    lines = io.StringIO()
    log = logging.StreamHandler(lines)  # caplog hears what the server's log does not
    logging.getLogger().addHandler(log)
    try:
        with pytest.raises(NotPrintedWhole) as told:
            printed_pages(as_image(str(sheet)))
    finally:
        logging.getLogger().removeHandler(log)
    assert len(str(told.value)) < 300
    assert lines.getvalue() == ""


@override_settings(DEBUG=False)
def test_a_pdf_is_still_a_pdf(bay):
    assert bay.get("handover/fuses.pdf").content.startswith(b"%PDF-")
