"""A workshop served by gunicorn in processes of its own, and a client that says what it was told."""

from __future__ import annotations

import http.client
import os
import socket
import subprocess
import sys
import time
import urllib.parse
from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection

from tests.web.conftest import Bay

__all__ = ["asked", "served_by"]


@contextmanager
def served_by(
    *options: str, database_port: int | None = None
) -> Iterator[tuple[int, subprocess.Popen[bytes]]]:
    """(port, the server's master process) while it serves the test database, through another port of this machine if one is said."""
    where = connection.settings_dict | ({"HOST": "127.0.0.1", "PORT": database_port} if database_port else {})
    env = os.environ | {
        "DJANGO_SETTINGS_MODULE": "tests.web.settings_served",
        "DATABASE_URL": "postgres://{USER}:{PASSWORD}@{HOST}:{PORT}/{NAME}".format(**where),
    }
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    command = [sys.executable, "-m", "gunicorn", "workbench.wsgi", "--bind", f"127.0.0.1:{port}"]
    server = subprocess.Popen([*command, "--log-level", "error", *options], env=env, stderr=subprocess.PIPE)
    try:
        for _ in range(200):
            try:
                socket.create_connection(("127.0.0.1", port), 1).close()
                break
            except OSError:
                time.sleep(0.1)
        yield port, server
    finally:
        server.terminate()


def asked(port: int, bay: Bay, tail: str, **data: str) -> tuple[int, str]:
    """(status, words) of a page, or of a cell that was typed."""
    cookies = {name: morsel.value for name, morsel in bay.client.cookies.items()}
    headers = {
        "Cookie": "; ".join(f"{name}={value}" for name, value in cookies.items()),
        "HX-Request": "true",
    }
    link = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
    if data:
        token = cookies["csrftoken"]
        headers |= {"X-CSRFToken": token, "Content-Type": "application/x-www-form-urlencoded"}
        link.request("POST", bay.path(tail), urllib.parse.urlencode(data), headers)
    else:
        link.request("GET", bay.path(tail), headers=headers)
    answer = link.getresponse()
    return answer.status, answer.read().decode(errors="replace")
