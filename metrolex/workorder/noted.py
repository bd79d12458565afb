"""What is noted of a step, as it is typed and as it stands in its cell."""

from __future__ import annotations

import datetime
import re
from dataclasses import dataclass
from typing import Literal

from metrolex.errors import BadInput
from metrolex.job import Worked
from metrolex.job.work import WEEKDAYS
from metrolex.quantities import parse_number, typed

__all__ = ["Typed", "read_worked", "written"]

Doing = Literal["start", "pause", "done", "could not", "left out"]
_WORDS: dict[str, Doing] = {
    "start": "start",
    "begun": "start",
    "pause": "pause",
    "paused": "pause",
    "done": "done",
    "ok": "done",
    "yes": "done",
    "y": "done",
    "could not": "could not",
    "couldn't": "could not",
    "left out": "left out",
    "skip": "left out",
}
_UNTIL = re.compile(r"^(could not|couldn't) until (.+)$")
_FIGURE = re.compile(r"[,;\s]*(-?\d+(?:[.,]\d+)?(?:[eE]\d+)?)\s*(min|m|l out|l in|)(?![\w.])", re.IGNORECASE)
_SHORT_DAY = re.compile(r"(\d{1,2})\.(\d{1,2})\.?")
_DAYS = {"today": 0, "tomorrow": 1}
_MOST = {"min": 10_000.0, "m": 1000.0, "l out": 1000.0, "l in": 1000.0}
ALLOWED = "done, minutes, start, pause, could not: why, left out: why"


@dataclass(frozen=True, slots=True)
class Typed:
    """What was typed at a step: how it went, its minutes, why not and until when, metres of wire used, litres let out and filled in."""

    doing: Doing
    minutes: float | None = None
    why: str = ""
    until: str = ""
    metres: float | None = None
    out_l: float | None = None
    in_l: float | None = None


def read_worked(text: str, today: datetime.date) -> Typed:
    """What was typed. Raises BadInput (field ``found``).

    >>> today = datetime.date(2026, 11, 29)
    >>> read_worked('25, 3.4 m', today).metres, read_worked('could not until tomorrow: bung', today).until
    (3.4, '2026-11-30')
    """
    plain = text.strip()
    head, _, rest = plain.partition(":")
    word, rest = head.strip().lower(), rest.strip()
    until = ""
    late = _UNTIL.match(word)
    if late:
        word, until = late.group(1), _day(late.group(2), today)
    if word in _WORDS:
        doing = _WORDS[word]
        if doing in ("could not", "left out") and not rest:
            raise BadInput("found", plain, "why", f"Say why: '{word}: the bung comes tomorrow'.")
        return Typed(doing, None, rest, until)
    figures = _figures(re.sub(r"^done\b", "", head.strip(), flags=re.IGNORECASE), plain)
    return Typed(
        "done", figures.get("min"), rest, "", figures.get("m"), figures.get("l out"), figures.get("l in")
    )


def _figures(words: str, text: str) -> dict[str, float]:
    """The figures of '25, 3.4 m, 0.8 L out' by their units; a bare one is minutes. Raises BadInput."""
    found: dict[str, float] = {}
    at = 0
    while words[at:].strip():
        match = _FIGURE.match(words, at)
        unit = (match.group(2).lower() or "min") if match else ""
        if match is None or unit in found:
            raise BadInput("found", text[:40], ALLOWED)
        found[unit] = parse_number(match.group(1))
        if not 0 <= found[unit] <= _MOST[unit]:
            raise BadInput(
                "found", text[:40], f"{'minutes' if unit == 'min' else unit} from 0 to {_MOST[unit]:g}"
            )
        at = match.end()
    if not found:
        raise BadInput("found", text[:40], ALLOWED)
    return found


def _day(words: str, today: datetime.date) -> str:
    """A day as it is said: 'tomorrow', 'monday', '30.11.', '2026-11-30'. Raises BadInput."""
    plain = words.strip().lower()
    weekdays = [name.lower() for name in WEEKDAYS]
    if plain in _DAYS:
        return (today + datetime.timedelta(days=_DAYS[plain])).isoformat()
    if plain in weekdays:
        ahead = (weekdays.index(plain) - today.weekday() - 1) % 7 + 1
        return (today + datetime.timedelta(days=ahead)).isoformat()
    short = _SHORT_DAY.fullmatch(plain)
    try:
        if short is None:
            return datetime.date.fromisoformat(plain).isoformat()
        found = datetime.date(today.year, int(short.group(2)), int(short.group(1)))
        return (found if found >= today else found.replace(year=today.year + 1)).isoformat()
    except ValueError:
        raise BadInput("found", words[:40], "a day: tomorrow, monday, 30.11. or 2026-11-30") from None


def written(worked: Worked | None) -> str:
    """What was noted of a step, as it is typed; '' for nothing."""
    if worked is None:
        return ""
    if worked.state == "done":
        minutes, metres = typed(worked.minutes), typed(worked.metres)
        return ", ".join(filter(None, (minutes or "done", f"{metres} m" if metres else "")))
    until = f" until {worked.until}" if worked.until else ""
    return f"{worked.state}{until}: {worked.why}" if worked.why else worked.state
