"""Sleep under a shifted clock: read by every Python of `bin/test clocks`.

The tool that shifts the clock leaves the monotonic clock alone, as it must for waits of threads to end, but its own
`clock_nanosleep` then reckons a deadline before the beginning of time and refuses. `select` waits by length, not by a deadline.
"""

import select
import time


def _sleep(seconds: float) -> None:
    if seconds < 0:
        raise ValueError("sleep length must be non-negative")
    select.select([], [], [], seconds)


time.sleep = _sleep
