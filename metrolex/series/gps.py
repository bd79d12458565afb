"""A GPS recording, whatever its format."""

from __future__ import annotations

from metrolex.errors import BadInput
from metrolex.series.bounds import few_enough
from metrolex.series.gpx import read_gpx
from metrolex.series.nmea import read_nmea
from metrolex.series.series import Series

__all__ = ["read_gps"]


def read_gps(text: str) -> Series:
    """Speed in km/h (column ``speed``) from the text of an NMEA 0183 or GPX file, told apart by how it begins.

    Raises BadInput (field ``recording``) for neither, without a fix, or without time.
    """
    start = few_enough(text, "recording").lstrip("\ufeff \t\r\n")[:400]
    if start.startswith("<"):
        found = read_gpx(text)
        kind = "GPX"
    elif "$" in start:
        found = read_nmea(text)
        kind = "NMEA 0183"
    else:
        raise BadInput(
            "recording",
            start[:60],
            "an NMEA 0183 or GPX recording",
            "This is neither NMEA 0183 ($GPRMC...) nor GPX (<gpx...).",
        )
    if len(found.times) < 2:
        raise BadInput(
            "recording",
            kind,
            "a recording with time, speed and a position fix",
            f"Nothing of the {kind} recording can be used: {found.worst()}",
        )
    return found.cleaned()
