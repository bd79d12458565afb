"""Reading what a stranger sends, in a process of its own with a limit of time and of memory.

A file may be made to cost its reader anything; here it costs at most what limits.toml allows, and whoever asked goes on. Each
reading takes texts and gives a record; both cross as JSON, and what comes back passes the gate like any other data.
"""

from __future__ import annotations

import importlib
import json
import os
import resource
import subprocess
import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from metrolex.errors import BadInput
from metrolex.intake import dump, read
from metrolex.job import BusSignal, Job
from metrolex.limits import limit
from metrolex.speed.recording import RecordedDrive

__all__ = ["READINGS", "done_apart", "main"]


#: How the process apart ends where there was not room enough for it.
_OUT_OF_ROOM = 3


@dataclass(frozen=True, slots=True)
class Reading:
    """A function of texts, by where it stands, the class of what it gives, and the field of the form its file came in by."""

    function: str
    gives: Any
    field: str


READINGS = {
    "description": Reading("metrolex.bus.description:read_description", tuple[BusSignal, ...], "description"),
    "drive": Reading("metrolex.speed.recording:drive_of", RecordedDrive, "recording"),
    "job": Reading("metrolex.jobfile:job_from_text", Job, "file"),
}


def done_apart(name: str, *texts: str) -> Any:
    """What a reading gives of texts. Raises BadInput as the reading does, and where it would take too long or too much room."""
    reading = READINGS[name]
    seconds = limit("apart", "seconds")
    try:
        child = subprocess.run(
            [sys.executable, "-m", "metrolex.apart", reading.function],
            input=json.dumps(texts).encode(),
            capture_output=True,
            timeout=seconds,
            env={
                **{key: os.environ[key] for key in ("PATH", "LANG") if key in os.environ},
                "PYTHONPATH": str(Path(__file__).parents[1]),
            },
            check=False,
        )
    except subprocess.TimeoutExpired:
        raise _too_much(reading, f"It took longer than {seconds:g} s.") from None
    try:
        answer = json.loads(child.stdout)
    except ValueError:
        words = "It could not be read to its end."
        if child.returncode == _OUT_OF_ROOM:
            words = f"It needed more than {limit('apart', 'megabytes'):g} MB."
        raise _too_much(reading, words) from None
    if "refused" in answer:
        refused = answer["refused"]
        raise BadInput(refused["field"], refused["value"], refused["allowed"], refused["message"])
    return read(reading.gives, answer["value"])


def _too_much(reading: Reading, words: str) -> BadInput:
    return BadInput(
        reading.field,
        None,
        "a file that can be read in a moment",
        f"The file is too much to read: {words} Is it what it should be?",
    )


def main() -> int:
    """The process apart: where the reading stands as the argument, its texts on standard input, one JSON object on standard output."""
    _keep_within_limits()
    answer: dict[str, Any]
    try:
        module, _, function = sys.argv[1].partition(":")
        reading: Callable[..., Any] = getattr(importlib.import_module(module), function)
        answer = {"value": dump(reading(*json.load(sys.stdin)))}
    except BadInput as fault:
        answer = {
            "refused": {
                "field": fault.field,
                "value": str(fault.value)[:80],
                "allowed": fault.allowed,
                "message": fault.message,
            }
        }
    except MemoryError:
        return _OUT_OF_ROOM
    json.dump(answer, sys.stdout)
    return 0


def _keep_within_limits() -> None:
    room, seconds = int(limit("apart", "megabytes")) * 1024 * 1024, int(limit("apart", "seconds"))
    resource.setrlimit(resource.RLIMIT_AS, (room, room))
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds + 1))
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))


if __name__ == "__main__":
    sys.exit(main())
