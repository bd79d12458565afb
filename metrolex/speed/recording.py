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
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.speed.gps import GpsRun

__all__ = ["Recording", "delay_s", "read_recording", "read_shown", "steady_runs"]

Array = NDArray[np.float64]
KNOT_KMH = 1.852
#: Speed cannot change faster than this on wheels (common practice, no source): a jump of the receiver.
JUMP_KMH_PER_S = 60.0
STEADY_KMH = 2.0
STEADY_S = 6.0
SLOWEST_KMH = 20.0
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
        times, speeds, dropped = _gpx(text)
        kind = "GPX"
    elif "$" in start:
        times, speeds, dropped = _nmea(text)
        kind = "NMEA 0183"
    else:
        raise BadInput("recording", start[:60], "an NMEA 0183 or GPX recording", "This is neither NMEA 0183 ($GPRMC...) nor GPX (<gpx...).")  # fmt: skip
    if len(times) < 2:
        raise BadInput("recording", kind, "a recording with a position fix", f"The {kind} recording has no stretch with a position fix: was the sky clear?")  # fmt: skip
    return _cleaned(np.array(times), np.array(speeds), dropped)


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


def delay_s(true: Recording, shown: Recording, most_s: float = 120.0) -> float:
    """Seconds by which the shown recording lags behind the true one (or started earlier): where both agree best.

    Cross-correlation of both on a common grid, then the least that is left unexplained, by a parabola about it.
    """
    step = max(float(np.median(np.diff(true.seconds))), float(np.median(np.diff(shown.seconds))), 0.1)
    length = max(float(true.seconds[-1]), float(shown.seconds[-1]))
    grid = np.arange(0.0, length + step, step)
    a, b = (np.interp(grid, one.seconds, one.kmh) for one in (true, shown))
    a, b = np.gradient(a), np.gradient(b)
    size = 1 << (2 * len(grid) - 1).bit_length()
    score = np.fft.irfft(np.fft.rfft(b, size) * np.conj(np.fft.rfft(a, size)), size)
    most = min(round(most_s / step), len(grid) - 1)
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


def _cleaned(times: Array, speeds: Array, dropped: int) -> Recording:
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
    if dropped:
        findings.append(
            Finding(
                "note",
                "no_fix",
                "recording",
                "Stretches without a position fix, or with broken lines, are left out.",
                f"{dropped} lines",
            )
        )
    if jumps.any():
        findings.append(Finding("caution", "gps_jumps", "recording", "The receiver's speed jumps faster than wheels can: those points are left out.", f"{int(jumps.sum())} points",
                                "Keep the antenna under open sky, away from trees and walls, and drive the stretch again."))  # fmt: skip
    return Recording(times - times[0], speeds, tuple(findings))


def _nmea(text: str) -> tuple[list[float], list[float], int]:
    """Seconds and km/h of the sentences that carry both, and how many lines were of no use."""
    import pynmea2

    times: list[float] = []
    speeds: list[float] = []
    dropped, day, clock = 0, 0.0, None
    for line in text.splitlines():
        at = line.find("$")
        if at < 0 or line[at + 3 : at + 6] != "RMC":
            continue
        try:
            sentence = pynmea2.parse(line[at:], check=True)
            stamp, speed = sentence.timestamp, sentence.spd_over_grnd
        except (pynmea2.ParseError, ValueError, AttributeError, TypeError):
            dropped += 1
            continue
        if sentence.status != "A" or stamp is None or speed is None:
            dropped += 1
            continue
        now = stamp.hour * 3600 + stamp.minute * 60 + stamp.second + stamp.microsecond / 1e6
        if clock is not None and now < clock - 43200:
            day += 86400.0
        clock = now
        times.append(now + day)
        speeds.append(float(speed) * KNOT_KMH)
    return times, speeds, dropped


def _gpx(text: str) -> tuple[list[float], list[float], int]:
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
    times: list[float] = []
    places: list[tuple[float, float]] = []
    known: list[float] = []
    dropped = 0
    for point in (node for node in root.iter() if node.tag.rsplit("}", 1)[-1] == "trkpt"):
        inside = {node.tag.rsplit("}", 1)[-1]: node.text or "" for node in point.iter()}
        try:
            stamp = datetime.datetime.fromisoformat(inside["time"].strip().replace("Z", "+00:00")).timestamp()
            place = (float(point.attrib["lat"]), float(point.attrib["lon"]))
            speed = float(inside["speed"]) * 3.6 if "speed" in inside else np.nan
        except (KeyError, ValueError):
            dropped += 1
            continue
        if inside.get("fix", "").strip() == "none" or not abs(place[0]) <= 90:
            dropped += 1
            continue
        times.append(stamp)
        places.append(place)
        known.append(speed)
    if len(times) >= 2 and np.isnan(known).any():
        known = _speeds(np.array(times), np.radians(np.array(places))).tolist()
    return times, known, dropped


def _speeds(times: Array, places: Array) -> Array:
    """km/h from the way between neighbours, smoothed over three."""
    lat, lon = places.T
    half = np.sin(np.diff(lat) / 2) ** 2 + np.cos(lat[1:]) * np.cos(lat[:-1]) * np.sin(np.diff(lon) / 2) ** 2
    way = np.concatenate([[0.0], np.cumsum(2 * _EARTH_M * np.arcsin(np.sqrt(np.minimum(half, 1.0))))])
    apart = np.maximum(np.gradient(times), 1e-3)
    return np.asarray(np.gradient(way) / apart * 3.6)
