"""What a cell of a sheet does not wait for: done when its answer has been sent, by the thread that sent it."""

from __future__ import annotations

import functools
import logging
import threading
from collections.abc import Callable
from typing import Any

from django.core.signals import request_finished
from django.db import connections
from django.dispatch import receiver
from django.http import HttpResponse

from workbench.request import Request

__all__ = ["afterwards", "answers_first"]

Work = Callable[[], object]
_LOG = logging.getLogger(__name__)


class _Waiting(threading.local):
    """The work of this thread's request; None where nothing is put off."""

    work: list[Work] | None = None


_WAITING = _Waiting()


def answers_first(view: Callable[[Request, int], HttpResponse]) -> Callable[[Request, int], HttpResponse]:
    """A view for htmx whose answer goes out before what it left to be done ``afterwards``."""

    @functools.wraps(view)
    def first(request: Request, job: int) -> HttpResponse:
        _WAITING.work = [] if request.htmx else None
        return view(request, job)

    return first


def afterwards(work: Work) -> None:
    """Do a piece of work once the answer is sent, where the view answers first; at once for any other.

    What goes wrong in it after the answer is logged and loses nothing: what it prepares must be done where it is missing.
    """
    if _WAITING.work is None:
        work()
    else:
        _WAITING.work.append(work)


@receiver(request_finished)
def _finish(**_: Any) -> None:
    waiting, _WAITING.work = _WAITING.work or [], None
    for work in waiting:
        try:
            work()
        except Exception:
            _LOG.exception("work left for after an answer")
    for connection in connections.all(initialized_only=True) if waiting else ():
        if not connection.in_atomic_block:
            connection.close_if_unusable_or_obsolete()  # as Django does after an answer, which it has by now
