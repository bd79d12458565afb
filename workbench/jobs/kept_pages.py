"""Pages as last rendered: a page of a job that nobody changed is the same page.

What a page is made of stands in its key, and nothing else may go into a kept page. The one thing that is each
request's own, the token its forms post, is filled in when the page is sent.
"""

from __future__ import annotations

import secrets
import threading
from collections.abc import Callable, Hashable

from cachetools import LRUCache
from django.conf import settings
from django.http import HttpResponse
from django.middleware.csrf import get_token

from workbench.request import Request

__all__ = ["PAGES", "TOKEN", "KeptPages", "Page"]

#: Stands where a form's token goes; drawn anew by each process and never sent, so nobody can type it.
TOKEN = secrets.token_hex(32)


class Page(HttpResponse):
    """A rendered page, sent with the token of a request in place of TOKEN."""

    def __init__(self, html: str, request: Request, status: int = 200) -> None:
        super().__init__(html.replace(TOKEN, get_token(request)), status=status)
        self.html = html


class KeptPages:
    """The pages sent last, within ``most_bytes`` of HTML; safe to be asked by several threads."""

    def __init__(self, most_bytes: int) -> None:
        self.pages: LRUCache[Hashable, str] = LRUCache(most_bytes, getsizeof=len)
        self.lock = threading.Lock()

    def answer(self, request: Request, key: Hashable, view: Callable[[], HttpResponse]) -> HttpResponse:
        """The page kept under the key, or what the view makes now; a page that is one is kept for the next time."""
        with self.lock:
            html = self.pages.get(key)
        if html is not None:
            return Page(html, request)
        made = view()
        if isinstance(made, Page) and made.status_code == 200 and len(made.html) <= self.pages.maxsize:
            with self.lock:
                self.pages[key] = made.html
        return made


PAGES = KeptPages(settings.PAGE_CACHE_BYTES)
