"""A recorded drive: GPS speed and shown speed set against each other, and its steady stretches as runs.

The delay between two recordings is where they agree best; a stretch is steady while the speed keeps within a band.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from metrolex.errors import BadInput
from metrolex.series import Series, read_columns, read_gps
from metrolex.speed.gps import GpsRun

__all__ = ["RecordedDrive", "delay_s", "drive_of", "matched", "read_shown", "steady_runs"]

STEADY_KMH = 2.0
STEADY_S = 6.0
SLOWEST_KMH = 20.0
#: Two recordings that share less, or agree less (square of their correlation), are not set against each other (common practice, no source).
LEAST_OVERLAP_S, LEAST_OVERLAP_SHARE, LEAST_AGREEMENT = 45.0, 0.3, 0.9


@dataclass(frozen=True, slots=True)
class RecordedDrive:
    """The steady stretches of a drive as runs, and in words what was found in it."""

    runs: tuple[GpsRun, ...]
    words: str


def drive_of(gps_text: str, shown_text: str) -> RecordedDrive:
    """What a GPS recording and one of the shown speed tell together. Raises BadInput."""
    true, shown = read_gps(gps_text), read_shown(shown_text)
    lag = matched(true, shown)
    runs = steady_runs(true, shown, lag)
    if not runs:
        raise BadInput(
            "recording",
            None,
            "steady stretches of 6 s or more",
            "No stretch was steady for 6 s above 20 km/h in both recordings.",
        )
    left_out = " ".join(
        f"{finding.reason} ({finding.figure})" for finding in (*true.findings, *shown.findings)
    )
    words = f"{len(runs)} steady stretches; the shown speed comes {lag:+.1f} s after GPS. {left_out}"
    return RecordedDrive(runs, words.strip())


def read_shown(text: str) -> Series:
    """The shown speed over time. Raises BadInput (field ``shown``)."""
    return read_columns(text, "speed", "km/h", "shown")


def delay_s(true: Series, shown: Series) -> float:
    """Seconds by which the shown recording lags behind the true one (or started earlier): where both agree best, however far apart.

    Cross-correlation of both on a common grid, then the least that is left unexplained, by a parabola about it.
    """
    step = max(float(np.median(np.diff(true.seconds))), float(np.median(np.diff(shown.seconds))), 0.1)
    length = max(float(true.seconds[-1]), float(shown.seconds[-1]))
    grid = np.arange(0.0, length + step, step)
    a, b = (np.interp(grid, one.seconds, one["speed"]) for one in (true, shown))
    a, b = np.gradient(a), np.gradient(b)
    size = 1 << (2 * len(grid) - 1).bit_length()
    score = np.fft.irfft(np.fft.rfft(b, size) * np.conj(np.fft.rfft(a, size)), size)
    most = len(grid) - 1
    lags = np.concatenate([np.arange(most + 1), np.arange(-most, 0)])
    values = score[lags]
    top = int(lags[int(values.argmax())])
    # The coarse answer leans where one recording is shorter; about it the two are compared where both were running.
    near = np.arange(top - round(4.0 / step), top + round(4.0 / step) + 1)
    apart = np.array([_apart(true, shown, float(k * step)) for k in near])
    best = int(apart.argmin())
    if not 0 < best < len(near) - 1:
        return float(near[best] * step)
    left, middle, right = apart[best - 1 : best + 2]
    curve = left - 2 * middle + right
    return float((near[best] + (0.5 * (left - right) / curve if curve > 0 else 0.0)) * step)


def matched(true: Series, shown: Series) -> float:
    """The delay of two recordings of one drive. Raises BadInput where they do not overlap or do not tell of the same drive."""
    lag = delay_s(true, shown)
    overlap = min(float(true.seconds[-1]) + lag, float(shown.seconds[-1])) - max(lag, 0.0)
    shorter = min(float(true.seconds[-1]), float(shown.seconds[-1]))
    if overlap < max(LEAST_OVERLAP_S, LEAST_OVERLAP_SHARE * shorter):
        raise BadInput(
            "recording",
            round(overlap, 1),
            f"an overlap of {LEAST_OVERLAP_S:g} s or more",
            f"The two recordings share {max(overlap, 0):.0f} s of the drive at best: start both before driving off, stop both after.",
        )
    agrees = 1.0 - _apart(true, shown, lag)
    if agrees < LEAST_AGREEMENT:
        raise BadInput(
            "recording",
            round(agrees, 2),
            f"recordings that agree to {LEAST_AGREEMENT:.0%} or more",
            f"The two recordings do not tell of the same drive: where they agree best, GPS explains {agrees:.0%} of what was shown. "
            "Are they of one drive, with a few clear changes of speed?",
        )
    return lag


def _apart(true: Series, shown: Series, lag_s: float) -> float:
    """The share of the shown speed's ups and downs that the true speed does not explain at a delay; 1 where they do not overlap."""
    at = true.seconds + lag_s
    both = (at >= shown.seconds[0]) & (at <= shown.seconds[-1])
    if both.sum() < 10:
        return 1.0
    a, b = true["speed"][both], shown.at("speed", at[both])
    a, b = a - a.mean(), b - b.mean()
    size = float(a @ a) * float(b @ b)
    return 1.0 - float(a @ b) ** 2 / size if size else 1.0


def steady_runs(true: Series, shown: Series, lag_s: float) -> tuple[GpsRun, ...]:
    """Stretches over which the true speed keeps within 2 km/h for 6 s or more, as runs: the mean of both over each."""
    runs = []
    for start, stop in _steady(true):
        inside = slice(start, stop)
        at = true.seconds[inside] + lag_s
        known = (at >= shown.seconds[0]) & (at <= shown.seconds[-1])
        if known.sum() < 3:
            continue
        face = shown.at("speed", at[known])
        if face.min() > 0:
            runs.append(GpsRun(float(true["speed"][inside][known].mean()), float(face.mean())))
    return tuple(runs)


def _steady(true: Series) -> list[tuple[int, int]]:
    """Index ranges of the steady stretches, greedily the longest from each start on."""
    found, start, count = [], 0, len(true["speed"])
    seconds, kmh = true.seconds.tolist(), true["speed"].tolist()
    while start < count - 1:
        low = high = kmh[start]
        stop = start + 1
        while stop < count:
            low, high = min(low, kmh[stop]), max(high, kmh[stop])
            if high - low > STEADY_KMH or seconds[stop] - seconds[stop - 1] > 3.0:
                break
            stop += 1
        if seconds[stop - 1] - seconds[start] >= STEADY_S and low >= SLOWEST_KMH:
            found.append((start, stop))
            start = stop
        else:
            start += max((stop - start) // 4, 1)
    return found
