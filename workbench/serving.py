"""How gunicorn serves Metrolex: the pages, and beside them one worker of the queue, which ends with them.

Given to gunicorn as ``-c python:workbench.serving``. With ``METROLEX_QUEUE=elsewhere`` the worker is left to whoever runs it:
``python -m workbench.keeper``. Pages are served by threads: one that waits for a slow telephone, or for the database, holds up no other.

A full collection of garbage looks at all that a process holds, a tenth of a second long. Here it never falls into a page: what is
loaded once is left out of it, it is done between two requests, and most of the time it looks only at what came since the last one.
"""

from __future__ import annotations

import gc
import itertools
import os
import subprocess
import sys
from typing import Any

from django.urls import get_resolver

timeout = int(os.environ.get("METROLEX_TIMEOUT_S", "50"))
worker_class = "gthread"
threads = int(os.environ.get("METROLEX_THREADS", "4"))
graceful_timeout = 30

YOUNG, MIDDLE, NEVER = (
    700,
    10,
    1_000_000,
)  # when garbage is looked for: among the young, those in the middle, the old
OLD_DUE = 5  # collections of the middle after which the old are looked at, between two requests
WHOLE_DUE = 64  # one of so many looks at all there is; the others only at what came since, and what they leave is left out until then

_queue: list[subprocess.Popen[bytes]] = []
_looks = itertools.count(1)


def when_ready(server: Any) -> None:
    """The pages are served: start the worker."""
    if os.environ.get("METROLEX_QUEUE", "") == "elsewhere":
        return
    # Even where the server is killed, no worker stays behind.
    tied = ["setpriv", "--pdeathsig", "TERM"]
    command = [*tied, sys.executable, "-m", "workbench.keeper"]
    _queue.append(subprocess.Popen(command, stdout=subprocess.DEVNULL))


def on_exit(server: Any) -> None:
    """The pages are no longer served: the worker ends what it is at, if that does not take long."""
    for worker in _queue:
        worker.terminate()
        try:
            worker.wait(graceful_timeout)
        except subprocess.TimeoutExpired:
            worker.kill()


def post_worker_init(worker: Any) -> None:
    """All is loaded, the views with their addresses: it stays as long as the worker does."""
    _ = get_resolver().url_patterns
    gc.collect()
    gc.freeze()
    gc.set_threshold(YOUNG, MIDDLE, NEVER)


def pre_request(worker: Any, req: Any) -> None:
    """What is sent and not wanted is not read to its end for the sake of the next request on the same line."""
    if any(
        name == "TRANSFER-ENCODING" or (name == "CONTENT-LENGTH" and value != "0")
        for name, value in req.headers
    ):
        req.force_close()


def post_request(worker: Any, req: Any, environ: Any, resp: Any) -> None:
    """The answer is sent: now there is time to look for old garbage."""
    if gc.get_count()[2] < OLD_DUE:
        return
    if next(_looks) % WHOLE_DUE == 0:
        gc.unfreeze()
    gc.collect()
    gc.freeze()
