"""GPS speed from GPX 1.0 and 1.1 track points (topografix.com/GPX/1/1), read with the standard library.

Where speed is not recorded it is taken from the distance between points (haversine on a sphere of 6371 km).
"""

from __future__ import annotations

import datetime
import xml.etree.ElementTree as ET

import numpy as np

from metrolex.errors import BadInput
from metrolex.series.gathered import NO_FIX, NO_PLACE, Gathered
from metrolex.series.series import Array

__all__ = ["read_gpx"]

WINDOW_S = 2.0  # over which speed is taken from positions
_EARTH_M = 6371000.0


def read_gpx(text: str) -> Gathered:
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
    found = Gathered()
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
