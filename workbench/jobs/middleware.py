"""Tells a page which version of the job its own act made, so that its forms know it as seen (``static/js/versions.js``)."""

from __future__ import annotations

import re
from collections.abc import Callable

from django.http import HttpResponse

from workbench.request import Request

__all__ = ["VersionMiddleware"]

#: Carries the version over a redirect, which the browser follows by itself; no view sees it.
_OVER = "stored"
_CARRIED = re.compile(rf"(?:^|&){_OVER}=([0-9]{{1,9}})$")


class VersionMiddleware:
    """Answers with ``Job-Version``, the version an act stored, and ``Job-Told``, the last one whose clash is told."""

    def __init__(self, get_response: Callable[[Request], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        request.stored, request.told = _carried_over(request), None
        answer = self.get_response(request)
        if request.stored and request.htmx and "Location" in answer:
            to, mark, place = answer["Location"].partition("#")
            answer["Location"] = f"{to}{'&' if '?' in to else '?'}{_OVER}={request.stored}{mark}{place}"
        elif request.stored:
            answer["Job-Version"] = str(request.stored)
        if request.told:
            answer["Job-Told"] = str(request.told.told)
        return answer


def _carried_over(request: Request) -> int | None:
    """The version a redirect brought, taken out of the address."""
    found = _CARRIED.search(request.META.get("QUERY_STRING", ""))
    if request.method != "GET" or found is None:
        return None
    request.META["QUERY_STRING"] = found.string[: found.start()]
    return int(found[1])
