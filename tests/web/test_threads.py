"""Served by several threads of one process: nothing is lost, nothing is mixed up; and the arithmetic keeps to one thread."""

from __future__ import annotations

import os
import re
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor

import pytest

from tests.web.conftest import Bay
from tests.web.served import asked, served_by
from workbench.jobs.models import JobRecord

THREADS = 4
CELLS = [
    (circuit, state) for circuit in ("F9", "F14", "F31", "F36") for state in ("off", "acc", "run", "later")
]
PAGES = ("", "feeds/", "harness/", "proving/", "scaling/", "ports/", "handover/")


@pytest.fixture
def served(transactional_db, client_factory):
    """A workshop served by gunicorn with threads: (its bay, the port)."""
    bay = Bay("Threads Lane", client_factory())
    with served_by("--worker-class", "gthread", "--workers", "1", "--threads", str(THREADS)) as (
        port,
        server,
    ):
        yield bay, port
    assert "Traceback" not in server.communicate(timeout=30)[1].decode()


def test_cells_and_pages_at_once(served):
    """Every cell of four circuits typed while every page is read, by eight clients: all stored, each told, no page torn."""
    bay, port = served
    bay.get("feeds/")  # the token of the forms

    def type_cell(i: int) -> tuple[int, str]:
        circuit, state = CELLS[i]
        return asked(port, bay, "feeds/probe/", circuit=circuit, state=state, reading=f"{10 + i / 10:.1f}")

    with ThreadPoolExecutor(8) as pool:
        typed = [pool.submit(type_cell, i) for i in range(len(CELLS))]
        read = [pool.submit(asked, port, bay, page) for page in PAGES * 3]
        cells, pages = [one.result() for one in typed], [one.result() for one in read]
    assert {status for status, _ in (*cells, *pages)} == {200}
    assert all("</html>" in page for _, page in pages)
    job = bay.job
    for i, (circuit, state) in enumerate(CELLS):
        assert job.circuit(circuit).readings.at(state) == round(10 + i / 10, 1)
    record = JobRecord.objects.get(pk=bay.record.pk)
    assert record.version == bay.record.version + len(CELLS)
    assert sorted(record.acts.values_list("version", flat=True)) == list(range(1, record.version + 1))
    _, last = asked(port, bay, "feeds/")
    for i, (circuit, state) in enumerate(CELLS):
        cell = re.search(rf'value="([^"]*)"[^>]*aria-label="{circuit} {state}"', last)
        assert cell
        assert float(cell[1]) == round(10 + i / 10, 1)


ARITHMETIC = """
import os
import {module}
import numpy as np
from scipy.linalg import lapack
a = np.random.default_rng(0).random((900, 900))
for _ in range(3):
    lapack.dgetrf(a @ a)
print(len(os.listdir("/proc/self/task")))
"""


@pytest.mark.parametrize("module", ["workbench.wsgi", "metrolex.cli", "tests.core"])
def test_the_arithmetic_keeps_to_one_thread(module):
    """Threads of a process after products and factors of 900 by 900, as the system counts them: none but its own."""
    env = {name: value for name, value in os.environ.items() if not name.endswith("_NUM_THREADS")}
    env |= {"DJANGO_SETTINGS_MODULE": "workbench.settings.test", "METROLEX_SECRET_KEY": "only-for-tests"}
    found = subprocess.run(
        [sys.executable, "-c", ARITHMETIC.format(module=module)],
        env=env,
        capture_output=True,
        text=True,
        check=True,
    )
    assert int(found.stdout) == 1
