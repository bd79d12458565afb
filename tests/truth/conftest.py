"""Each measured figure of the truth tests: what was compared with what, how often, with what result.

``bin/test truth`` runs them with larger samples and writes the table of docs/truth.md anew.
"""

from __future__ import annotations

import json
import os
from pathlib import Path

import pytest

FOLDER = os.environ.get("METROLEX_TRUTH", "")
DOCUMENT = Path(__file__).parents[2] / "docs" / "truth.md"
START, END = "<!-- measured -->", "<!-- /measured -->"


@pytest.fixture
def truth():
    """Write one line of the table: subject, compared with, sample, result."""

    def write(subject: str, compared_with: str, sample: str, result: str) -> None:
        if FOLDER:
            line = json.dumps([subject, compared_with, sample, result])
            with (Path(FOLDER) / f"{os.getpid()}.jsonl").open("a") as file:
                file.write(line + "\n")

    return write


@pytest.fixture
def sample():
    """How many draws: a few in the whole suite, many on demand."""
    return lambda few, many: many if FOLDER else few


def pytest_sessionfinish(session: pytest.Session) -> None:
    if not FOLDER or hasattr(session.config, "workerinput"):
        return
    rows = sorted(
        json.loads(line) for file in Path(FOLDER).glob("*.jsonl") for line in file.read_text().splitlines()
    )
    table = ["| what | compared with | sample | result |", "|---|---|---|---|"]
    table += [f"| {' | '.join(cells)} |" for cells in rows]
    text = DOCUMENT.read_text()
    head, tail = text.split(START)[0], text.split(END)[1]
    DOCUMENT.write_text(f"{head}{START}\n" + "\n".join(table) + f"\n{END}{tail}")
