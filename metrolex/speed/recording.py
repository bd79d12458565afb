"""Recorded drives: GPS speed from NMEA 0183 or GPX, shown speed from a table, set against each other.

Sentences RMC and VTG (NMEA 0183) are read with pynmea2; GPX 1.0 and 1.1 track points (topografix.com/GPX/1/1) with the standard
library, speed from the distance between points where it is not recorded (haversine on a sphere of 6371 km). The delay between
two recordings is where they agree best; a stretch is steady while the speed keeps within a band.
"""

from __future__ import annotations

import csv
import datetime
import io
import xml.etree.ElementTree as ET
from collections import Counter
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.speed.gps import GpsRun

__all__ = ["Recording", "delay_s", "matched", "read_recording", "read_shown", "steady_runs"]

Array = NDArray[np.float64]
KNOT_KMH = 1.852
#: Speed cannot change faster than this on wheels (common practice, no source): a jump of the receiver.
JUMP_KMH_PER_S = 60.0
STEADY_KMH = 2.0
STEADY_S = 6.0
SLOWEST_KMH = 20.0
#: Two recordings that share less, or agree less (square of their correlation), are not set against each other (common practice, no source).
LEAST_OVERLAP_S, LEAST_OVERLAP_SHARE, LEAST_AGREEMENT = 45.0, 0.3, 0.9
WINDOW_S = 2.0  # over which speed is taken from positions
_EARTH_M = 6371000.0


@dataclass(frozen=True, slots=True)
class Recording:
    """Speed over time: seconds from its own start (rising) and km/h, arrays of one shape; what was left out and why."""

    seconds: Array
    kmh: Array
    findings: tuple[Finding, ...] = ()


def read_recording(text: str) -> Recording:
    """A GPS recording from the text of an NMEA 0183 or GPX file, told apart by how it begins.

    Raises BadInput (field ``recording``) for neither, without a fix, or without time.
    """
    start = text.lstrip("\ufeff \t\r\n")[:400]
    if start.startswith("<"):
        found = _gpx(text)
        kind = "GPX"
    elif "$" in start:
        found = _nmea(text)
        kind = "NMEA 0183"
    else:
        raise BadInput("recording", start[:60], "an NMEA 0183 or GPX recording", "This is neither NMEA 0183 ($GPRMC...) nor GPX (<gpx...).")  # fmt: skip
    if len(found.times) < 2:
        raise BadInput(
            "recording",
            kind,
            "a recording with time, speed and a position fix",
            f"Nothing of the {kind} recording can be used: {found.worst()}",
        )
    return _cleaned(np.array(found.times), np.array(found.speeds), found)


#: Why a line or point of a recording is of no use.
NO_FIX = "no position fix: was the sky clear?"
BROKEN = "lines are broken (their check sum does not fit): the cable, or a baud rate too low."
NO_TIME = "sentences tell speed but no time: log RMC, or GGA, GLL or ZDA beside VTG."
NO_SPEED = "no sentence tells the speed: log RMC, or VTG with GGA."
NO_PLACE = "points have no time or no position."


@dataclass(slots=True)
class _Read:
    """What was read so far: seconds, km/h, and how often each reason left something out."""

    times: list[float] = field(default_factory=list)
    speeds: list[float] = field(default_factory=list)
    left_out: Counter[str] = field(default_factory=Counter)

    def worst(self) -> str:
        return self.left_out.most_common(1)[0][0] if self.left_out else "it is empty."


def read_shown(text: str) -> Recording:
    """Shown speed from two columns, seconds and km/h, with or without a heading; comma, semicolon or tab between.

    A decimal comma is read where the columns are not parted by commas. Raises BadInput (field ``shown``).
    """
    lines = [line for line in text.lstrip("\ufeff").splitlines() if line.strip()]
    if not lines:
        raise BadInput(
            "shown", "", "two columns: seconds and km/h", "The recording of the shown speed is empty."
        )
    mark = next((m for m in ("\t", ";", ",") if m in lines[-1]), " ")
    rows: list[tuple[float, float]] = []
    for number, cells in enumerate(
        csv.reader(io.StringIO("\n".join(lines)), delimiter=mark, skipinitialspace=True), 1
    ):
        kept = [cell for cell in cells if cell.strip()]
        try:
            values = [float(cell.replace(",", ".") if mark != "," else cell) for cell in kept[:2]]
        except ValueError:
            values = []
        if len(values) == 2 and all(np.isfinite(values)):
            rows.append((values[0], values[1]))
        elif number > 1:
            raise BadInput("shown", lines[number - 1][:60], "two columns: seconds and km/h", f"Line {number}: '{lines[number - 1]:.40}' is not seconds and km/h.")  # fmt: skip
    if len(rows) < 2:
        raise BadInput("shown", len(rows), "two rows or more")
    seconds, kmh = np.array(rows).T
    if (np.diff(seconds) <= 0).any():
        raise BadInput(
            "shown", float(seconds[1:][np.diff(seconds) <= 0][0]), "seconds that rise from row to row"
        )
    return Recording(seconds - seconds[0], kmh)


def delay_s(true: Recording, shown: Recording) -> float:
    """Seconds by which the shown recording lags behind the true one (or started earlier): where both agree best, however far apart.

    Cross-correlation of both on a common grid, then the least that is left unexplained, by a parabola about it.
    """
    step = max(float(np.median(np.diff(true.seconds))), float(np.median(np.diff(shown.seconds))), 0.1)
    length = max(float(true.seconds[-1]), float(shown.seconds[-1]))
    grid = np.arange(0.0, length + step, step)
    a, b = (np.interp(grid, one.seconds, one.kmh) for one in (true, shown))
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


def matched(true: Recording, shown: Recording) -> float:
    """The delay of two recordings of one drive. Raises BadInput where they do not overlap or do not tell of the same drive."""
    lag = delay_s(true, shown)
    overlap = min(float(true.seconds[-1]) + lag, float(shown.seconds[-1])) - max(lag, 0.0)
    shorter = min(float(true.seconds[-1]), float(shown.seconds[-1]))
    if overlap < max(LEAST_OVERLAP_S, LEAST_OVERLAP_SHARE * shorter):
        raise BadInput(
            "recording", round(overlap, 1), f"an overlap of {LEAST_OVERLAP_S:g} s or more",
            f"The two recordings share {max(overlap, 0):.0f} s of the drive at best: start both before driving off, stop both after.",
        )  # fmt: skip
    agrees = 1.0 - _apart(true, shown, lag)
    if agrees < LEAST_AGREEMENT:
        raise BadInput(
            "recording", round(agrees, 2), f"recordings that agree to {LEAST_AGREEMENT:.0%} or more",
            f"The two recordings do not tell of the same drive: where they agree best, GPS explains {agrees:.0%} of what was shown. "
            "Are they of one drive, with a few clear changes of speed?",
        )  # fmt: skip
    return lag


def _apart(true: Recording, shown: Recording, lag_s: float) -> float:
    """The share of the shown speed's ups and downs that the true speed does not explain at a delay; 1 where they do not overlap."""
    at = true.seconds + lag_s
    both = (at >= shown.seconds[0]) & (at <= shown.seconds[-1])
    if both.sum() < 10:
        return 1.0
    a, b = true.kmh[both], np.interp(at[both], shown.seconds, shown.kmh)
    a, b = a - a.mean(), b - b.mean()
    size = float(a @ a) * float(b @ b)
    return 1.0 - float(a @ b) ** 2 / size if size else 1.0


def steady_runs(true: Recording, shown: Recording, lag_s: float) -> tuple[GpsRun, ...]:
    """Stretches over which the true speed keeps within 2 km/h for 6 s or more, as runs: the mean of both over each."""
    runs = []
    for start, stop in _steady(true):
        inside = slice(start, stop)
        at = true.seconds[inside] + lag_s
        known = (at >= shown.seconds[0]) & (at <= shown.seconds[-1])
        if known.sum() < 3:
            continue
        face = np.interp(at[known], shown.seconds, shown.kmh)
        if face.min() > 0:
            runs.append(GpsRun(float(true.kmh[inside][known].mean()), float(face.mean())))
    return tuple(runs)


def _steady(true: Recording) -> list[tuple[int, int]]:
    """Index ranges of the steady stretches, greedily the longest from each start on."""
    found, start, count = [], 0, len(true.kmh)
    seconds, kmh = true.seconds.tolist(), true.kmh.tolist()
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


def _cleaned(times: Array, speeds: Array, found: _Read) -> Recording:
    """Time from the start, doubles and jumps out, with a finding for what was left out."""
    keep = np.concatenate([[True], np.diff(times) > 0])
    times, speeds = times[keep], speeds[keep]
    fast = np.abs(np.diff(speeds)) / np.diff(times) > JUMP_KMH_PER_S
    jumps = (
        np.concatenate([[False], fast]) & np.concatenate([fast, [True]])
        if len(fast)
        else np.zeros(len(times), bool)
    )
    times, speeds = times[~jumps], speeds[~jumps]
    findings = []
    for reason, count in found.left_out.most_common():
        findings.append(Finding("note", "left_out", "recording", f"Left out: {reason}", f"{count} lines"))
    if jumps.any():
        findings.append(Finding("caution", "gps_jumps", "recording", "The receiver's speed jumps faster than wheels can: those points are left out.", f"{int(jumps.sum())} points",
                                "Keep the antenna under open sky, away from trees and walls, and drive the stretch again."))  # fmt: skip
    return Recording(times - times[0], speeds, tuple(findings))


def _nmea(text: str) -> _Read:
    """Seconds and km/h of the sentences: RMC tells both; VTG the speed, with the time of the GGA, GLL or ZDA before it."""
    found, aside = _Read(), _Read()
    clock: float | None = None
    for line in text.splitlines():
        sentence = _sentence(line, found)
        if sentence is None:
            continue
        stamped = isinstance(getattr(sentence, "timestamp", None), datetime.time)
        if stamped:
            clock = _clock(sentence.timestamp, clock)
        if sentence.sentence_type == "RMC":
            fixed, speed = sentence.status == "A", sentence.spd_over_grnd
            _keep(
                found,
                clock if stamped else None,
                None if not fixed or speed is None else float(speed) * KNOT_KMH,
            )
        elif sentence.sentence_type == "VTG":
            speed = sentence.spd_over_grnd_kmph
            _keep(aside, clock, None if speed is None else float(speed))
    if found.times:
        return found
    aside.left_out.update(found.left_out or ({NO_SPEED: 1} if not aside.times and not aside.left_out else {}))
    return aside


def _clock(stamp: datetime.time, before: float | None) -> float:
    """Seconds since the first midnight; a clock that falls by more than half a day has passed one."""
    now = stamp.hour * 3600 + stamp.minute * 60 + stamp.second + stamp.microsecond / 1e6
    days = 0 if before is None else before // 86400
    return now + 86400.0 * (days + (before is not None and now + 86400.0 * days < before - 43200))


def _keep(found: _Read, clock: float | None, kmh: float | None) -> None:
    if kmh is None:
        found.left_out[NO_FIX] += 1
    elif clock is None:
        found.left_out[NO_TIME] += 1
    else:
        found.times.append(clock)
        found.speeds.append(kmh)


def _sentence(line: str, found: _Read) -> Any:
    """A sentence of a line that tells time or speed, None for any other; one whose check sum is wrong is counted."""
    import pynmea2

    at = line.find("$")
    if at < 0 or line[at + 3 : at + 6] not in ("RMC", "VTG", "GGA", "GLL", "ZDA"):
        return None
    try:
        return pynmea2.parse(line[at:].strip(), check="*" in line[at:])
    except (pynmea2.ParseError, ValueError, AttributeError, TypeError):
        found.left_out[BROKEN] += 1
        return None


def _gpx(text: str) -> _Read:
    if "<!DOCTYPE" in text[:2000] or "<!ENTITY" in text:
        raise BadInput(
            "recording",
            "GPX",
            "a GPX file without entities",
            "This file defines entities of its own: it is not read.",
        )
    try:
        root = ET.fromstring(text)
    except ET.ParseError as fault:
        raise BadInput("recording", "GPX", "whole XML", f"The GPX file is not whole: {fault}.") from None
    found = _Read()
    places: list[tuple[float, float]] = []
    for point in (node for node in root.iter() if node.tag.rsplit("}", 1)[-1] == "trkpt"):
        inside = {node.tag.rsplit("}", 1)[-1]: node.text or "" for node in point.iter()}
        try:
            stamp = datetime.datetime.fromisoformat(inside["time"].strip().replace("Z", "+00:00")).timestamp()
            place = (float(point.attrib["lat"]), float(point.attrib["lon"]))
            speed = float(inside["speed"]) * 3.6 if "speed" in inside else np.nan
        except (KeyError, ValueError):
            found.left_out[NO_PLACE] += 1
            continue
        if inside.get("fix", "").strip() == "none" or not abs(place[0]) <= 90:
            found.left_out[NO_FIX] += 1
            continue
        found.times.append(stamp)
        places.append(place)
        found.speeds.append(speed)
    if len(found.times) >= 2 and np.isnan(found.speeds).any():
        found.speeds = _speeds(np.array(found.times), np.radians(np.array(places))).tolist()
    return found


def _speeds(times: Array, places: Array) -> Array:
    """km/h from where the receiver was a second before and a second after: at 10 Hz neighbours are nearer than it can tell."""
    before = np.searchsorted(times, times - WINDOW_S / 2 + 1e-6)
    after = np.minimum(np.searchsorted(times, times + WINDOW_S / 2 - 1e-6), len(times) - 1)
    before = np.minimum(before, np.maximum(np.arange(len(times)) - 1, 0))
    after = np.maximum(after, np.minimum(np.arange(len(times)) + 1, len(times) - 1))
    (lat_a, lon_a), (lat_b, lon_b) = places[before].T, places[after].T
    half = np.sin((lat_b - lat_a) / 2) ** 2 + np.cos(lat_a) * np.cos(lat_b) * np.sin((lon_b - lon_a) / 2) ** 2
    way = 2 * _EARTH_M * np.arcsin(np.sqrt(np.minimum(half, 1.0)))
    return np.asarray(way / np.maximum(times[after] - times[before], 1e-3) * 3.6)
