"""A page as PDF, with the print styles and nothing from outside."""

from __future__ import annotations

from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

from django.conf import settings
from django.contrib.staticfiles import finders

__all__ = ["pdf_of"]


def pdf_of(html: str) -> bytes:
    """The PDF of a page that prints with css/book.css."""
    # Imported late: only printing needs it, and it takes a while to load.
    from weasyprint import CSS, HTML
    from weasyprint.text.fonts import FontConfiguration

    fonts = FontConfiguration()
    sheets = [CSS(filename=finders.find("css/book.css"), font_config=fonts)]
    return (
        HTML(string=html, url_fetcher=_nothing_from_outside).write_pdf(stylesheets=sheets, font_config=fonts)
        or b""
    )


def _nothing_from_outside(url: str, *args: Any, **kwargs: Any) -> Any:
    from weasyprint import default_url_fetcher

    if not url.startswith("data:") and not _is_ours(url):
        raise ValueError("a printed page holds nothing but what it brings and our own static files")
    return default_url_fetcher(url, *args, **kwargs)


def _is_ours(url: str) -> bool:
    """Whether an address is of a file in a directory of static files."""
    parts = urlsplit(url)
    if parts.scheme != "file" or parts.netloc:
        return False
    place = Path(unquote(parts.path)).resolve()
    return any(place.is_relative_to(Path(root).resolve()) for root in settings.STATICFILES_DIRS)
