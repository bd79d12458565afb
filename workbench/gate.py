"""What is refused before anything is read: bodies that are too long, and text that is none in an address.

How long a body may be is known from its length, and nothing of it is read or kept until that is looked at. A body that does not say its length is not
taken: no browser sends one.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from django.conf import settings
from django.http import HttpResponse
from django.shortcuts import render

from metrolex.characters import unfit, whole_number
from workbench.request import Request

__all__ = ["Gate", "takes_files"]

View = TypeVar("View", bound=Callable[..., HttpResponse])


def takes_files(megabytes: float) -> Callable[[View], View]:
    """A view that takes files, of so much altogether; whatever else its form holds comes on top."""

    def marked(view: View) -> View:
        view.takes_bytes = int(megabytes * 1e6)  # type: ignore[attr-defined]
        return view

    return marked


class Gate:
    """Stands before the first thing that reads a body: the check of the form's token."""

    def __init__(self, get_response: Callable[[Request], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        return self.get_response(request)

    def process_view(self, request: Request, view: Any, args: Any, kwargs: Any) -> HttpResponse | None:
        """A refusal, or None."""
        words = (request.path, *request.GET.keys(), *(w for _, ws in request.GET.lists() for w in ws))
        if any(unfit(word) for word in words):
            return _refused(
                request, 400, "Not understood", "There is something in this address that is no text."
            )
        if request.method in ("GET", "HEAD"):
            return None
        said = request.META.get("CONTENT_LENGTH") or ""
        if not said and request.META.get("HTTP_TRANSFER_ENCODING"):
            return _refused(request, 411, "Not taken", "What was sent does not say how long it is.")
        length, most = whole_number(said or "0"), self._most(request, view)
        if length is None or length > most:
            return _refused(
                request, 413, "Too much", f"At most {most / 1e6:.1f} MB can be sent here at once."
            )
        return None

    @staticmethod
    def _most(request: Request, view: Any) -> int:
        if not request.user.is_authenticated:
            return int(settings.STRANGERS_MAX_BYTES)
        return int(settings.DATA_UPLOAD_MAX_MEMORY_SIZE) + int(getattr(view, "takes_bytes", 0))

    def process_exception(self, request: Request, fault: Exception) -> HttpResponse | None:
        """A sign no text has, in a form's field that is looked up as it is."""
        if isinstance(fault, UnicodeEncodeError) or "NUL (0x00)" in str(fault):
            return _refused(
                request, 400, "Not understood", "There is something in this form that is no text."
            )
        return None


def _refused(request: Request, status: int, title: str, words: str) -> HttpResponse:
    if request.htmx:
        return HttpResponse(words, status=status, content_type="text/plain; charset=utf-8")
    return render(request, "problem.html", {"title": title, "words": words}, status=status)
