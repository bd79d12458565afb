"""Keeps the queue's worker running: ``python -m workbench.keeper``. One that went down is started again, later each time it goes down at once.

It needs no database itself; a worker that finds none goes down and is tried again.
"""

from __future__ import annotations

import signal
import subprocess
import sys
import time
from collections.abc import Sequence
from types import FrameType

__all__ = ["keep", "main"]

WORKER = ("manage.py", "print_papers")
FIRST_PAUSE_S, LONGEST_PAUSE_S = 1.0, 15.0
WELL_AFTER_S = 60.0  # one that ran so long was well: the next pause is the first again


def keep(command: Sequence[str]) -> int:
    """Run a command until it is told to end, whatever becomes of it. Ends with 0 once the last one has ended."""
    running: list[subprocess.Popen[bytes]] = []
    over: list[int] = []

    def end(number: int, _: FrameType | None) -> None:
        over.append(number)
        for one in running:
            one.terminate()

    signal.signal(signal.SIGTERM, end)
    signal.signal(signal.SIGINT, end)
    pause = FIRST_PAUSE_S
    while not over:
        begun = time.monotonic()
        running[:] = [subprocess.Popen(["setpriv", "--pdeathsig", "TERM", *command])]
        if over:  # told between the two lines above
            running[0].terminate()
        running[0].wait()
        if time.monotonic() - begun > WELL_AFTER_S:
            pause = FIRST_PAUSE_S
        until = time.monotonic() + pause
        while not over and time.monotonic() < until:
            time.sleep(0.1)
        pause = min(2 * pause, LONGEST_PAUSE_S)
    return 0


def main() -> int:
    return keep((sys.executable, *WORKER))


if __name__ == "__main__":
    sys.exit(main())
