"""A page as PDF, with the print styles and nothing from outside."""

from __future__ import annotations

from typing import Any

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

    if not url.startswith(("data:", "file:")):
        raise ValueError("a printed page holds nothing from outside")
    return default_url_fetcher(url, *args, **kwargs)
