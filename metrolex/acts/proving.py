"""What was seen at each test."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from metrolex.acts.edit import free_id
from metrolex.errors import BadInput
from metrolex.job import Job, Observation, State
from metrolex.quantities import RESISTANCE, VOLTAGE, parse, parse_in, parse_number
from metrolex.twin import TestPoint, build, points_to_test

__all__ = ["observe", "read_seen"]

Word = Literal["live", "dead", "dashes", "dark", "flash"]
_WORDS: dict[str, Word] = {
    "live": "live",
    "dead": "dead",
    "dashes": "dashes",
    "--": "dashes",
    "dark": "dark",
    "off": "dark",
    "flash": "flash",
    "flashes": "flash",
}


def read_seen(text: str, point: TestPoint) -> float | Word | None:
    """What was typed at a test; None for a blank. Raises BadInput (field ``seen``)."""
    plain = text.strip()
    if not plain:
        return None
    if plain.lower() in _WORDS:
        return _WORDS[plain.lower()]
    try:
        if point.kind == "volts":
            value = parse(plain, VOLTAGE, "V")
            if abs(value) > 60:
                raise BadInput("seen", plain, "volts from -60 to 60")
            return value
        if point.kind == "ohms":
            value = parse(plain, RESISTANCE, "ohm")
            if value < 0:
                raise BadInput("seen", plain, "ohms of 0 or more")
            return value
        if point.kind == "agrees":  # a difference has no zero to be turned about
            return parse_number(plain)
        return parse_in(plain, point.unit)
    except BadInput as fault:
        words = "live, dead" if point.kind == "volts" else "dashes, dark, flash"
        raise BadInput("seen", text[:40], fault.allowed, f"{fault.message} Or one of {words}.") from None


def observe(job: Job, test: str, state: State, text: str, day: str) -> Job:
    """Write down what was seen at a test in a state; a blank takes it back. Raises BadInput (field ``seen``)."""
    point = next((p for p in points_to_test(build(job)) if p.test.key == test), None)
    if point is None:
        raise BadInput(
            "seen", test, "a test of this job", "This test is not there any more: reload the page."
        )
    value = read_seen(text, point)
    old = next((o for o in job.observations if o.test == point.test and o.state == state), None)
    rest = tuple(o for o in job.observations if o is not old)
    if value is None:
        return replace(job, observations=rest)
    if old and old.value == value:
        return job
    key = old.id if old else free_id("O1", (o.id for o in job.observations))
    return replace(job, observations=(*rest, Observation(key, point.test, state, value, seen=day)))
