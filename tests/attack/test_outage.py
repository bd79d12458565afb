"""The database goes away for a while: pages say so at once, go on as soon as it is back, and papers are printed again without anybody's help."""

from __future__ import annotations

import contextlib
import socket
import threading
import time

import pytest
from django.db import connection

from tests.attack.how_much import ALL
from tests.web.conftest import Bay
from tests.web.served import asked, served_by

pytestmark = [pytest.mark.thorough, pytest.mark.queue]
OUTAGES_S = (3.0, 30.0, 100.0) if ALL else (2.0,)
TOLD_WITHIN_S, BACK_WITHIN_S, PRINTED_WITHIN_S = 7.0, 3.0, 45.0


class Cable:
    """What the server reaches its database by; it can be pulled and put back."""

    def __init__(self, host: str, port: int) -> None:
        self.to, self.whole, self.ends = (host, port), True, list[socket.socket]()
        self.listener = socket.create_server(("127.0.0.1", 0))
        self.port = self.listener.getsockname()[1]
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self) -> None:
        while True:
            try:
                near, _ = self.listener.accept()
            except OSError:
                return
            if not self.whole:
                near.close()
                continue
            far = socket.create_connection(self.to)
            self.ends += [near, far]
            for one, other in ((near, far), (far, near)):
                threading.Thread(target=self._carry, args=(one, other), daemon=True).start()

    @staticmethod
    def _carry(one: socket.socket, other: socket.socket) -> None:
        try:
            while data := one.recv(65536):
                other.sendall(data)
        except OSError:
            pass
        for end in (one, other):
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)

    def pull(self) -> None:
        """Every connection breaks, and none can be made."""
        self.whole = False
        for end in self.ends:
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)
            end.close()
        self.ends.clear()

    def put_back(self) -> None:
        self.whole = True


def seconds_until(wanted: int, port: int, bay: Bay, tail: str, longest: float) -> float:
    """How long it takes until a page answers so; ``longest`` where it never does."""
    begun = time.monotonic()
    while time.monotonic() - begun < longest:
        if asked(port, bay, tail)[0] == wanted:
            return time.monotonic() - begun
        time.sleep(0.2)
    return longest


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize("seconds", OUTAGES_S)
def test_the_database_goes_away_and_comes_back(seconds, client_factory):
    bay = Bay("Hard Lane", client_factory())
    where = connection.settings_dict
    cable = Cable(where["HOST"], int(where["PORT"]))
    try:
        with served_by("-c", "python:workbench.serving", "--workers", "2", database_port=cable.port) as (
            port,
            _,
        ):
            assert seconds_until(200, port, bay, "feeds/", 30) < 30
            cable.pull()
            begun = time.monotonic()
            assert asked(port, bay, "feeds/")[0] == 503
            assert time.monotonic() - begun < TOLD_WITHIN_S
            time.sleep(seconds)
            cable.put_back()
            assert seconds_until(200, port, bay, "feeds/", 30) < BACK_WITHIN_S
            assert seconds_until(200, port, bay, "handover/fuses.pdf", PRINTED_WITHIN_S) < PRINTED_WITHIN_S
    finally:
        cable.pull()
        cable.listener.close()
