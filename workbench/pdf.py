"""A page as PDF, with the print styles and nothing from outside."""

from __future__ import annotations

import functools
import logging
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

from django.conf import settings
from django.contrib.staticfiles import finders

__all__ = ["NotPrintedWhole", "pdf_of", "printed_pages"]

_STEPS = logging.getLogger("weasyprint.progress")
_STEPS.propagate = False  # for whoever waits, not for the server's log
_FAULTS = logging.getLogger("weasyprint")
_FAULTS.propagate = False  # told by NotPrintedWhole


class NotPrintedWhole(Exception):
    """Something the page shows could not be read or drawn: a wiring diagram that is left out is worse than no paper."""


def pdf_of(html: str) -> bytes:
    """The PDF of a page that prints with css/book.css. Raises NotPrintedWhole."""
    return printed_pages(html)[0]


def printed_pages(html: str, tell: Callable[[str], object] = lambda words: None) -> tuple[bytes, int]:
    """The PDF and how many pages it has; ``tell`` is told in words how far it is. Raises NotPrintedWhole."""
    # Imported late: only printing needs it, and it takes a while to load.
    from weasyprint import CSS, HTML
    from weasyprint.text.fonts import FontConfiguration

    fonts = FontConfiguration()
    sheets = [CSS(filename=finders.find("css/book.css"), font_config=fonts, url_fetcher=_fetcher())]
    with _told(tell), _whole():
        document = HTML(string=html, url_fetcher=_fetcher()).render(stylesheets=sheets, font_config=fonts)
        pages = len(document.pages)
        tell(f"Writing {pages} page{'s' if pages > 1 else ''}")
        return document.write_pdf() or b"", pages


class _Teller(logging.Handler):
    """Passes on what the printing says of its steps, in our words."""

    def __init__(self, tell: Callable[[str], object]) -> None:
        super().__init__(logging.INFO)
        self.tell = tell

    def emit(self, record: logging.LogRecord) -> None:
        step, _, page = record.getMessage().partition(" - Page ")
        if page:
            self.tell(f"Laying out page {page}")
        elif "CSS" in step or "HTML" in step:
            self.tell("Reading what is to be printed")


@contextmanager
def _told(tell: Callable[[str], object]) -> Iterator[None]:
    teller, level = _Teller(tell), _STEPS.level
    _STEPS.addHandler(teller)
    _STEPS.setLevel(logging.INFO)
    try:
        yield
    finally:
        _STEPS.removeHandler(teller)
        _STEPS.setLevel(level)


class _Missed(logging.Handler):
    """Collects what this thread's printing leaves out; what it says of a picture is the picture itself, so all but its beginning is cut."""

    def __init__(self) -> None:
        super().__init__(logging.ERROR)
        self.thread = threading.get_ident()
        self.found: list[str] = []

    def emit(self, record: logging.LogRecord) -> None:
        if record.thread == self.thread:
            args = record.args if isinstance(record.args, tuple) else ()
            self.found.append(record.msg % tuple(str(one)[:120] for one in args))


@contextmanager
def _whole() -> Iterator[None]:
    missed = _Missed()
    _FAULTS.addHandler(missed)
    try:
        yield
    finally:
        _FAULTS.removeHandler(missed)
    if missed.found:
        raise NotPrintedWhole("; ".join(missed.found[:3]))


@functools.cache
def _fetcher() -> Any:
    """Reads what a page brings within itself and our own static files; anything else is left out of the print."""
    from weasyprint.urls import URLFetcher

    class OnlyOurs(URLFetcher):  # type: ignore[misc]
        def fetch(self, url: str, headers: Any = None) -> Any:
            if not url.startswith("data:") and not _is_ours(url):
                raise ValueError("a printed page holds nothing but what it brings and our own static files")
            return super().fetch(url, headers)

    return OnlyOurs(allowed_protocols={"data", "file"}, allow_redirects=False)


def _is_ours(url: str) -> bool:
    """Whether an address is of a file in a directory of static files."""
    parts = urlsplit(url)
    if parts.scheme != "file" or parts.netloc:
        return False
    place = Path(unquote(parts.path)).resolve()
    return any(place.is_relative_to(Path(root).resolve()) for root in settings.STATICFILES_DIRS)
