"""A page as PDF: printed by a browser without a window, with the print styles, from what the page brings and nothing else.

The page runs no script and reaches neither network nor files: its own policy forbids both, and no name is looked up. The browser is a
process of its own with a place of its own, and is ended with all it started if it takes too long.
"""

from __future__ import annotations

import base64
import functools
import os
import re
import shutil
import signal
import subprocess
import tempfile
from pathlib import Path

from django.conf import settings
from django.contrib.staticfiles import finders

from metrolex.limits import limit

__all__ = ["NotPrinted", "pdf_of", "printed_pages"]

_POLICY = "default-src 'none'; style-src 'unsafe-inline'; img-src data:; font-src data:"
_FLAGS = (
    "--headless",
    "--disable-gpu",
    "--disable-dev-shm-usage",  # a container has next to none of it
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
    "--host-resolver-rules=MAP * ~NOTFOUND",
    "--no-pdf-header-footer",
    "--disable-pdf-tagging",  # of a long table it is four fifths of the file, and a quarter of the time
)
_PAGE = re.compile(rb"/Type\s*/Page\b")


class NotPrinted(Exception):
    """The browser gave no PDF, or not in time."""


def pdf_of(html: str) -> bytes:
    """The PDF of a page that prints with css/book.css. Raises NotPrinted."""
    return printed_pages(html)[0]


def printed_pages(html: str) -> tuple[bytes, int]:
    """The PDF and how many pages it has. Raises NotPrinted."""
    with tempfile.TemporaryDirectory(prefix="paper-") as place:
        page, paper = Path(place, "page.html"), Path(place, "page.pdf")
        page.write_text(_by_itself(html), encoding="utf-8")
        _print(
            [*_browser(), f"--user-data-dir={place}/browser", f"--print-to-pdf={paper}", page.as_uri()], place
        )
        if not paper.exists():
            raise NotPrinted("the browser ended without a PDF")
        pdf = paper.read_bytes()
    return pdf, len(_PAGE.findall(pdf))


def _print(command: list[str], place: str) -> None:
    """Run the browser. Raises NotPrinted."""
    kept = {key: os.environ[key] for key in ("PATH", "LANG") if key in os.environ}
    child = subprocess.Popen(
        command,
        env={**kept, "HOME": place, "TMPDIR": place},
        stdin=subprocess.DEVNULL,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.PIPE,
        start_new_session=True,
    )
    seconds = limit("printing", "seconds")
    try:
        _, said = child.communicate(timeout=seconds)
    except subprocess.TimeoutExpired:
        os.killpg(child.pid, signal.SIGKILL)
        child.communicate()
        raise NotPrinted(f"it took longer than {seconds:g} s") from None
    if child.returncode:
        raise NotPrinted(f"the browser ended with {child.returncode}: {said[-300:].decode(errors='replace')}")


def _browser() -> list[str]:
    """The browser's program and what it is told. Raises NotPrinted where there is none."""
    program = shutil.which(settings.PRINTING_BROWSER)
    if program is None:
        raise NotPrinted(f"'{settings.PRINTING_BROWSER}' is not installed")
    # Its sandbox needs a user who is not root.
    bare = () if settings.PRINTING_SANDBOX and os.geteuid() else ("--no-sandbox",)
    return [program, *_FLAGS, *bare]


def _by_itself(html: str) -> str:
    """The page with its policy and its styles within it; a page's own styles come after them."""
    ours = f'<meta charset="utf-8"><meta http-equiv="Content-Security-Policy" content="{_POLICY}"><style>{_styles()}</style>'
    before, head, after = html.partition("<head>")
    return f"{before}{head}{ours}{after}" if head else ours + html


@functools.cache
def _styles() -> str:
    """css/book.css with what it imports and the fonts it names."""
    tokens, book = (Path(finders.find(f"css/{name}.css") or "") for name in ("tokens", "book"))

    def font(found: re.Match[str]) -> str:
        coded = base64.b64encode((tokens.parent / found[1]).read_bytes()).decode()
        return f'url("data:font/woff2;base64,{coded}")'

    with_fonts = re.sub(r'url\("([^"]+\.woff2)"\)', font, tokens.read_text())
    return with_fonts + book.read_text().replace('@import url("tokens.css");', "")
