"""A page printed by a browser without a window: whole, by its own style, and from nothing but what it brings."""

from __future__ import annotations

import base64
import http.server
import io
import stat
import threading

import pytest
from django.test import override_settings
from pdfminer.high_level import extract_pages, extract_text

from metrolex import limits
from workbench import pdf
from workbench.pdf import NotPrinted, pdf_of, printed_pages
from workbench.printing.checks import browser_is_there

TALL = '<svg xmlns="http://www.w3.org/2000/svg" width="90" height="2400"><path d="M0 0L90 2400" stroke="#f00"/></svg>'
TURNED = "<p>1</p><p style='break-before:page'>2</p><p style='break-before:page'>3</p>"


def pages(html):
    return printed_pages(html)[1]


def test_pages_are_counted_and_numbered_by_the_style():
    whole, count = printed_pages('<p>one</p><p style="break-before:page">two</p>')
    assert (whole[:5], count) == (b"%PDF-", 2)
    words = "".join(extract_text(io.BytesIO(whole)).split())
    assert words == "one1/2two2/2"


def test_a_page_s_own_size_comes_after_ours():
    for size, wanted in (("letter", (612, 792)), ("A4", (595, 842)), ("A5 landscape", (595, 420))):
        html = f"<html><head><title>x</title><style>@page{{size:{size}}}</style></head><p>x</p></html>"
        (page,) = extract_pages(io.BytesIO(pdf_of(html)))
        assert (page.width, page.height) == pytest.approx(wanted, abs=1), size


def test_a_picture_it_brings_is_printed():
    brought = "data:image/svg+xml;base64," + base64.b64encode(TALL.encode()).decode()
    assert pages(TALL) == 3
    assert pages(f'<img src="{brought}">') == 3


@pytest.fixture
def elsewhere(tmp_path):
    """Files and a server beside the page; what was asked of the server."""
    (tmp_path / "tall.svg").write_text(TALL)
    (tmp_path / "turned.html").write_text(TURNED)
    (tmp_path / "style.css").write_text("p{break-after:page}")
    asked = []

    class Server(http.server.SimpleHTTPRequestHandler):
        def do_GET(self):
            asked.append(self.path)
            super().do_GET()

        def log_message(self, *_):
            pass

    with http.server.ThreadingHTTPServer(
        ("127.0.0.1", 0), lambda *a: Server(*a, directory=tmp_path)
    ) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield (f"file://{tmp_path}", f"http://127.0.0.1:{server.server_port}"), asked
        server.shutdown()


@pytest.mark.parametrize(
    "given",
    [
        '<p>x</p><img src="{at}/tall.svg">',
        '<p>x</p><svg width="9" height="9"><image href="{at}/tall.svg" width="90" height="2400"/></svg>',
        '<p>x</p><iframe src="{at}/turned.html" style="height:2400px" hidden></iframe>',
        '<p>x</p><object data="{at}/tall.svg"></object><embed src="{at}/tall.svg">',
        '<p>x</p><link rel="stylesheet" href="{at}/style.css"><style>@import url("{at}/style.css")</style><p>y</p>',
        '<meta http-equiv="refresh" content="0;url={at}/turned.html"><p>x</p>',
        '<p>x</p><script src="{at}/any.js"></script><script>document.body.innerHTML = "'
        + TURNED
        + '"</script>',
        '<p>x</p><img src="data:," onerror="document.body.innerHTML = `' + TURNED + '`">',
    ],
)
def test_nothing_from_elsewhere_comes_into_the_print_and_no_script_runs(elsewhere, given):
    places, asked = elsewhere
    for at in places:
        assert pages(given.replace("{at}", at)) == 1
    assert asked == []


def test_a_browser_that_takes_too_long_is_ended_with_what_it_started(tmp_path, monkeypatch):
    mark = tmp_path / "mark"
    slow = tmp_path / "slow"
    slow.write_text(f"#!/bin/sh\n(sleep 2; touch {mark}) &\nsleep 9\n")
    slow.chmod(slow.stat().st_mode | stat.S_IXUSR)
    monkeypatch.setattr(pdf, "limit", lambda *names: 0.3 if names[0] == "printing" else limits.limit(*names))
    with override_settings(PRINTING_BROWSER=str(slow)), pytest.raises(NotPrinted, match="longer than"):
        pdf_of("<p>x</p>")
    threading.Event().wait(2.3)
    assert not mark.exists()


@pytest.mark.parametrize(
    ("program", "words"),
    [("no-such-browser", "is not installed"), ("true", "without a PDF"), ("false", "ended with 1")],
)
def test_a_browser_that_is_not_there_or_breaks_is_told(program, words):
    with override_settings(PRINTING_BROWSER=program), pytest.raises(NotPrinted, match=words):
        pdf_of("<p>x</p>")


@pytest.mark.parametrize(
    ("user", "sandbox", "wanted"), [(1000, True, True), (0, True, False), (1000, False, False)]
)
def test_the_browser_keeps_its_sandbox_unless_it_is_root_or_told_not_to(monkeypatch, user, sandbox, wanted):
    monkeypatch.setattr(pdf.os, "geteuid", lambda: user)
    with override_settings(PRINTING_SANDBOX=sandbox):
        assert ("--no-sandbox" not in pdf._browser()) == wanted


def test_a_workshop_s_server_has_its_sandbox():
    from workbench.settings import base

    assert base.PRINTING_SANDBOX


def test_whoever_starts_the_server_is_told_that_nothing_can_be_printed():
    assert not browser_is_there(None)
    with override_settings(PRINTING_BROWSER="no-such-browser"):
        assert [one.id for one in browser_is_there(None)] == ["printing.W001"]


@pytest.mark.django_db
def test_a_card_that_cannot_be_printed_is_said_not_to_be(bay, text):
    bay.client.raise_request_exception = False
    with override_settings(PRINTING_BROWSER="no-such-browser"):
        answer = bay.get("ports/card/pdf/", channel="coolant")
    assert answer.status_code == 500
    assert "Not printed" in text(answer)


@pytest.mark.django_db
@override_settings(DEBUG=False)
def test_a_pdf_is_still_a_pdf_in_production(bay):
    assert bay.get("handover/fuses.pdf").content.startswith(b"%PDF-")
