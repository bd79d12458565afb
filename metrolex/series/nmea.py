"""GPS speed from NMEA 0183: sentences RMC and VTG, read with pynmea2.

A recording of hours holds some 200,000 sentences, and the library takes 25 µs for each. The RMC as nearly all receivers write it is therefore taken apart
here; whatever looks otherwise goes through the library.
"""

from __future__ import annotations

import datetime
import functools
import operator
import re
from typing import Any

from metrolex.series.gathered import BROKEN, NO_SPEED, Gathered

__all__ = ["read_nmea"]

KNOT_KMH = 1.852


def read_nmea(text: str) -> Gathered:
    """Seconds and km/h of the sentences: RMC tells both; VTG the speed, with the time of the GGA, GLL or ZDA before it."""
    found, aside = Gathered(), Gathered()
    clock: float | None = None
    for line in text.splitlines():
        plain = _PLAIN_RMC.search(line)
        if plain and _sum_is_right(plain):
            clock = _clock_s(plain, clock)
            speed = plain["knots"]
            found.keep(clock, float(speed) * KNOT_KMH if plain["status"] == "A" and speed else None)
            continue
        sentence = _sentence(line, found)
        if sentence is None:
            continue
        stamped = isinstance(getattr(sentence, "timestamp", None), datetime.time)
        if stamped:
            clock = _clock(sentence.timestamp, clock)
        if sentence.sentence_type == "RMC":
            fixed, speed = sentence.status == "A", sentence.spd_over_grnd
            found.keep(
                clock if stamped else None,
                None if not fixed or speed is None else float(speed) * KNOT_KMH,
            )
        elif sentence.sentence_type == "VTG":
            speed = sentence.spd_over_grnd_kmph
            aside.keep(clock, None if speed is None else float(speed))
    if found.times:
        return found
    aside.left_out.update(found.left_out or ({NO_SPEED: 1} if not aside.times and not aside.left_out else {}))
    return aside


_PLAIN_RMC = re.compile(
    r"\$(?P<body>[A-Z]{2}RMC,(?P<h>[01]\d|2[0-3])(?P<m>[0-5]\d)(?P<s>[0-5]\d(?:\.\d{1,6})?),(?P<status>[AV]),"
    r"[^,*$]*,[^,*$]*,[^,*$]*,[^,*$]*,(?P<knots>\d{1,6}(?:\.\d{1,9})?|),[^*$]*)\*(?P<sum>[0-9A-Fa-f]{2})\s*$"
)


def _sum_is_right(sentence: re.Match[str]) -> bool:
    body = sentence["body"]
    return body.isascii() and functools.reduce(operator.xor, body.encode()) == int(sentence["sum"], 16)


def _clock_s(sentence: re.Match[str], before: float | None) -> float:
    return _after_midnight(int(sentence["h"]) * 3600 + int(sentence["m"]) * 60 + float(sentence["s"]), before)


def _clock(stamp: datetime.time, before: float | None) -> float:
    return _after_midnight(
        stamp.hour * 3600 + stamp.minute * 60 + stamp.second + stamp.microsecond / 1e6, before
    )


def _after_midnight(now: float, before: float | None) -> float:
    """Seconds since the first midnight; a clock that falls by more than half a day has passed one."""
    days = 0 if before is None else before // 86400
    return now + 86400.0 * (days + (before is not None and now + 86400.0 * days < before - 43200))


def _sentence(line: str, found: Gathered) -> Any:
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
