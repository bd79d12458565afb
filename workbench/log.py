"""Log lines that tell of which request and which workshop they are, and name nobody."""

from __future__ import annotations

import contextvars
import logging
import secrets
from collections.abc import Callable

from django.http import HttpResponse

from workbench.request import Request

__all__ = ["RequestLog", "WithRequest", "workshop_seen"]

_ID = contextvars.ContextVar("request_id", default="-")
_WORKSHOP = contextvars.ContextVar("workshop", default="-")


class RequestLog:
    """Gives each request a number of its own, which its log lines carry and its answer tells."""

    def __init__(self, get_response: Callable[[Request], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        _ID.set(secrets.token_hex(6))
        _WORKSHOP.set("-")
        response = self.get_response(request)
        response.headers["X-Request-ID"] = _ID.get()
        return response


def workshop_seen(number: int | None) -> None:
    """Tell the log which workshop the request speaks for."""
    _WORKSHOP.set("-" if number is None else str(number))


class WithRequest(logging.Filter):
    """Puts the request's number and its workshop's into a log record."""

    def filter(self, record: logging.LogRecord) -> bool:
        record.request_id, record.workshop = _ID.get(), _WORKSHOP.get()
        return True
