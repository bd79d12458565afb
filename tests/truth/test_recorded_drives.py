"""Forty synthesised drives: what the setting comes to from recordings of every kind, and which are refused."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import pytest

from metrolex.errors import BadInput
from metrolex.series import read_gps
from metrolex.speed.gps import calibrate
from metrolex.speed.recording import matched, read_shown, steady_runs

SETTING = 8000.0


@dataclass(frozen=True)
class Drive:
    """How a drive is recorded: by what, how often, how far apart both clocks are, what goes wrong, how much is true of the face."""

    kind: str  # rmc, rmc without check sums, vtg, gpx, gpx without speed
    hz: float
    offset_s: float
    trouble: str = ""  # tunnels, stops, dropouts, other drive, short
    digits: int = 6
    ratio: float = 1.06
    usable: bool = True


DRIVES = [
    *(
        Drive(kind, hz, 3.0)
        for kind in ("rmc", "gpx", "gpx without speed", "rmc without check sums", "vtg")
        for hz in (1, 5, 10)
    ),
    *(Drive("rmc", 1, offset) for offset in (0.0, -20.0, 119.0, 180.0, 300.0, -400.0)),
    *(Drive("gpx without speed", 10, offset, digits=digits) for offset in (0.0, 45.0) for digits in (6, 7)),
    *(
        Drive(kind, hz, 2.0, trouble)
        for trouble in ("tunnels", "stops", "dropouts")
        for kind, hz in (("rmc", 1), ("gpx without speed", 5), ("vtg", 1))
    ),
    Drive("rmc", 1, 2.0, ratio=0.92),
    Drive("gpx without speed", 1, 2.0, ratio=1.2),
    Drive("rmc", 1, 0.0, "other drive", usable=False),
    Drive("gpx", 5, 0.0, "other drive", usable=False),
    Drive("rmc", 1, 0.0, "short", usable=False),
    Drive("rmc", 1, 0.0, "steady only", usable=False),
]


def true_speed(t, rng, trouble):
    """km/h over seconds: a drive of steps between 35 and 115 with ramps, as roads ask."""
    if trouble == "steady only":
        return 80 + 0.3 * rng.standard_normal(len(t))
    kmh, at = np.zeros(len(t)), 0.0
    speeds = []
    while at < t[-1] + 60:
        hold = rng.uniform(18, 45)
        speeds.append((at, 0.0 if trouble == "stops" and rng.random() < 0.3 else rng.uniform(35, 115)))
        at += hold
    target = np.interp(t, [a for a, _ in speeds], [0.0] * len(speeds))
    for (start, speed), (end, _) in zip(speeds, [*speeds[1:], (1e9, 0)], strict=True):
        target[(t >= start) & (t < end)] = speed
    level = target[0]
    dt = t[1] - t[0]
    for i, wanted in enumerate(target):
        level += float(np.clip(wanted - level, -12 * dt, 7 * dt))
        kmh[i] = level
    return np.maximum(kmh + 0.4 * np.sin(t / 7.0), 0)


def recording(drive, seed):
    """The text of the GPS file and of the shown speed's table."""
    rng = np.random.default_rng(seed)
    length = 40.0 if drive.trouble == "short" else 900.0
    lead = abs(drive.offset_s) + 60
    t = np.arange(-lead, length + lead, 0.1)
    kmh = true_speed(t + lead, rng, drive.trouble)
    gps_t = np.arange(0, length, 1 / drive.hz)
    keep = np.ones(len(gps_t), bool)
    if drive.trouble == "tunnels":
        for start in (200, 500):
            keep &= ~((gps_t > start) & (gps_t < start + 40))
    elif drive.trouble == "dropouts":
        keep &= rng.random(len(gps_t)) > 0.25
    gps_t = gps_t[keep]
    speed = np.interp(gps_t, t, kmh) + 0.15 * rng.standard_normal(len(gps_t))
    way = np.concatenate([[0], np.cumsum(np.diff(t) * (kmh[1:] + kmh[:-1]) / 7.2)])
    east = np.interp(gps_t, t, way)
    lat = 47.0 + 0.2 * np.degrees(east / 6371000.0)
    lon = 11.0 + math.sqrt(1 - 0.04) * np.degrees(east / 6371000.0 / math.cos(math.radians(47.0)))
    text = {"gpx": gpx, "gpx without speed": gpx}.get(drive.kind, nmea)(
        drive, gps_t, np.maximum(speed, 0), lat, lon
    )
    shown_t = np.arange(0, length, 0.5)
    source = (
        true_speed(t + lead, np.random.default_rng(seed + 99), "") if drive.trouble == "other drive" else kmh
    )
    face = np.round(drive.ratio * np.interp(shown_t - drive.offset_s, t, source))
    return text, "\n".join(f"{a:.1f};{b:.0f}" for a, b in zip(shown_t, face, strict=True))


def stamp(seconds):
    return f"{int(seconds // 3600) + 8:02d}{int(seconds // 60) % 60:02d}{seconds % 60:05.2f}"


def nmea(drive, t, speed, lat, lon):
    lines = []
    for a, v, y, x in zip(t, speed, lat, lon, strict=True):
        place = f"{int(y):02d}{60 * (y % 1):08.5f},N,{int(x):03d}{60 * (x % 1):08.5f},E"
        if drive.kind == "vtg":
            bodies = [
                f"GPGGA,{stamp(a)},{place},1,9,0.9,500.0,M,47.0,M,,",
                f"GPVTG,80.0,T,,M,{v / 1.852:.2f},N,{v:.2f},K,A",
            ]
        else:
            bodies = [f"GPRMC,{stamp(a)},A,{place},{v / 1.852:.2f},80.0,281126,,,A"]
        for body in bodies:
            total = 0
            for letter in body:
                total ^= ord(letter)
            lines.append(f"${body}" + ("" if "without" in drive.kind else f"*{total:02X}"))
    return "\n".join(lines)


def gpx(drive, t, speed, lat, lon):
    points = []
    for a, v, y, x in zip(t, speed, lat, lon, strict=True):
        s = stamp(a)
        own = f"<speed>{v / 3.6:.3f}</speed>" if drive.kind == "gpx" else ""
        points.append(
            f'<trkpt lat="{y:.{drive.digits}f}" lon="{x:.{drive.digits}f}"><time>2026-11-28T{s[:2]}:{s[2:4]}:{s[4:]}Z</time>{own}</trkpt>'
        )
    return f'<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>{"".join(points)}</trkseg></trk></gpx>'


@pytest.mark.parametrize("number", range(len(DRIVES)))
def test_the_setting_of_a_drive(number, truth):
    drive = DRIVES[number]
    text, shown_text = recording(drive, 100 + number)
    what = f"drive {number + 1:02d}: {drive.kind}, {drive.hz:g} Hz, clocks {drive.offset_s:+g} s apart{', ' + drive.trouble if drive.trouble else ''}{f', {drive.digits} digits' if drive.digits != 6 else ''}"
    try:
        true, shown = read_gps(text), read_shown(shown_text)
        runs = steady_runs(true, shown, matched(true, shown))
    except BadInput as refusal:
        truth(what, "synthesised drive", "1", f"refused: {refusal.message[:60]}")
        assert not drive.usable, refusal.message
        return
    assert drive.usable
    found = calibrate(SETTING, runs, "pulses_per_distance")
    error = found.setting / (SETTING * drive.ratio) - 1
    truth(what, "synthesised drive", f"{len(runs)} steady stretches", f"setting {100 * error:+.2f} %")
    assert abs(error) < 0.006


def test_there_are_forty():
    assert len(DRIVES) == 40


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("$GPVTG,80.0,T,,M,43.2,N,80.0,K,A*3D\n" * 5, "baud rate"),
        ("$GPVTG,80.0,T,,M,43.2,N,80.0,K,A\n" * 5, "no time"),
        ("$GPRMC,080000.00,V,,,,,,,281126,,,N\n" * 5, "position fix"),
        ("$GPGSV,1,1,01,01,40,083,46\n" * 5, "no sentence tells the speed"),
    ],
)
def test_a_recording_of_no_use_says_the_true_reason(text, words):
    with pytest.raises(BadInput) as refusal:
        read_gps(text)
    assert words in refusal.value.message
