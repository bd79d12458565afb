"""What was seen at each test."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

from metrolex.acts.edit import free_id, replaced
from metrolex.errors import BadInput
from metrolex.faults.probes import probe_of
from metrolex.faults.written import said_of
from metrolex.intake import dump, read
from metrolex.job import Checked, Job, LeftOut, Observation, State, TestRef
from metrolex.job.words import SeenWord
from metrolex.proving.checks import Check, checks_of
from metrolex.quantities import RESISTANCE, VOLTAGE, parse, parse_in, parse_number
from metrolex.scaling.face_words import word_meant
from metrolex.twin import TestPoint, build, points_to_test

__all__ = ["check_off", "not_done", "observe", "read_checked", "read_seen"]


def read_seen(text: str, point: TestPoint, said: Sequence[str]) -> float | SeenWord | None:
    """What was typed at a test, a figure or a word of those it can be ``said`` by; None for a blank. Raises BadInput (field ``seen``)."""
    plain = text.strip()
    if not plain:
        return None
    word = word_meant(plain, said)
    if word:
        return word
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
        words = f" Or one of {', '.join(said)}." if said else ""
        raise BadInput("seen", text[:40], fault.allowed, f"{fault.message}{words}") from None


def _said(job: Job, point: TestPoint) -> Sequence[str]:
    probe = probe_of(point)
    return said_of(job, probe) if probe else ()


def observe(job: Job, test: str, state: State, text: str, day: str) -> Job:
    """Write down what was seen at a test in a state, or 'not done: why'; a blank takes it back. Raises BadInput (field ``seen``)."""
    point = next((p for p in points_to_test(build(job)) if p.test.key == test), None)
    if point is None:
        raise BadInput(
            "seen", test, "a test of this job", "This test is not there any more: reload the page."
        )
    why = not_done(text)
    if why is not None:
        return _leave_out(job, point.test, state, why, day)
    value = read_seen(text, point, _said(job, point))
    old = next((o for o in job.observations if o.test == point.test and o.state == state), None)
    if old and old.value == value:
        return job
    rest = tuple(o for o in job.observations if o is not old)
    left = tuple(one for one in job.left_out if (one.test, one.state) != (point.test, state))
    if value is None:
        return replace(job, observations=rest, left_out=left)
    key = old.id if old else free_id("O1", (o.id for o in job.observations))
    seen = Observation(key, point.test, state, value, seen=day)
    return replace(job, observations=(*rest, seen), left_out=left)


def _leave_out(job: Job, test: TestRef, state: State, why: str, day: str) -> Job:
    if not why:
        raise BadInput(
            "seen", "", "why it is not done", "Say why: 'not done: plug buried behind the heater'."
        )
    old = next((one for one in job.left_out if (one.test, one.state) == (test, state)), None)
    if old and old.why == why:
        return job
    key = old.id if old else free_id("N1", (one.id for one in job.left_out))
    plain = {"id": key, "test": dump(test), "state": dump(state), "why": why, "seen": day}
    seen = tuple(o for o in job.observations if (o.test, o.state) != (test, state))
    return replace(job, left_out=replaced(job.left_out, read(LeftOut, plain)), observations=seen)


def check_off(job: Job, check: str, text: str, day: str) -> Job:
    """Write down how a check with hand and eye came out, as typed; a blank takes it back. Raises BadInput (field ``seen``)."""
    found = next((one for one in checks_of(build(job)) if one.ref.key == check), None)
    if found is None:
        raise BadInput(
            "seen", check, "a check of this job", "This check is not there any more: reload the page."
        )
    old = next((one for one in job.checks if one.check == found.ref), None)
    if not text.strip():
        return replace(job, checks=tuple(one for one in job.checks if one is not old)) if old else job
    result, value, why = read_checked(text, found)
    if old and (old.result, old.value, old.why) == (result, value, why):
        return job
    key = old.id if old else free_id("C1", (one.id for one in job.checks))
    plain = {"id": key, "check": dump(found.ref), "result": result, "value": value, "why": why, "seen": day}
    return replace(job, checks=replaced(job.checks, read(Checked, plain)))


def read_checked(text: str, check: Check) -> tuple[Literal["good", "off", "not done"], float | None, str]:
    """What was typed at a check: how it came out, a figure if it has one, why. Raises BadInput (field ``seen``)."""
    plain = text.strip()
    why = not_done(plain)
    if why is not None:
        if not why:
            raise BadInput("seen", plain, "why it is not done", "Say why: 'not done: no hand pump here'.")
        return "not done", None, why
    head, _, rest = plain.partition(":")
    word = head.strip().lower()
    if word in _GOOD:
        return "good", None, rest.strip()
    if word in _OFF:
        return "off", None, rest.strip()
    if not check.finds.unit:
        raise BadInput("seen", plain[:40], "ok, off, or not done", "Type ok, off, or not done: why.")
    if word in _OPEN and check.finds.unit == "ohm":
        return "good" if check.finds.high is None else "off", None, ""
    try:
        value = parse_in(plain, check.finds.unit)
    except BadInput as fault:
        raise BadInput(
            "seen", plain[:40], fault.allowed, f"{fault.message} Or ok, off, not done: why."
        ) from None
    return "good" if check.finds.holds(value) else "off", value, ""


def not_done(text: str) -> str | None:
    """Why something is not done, where that was typed ('not done: no time'); None for anything else.

    >>> not_done('not done: plug buried'), not_done('Not done, no ice'), not_done('12.4')
    ('plug buried', 'no ice', None)
    """
    if not text.strip().lower().startswith(_NOT_DONE):
        return None
    return text.strip()[len(_NOT_DONE) :].lstrip(" :,;-").strip()


_NOT_DONE = "not done"
_GOOD = frozenset({"ok", "good", "yes", "y", "dry", "fine", "as it should be"})
_OFF = frozenset({"off", "bad", "no", "n", "wet", "wrong"})
_OPEN = frozenset({"open", "ol", "o.l", "infinite"})
