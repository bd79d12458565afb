"""What was acknowledged is stored, though workers are killed and the database drops everybody while it is written."""

from __future__ import annotations

import os
import signal
import subprocess
import threading
import time
from pathlib import Path

import pytest
from django.db import connection

from tests.attack.how_much import ALL
from tests.web.conftest import Bay
from tests.web.served import asked, served_by
from workbench.jobs.models import JobRecord

pytestmark = pytest.mark.thorough
KILLS, DROPS = (30, 5) if ALL else (1, 1)
BETWEEN = 4  # values acknowledged between two harms


class Writer(threading.Thread):
    """Types one value after the other into a cell; what was answered with 200 is acknowledged."""

    def __init__(self, port: int, bay: Bay) -> None:
        super().__init__()
        self.port, self.bay, self.over = port, bay, threading.Event()
        self.acknowledged: list[str] = []
        self.lost = 0

    def run(self) -> None:
        for i in range(100_000):
            if self.over.is_set():
                return
            value = f"{1 + i / 1000:.3f}"
            try:
                data = {"circuit": "F14", "state": "later", "reading": value}
                status, words = asked(self.port, self.bay, "feeds/probe/", **data)
            except OSError:
                status, words = 0, ""
            if status == 200 and 'class="verdict"' in words:
                self.acknowledged.append(f"{float(value):g}")
            else:
                self.lost += 1
                time.sleep(0.05)

    def wait_for_more(self) -> None:
        """Until some more values were acknowledged."""
        wanted = len(self.acknowledged) + BETWEEN
        for _ in range(1200):
            if len(self.acknowledged) >= wanted:
                return
            time.sleep(0.05)
        raise AssertionError("nothing is stored any more")


def children(of: int) -> list[int]:
    found = []
    for place in Path("/proc").glob("[0-9]*/stat"):
        try:
            words = place.read_text().rpartition(")")[2].split()
        except OSError:
            continue
        if int(words[1]) == of:
            found.append(int(place.parent.name))
    return found


def kill_a_worker(server: subprocess.Popen[bytes]) -> None:
    for worker in children(server.pid)[:1]:
        os.kill(worker, signal.SIGKILL)


def drop_everybody(_: object) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()"
        )


@pytest.mark.parametrize(("harm", "times"), [(kill_a_worker, KILLS), (drop_everybody, DROPS)])
def test_what_was_acknowledged_is_stored(harm, times, transactional_db, client_factory):
    bay = Bay("Hard Lane", client_factory())
    bay.get("feeds/")  # the token of the forms
    with served_by("--workers", "2") as (port, server):
        writer = Writer(port, bay)
        writer.start()
        try:
            for _ in range(times):
                writer.wait_for_more()
                harm(server)
            writer.wait_for_more()
        finally:
            writer.over.set()
            writer.join(60)
    server.communicate(timeout=30)
    record = JobRecord.objects.get(pk=bay.record.pk)
    stored = " ".join(record.acts.values_list("words", flat=True)) + " "
    missing = [value for value in writer.acknowledged if f" {value} " not in stored]
    assert not missing, f"{len(missing)} of {len(writer.acknowledged)} acknowledged are gone: {missing[:5]}"
    assert sorted(record.acts.values_list("version", flat=True)) == list(range(1, record.version + 1))
    assert len(writer.acknowledged) >= BETWEEN * (times + 1)
