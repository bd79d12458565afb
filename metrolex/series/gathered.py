"""What a reader of a GPS file gathers, and how it is cleaned: doubles and jumps out, with a finding for each reason."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from metrolex.findings import Finding
from metrolex.series.bounds import longest_stretch, short_enough
from metrolex.series.series import Array, Series

__all__ = ["BROKEN", "NO_FIX", "NO_PLACE", "NO_SPEED", "NO_TIME", "Gathered"]

#: Speed cannot change faster than this on wheels (common practice, no source): a jump of the receiver.
JUMP_KMH_PER_S = 60.0

#: Why a line or point of a recording is of no use.
NO_FIX = "no position fix: was the sky clear?"
BROKEN = "lines are broken (their check sum does not fit): the cable, or a baud rate too low."
NO_TIME = "sentences tell speed but no time: log RMC, or GGA, GLL or ZDA beside VTG."
NO_SPEED = "no sentence tells the speed: log RMC, or VTG with GGA."
NO_PLACE = "points have no time or no position."


@dataclass(slots=True)
class Gathered:
    """What was read so far: seconds, km/h, and how often each reason left something out."""

    times: list[float] = field(default_factory=list)
    speeds: list[float] = field(default_factory=list)
    left_out: Counter[str] = field(default_factory=Counter)

    def keep(self, clock: float | None, kmh: float | None) -> None:
        """A moment and the speed then, or the reason it is left out."""
        if kmh is None:
            self.left_out[NO_FIX] += 1
        elif clock is None:
            self.left_out[NO_TIME] += 1
        else:
            self.times.append(clock)
            self.speeds.append(kmh)

    def worst(self) -> str:
        """Why most of it was left out."""
        return self.left_out.most_common(1)[0][0] if self.left_out else "it is empty."

    def cleaned(self) -> Series:
        """Time from the start, doubles and jumps out, with a finding for what was left out."""
        times, speeds = np.array(self.times), np.array(self.speeds)
        part, leaps = longest_stretch(times)
        times, speeds = times[part], speeds[part]
        keep = np.concatenate([[True], times[1:] > np.maximum.accumulate(times)[:-1]])
        times, speeds = short_enough(times[keep], "recording"), speeds[keep]
        jumps = _jumps(times, speeds)
        times, speeds = times[~jumps], speeds[~jumps]
        findings = [
            Finding("note", "left_out", "recording", f"Left out: {reason}", f"{count} lines")
            for reason, count in self.left_out.most_common()
        ]
        if jumps.any():
            words = "The receiver's speed jumps faster than wheels can: those points are left out."
            remedy = (
                "Keep the antenna under open sky, away from trees and walls, and drive the stretch again."
            )
            findings.append(
                Finding("caution", "gps_jumps", "recording", words, f"{int(jumps.sum())} points", remedy)
            )
        findings.extend(leaps)
        return Series(times - times[0], {"speed": speeds}, {"speed": "km/h"}, tuple(findings))


def _jumps(times: Array, speeds: Array) -> NDArray[np.bool_]:
    """Points the speed jumps to and from faster than wheels can."""
    fast = np.abs(np.diff(speeds)) / np.diff(times) > JUMP_KMH_PER_S
    if not len(fast):
        return np.zeros(len(times), bool)
    return np.asarray(np.concatenate([[False], fast]) & np.concatenate([fast, [True]]), bool)
