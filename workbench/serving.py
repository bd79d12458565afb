"""How gunicorn serves Metrolex: the pages, and beside them one worker of the queue, which ends with them.

Given to gunicorn as ``-c python:workbench.serving``. With ``METROLEX_QUEUE=elsewhere`` the worker is left to whoever runs it:
``python manage.py procrastinate worker``.
"""

from __future__ import annotations

import os
import subprocess
import sys
from typing import Any

timeout = int(os.environ.get("METROLEX_TIMEOUT_S", "50"))
graceful_timeout = 30

_queue: list[subprocess.Popen[bytes]] = []


def when_ready(server: Any) -> None:
    """The pages are served: start the worker."""
    if os.environ.get("METROLEX_QUEUE", "") == "elsewhere":
        return
    # Even where the server is killed, no worker stays behind.
    tied = ["setpriv", "--pdeathsig", "TERM"]
    command = [*tied, sys.executable, "manage.py", "procrastinate", "worker"]
    _queue.append(subprocess.Popen(command, stdout=subprocess.DEVNULL))


def on_exit(server: Any) -> None:
    """The pages are no longer served: the worker ends what it is at, if that does not take long."""
    for worker in _queue:
        worker.terminate()
        try:
            worker.wait(graceful_timeout)
        except subprocess.TimeoutExpired:
            worker.kill()

