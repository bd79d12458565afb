"""How long a recording may be, and what becomes of one whose clock leaps."""

from __future__ import annotations

import numpy as np

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.limits import limit
from metrolex.series.series import Array

__all__ = ["few_enough", "longest_stretch", "short_enough"]

BACK_S = 5.0  # a clock that falls back by less has only stumbled (common practice, no source)


def few_enough(text: str, field: str) -> str:
    """The text of a recording, counted before it is read. Raises BadInput at ``field``."""
    most = int(limit("recording", "samples"))
    if text.count("\n") > most:
        raise BadInput(
            field, text.count("\n"), f"at most {most} lines", f"A recording can have at most {most} lines."
        )
    return text


def longest_stretch(times: Array) -> tuple[slice, tuple[Finding, ...]]:
    """The part of a recording with the most samples between leaps of its clock, and a finding where there were any."""
    steps = np.diff(times)
    leaps = np.flatnonzero((steps > limit("recording", "jump_s")) | (steps < -BACK_S)) + 1
    if not len(leaps):
        return slice(0, len(times)), ()
    ends = np.concatenate([[0], leaps, [len(times)]])
    longest = int(np.diff(ends).argmax())
    part = slice(int(ends[longest]), int(ends[longest + 1]))
    found = Finding(
        "caution",
        "clock_leaps",
        "recording",
        "Its clock leaps: only the longest stretch between two leaps is taken.",
        f"{part.stop - part.start} of {len(times)} points",
        "Record one drive in one file.",
    )
    return part, (found,)


def short_enough(seconds: Array, field: str) -> Array:
    """Seconds that last no longer than a recording may. Raises BadInput at ``field``."""
    hours = limit("recording", "hours")
    lasts = float(seconds[-1] - seconds[0]) / 3600
    if lasts > hours:
        raise BadInput(
            field,
            lasts,
            f"at most {hours:g} h",
            f"The recording lasts {lasts:.0f} h; {hours:g} h are the most. Cut it to the drive.",
        )
    return seconds
