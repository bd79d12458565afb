"""What was done of a step of the work order, as it is typed."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from metrolex.acts.edit import free_id, replaced
from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import Job, Worked
from metrolex.quantities import parse_number
from metrolex.twin import build
from metrolex.workorder.sheet import plan_of_work

__all__ = ["note_step", "read_worked"]

_DONE = frozenset({"done", "ok", "yes", "y"})
_WORDS: dict[str, Literal["could not", "left out"]] = {
    "could not": "could not",
    "couldn't": "could not",
    "left out": "left out",
    "skip": "left out",
}
LONGEST_MIN = 10_000.0


def note_step(job: Job, step: str, text: str, day: str) -> Job:
    """Write down how a step went: done, minutes, 'could not: why', 'left out: why'; a blank takes it back. Raises BadInput (field ``seen``)."""
    planned, _ = plan_of_work(build(job))
    if all(one.key != step for one in planned):
        raise BadInput(
            "seen", step, "a step of this job", "This step is not there any more: reload the page."
        )
    old = next((one for one in job.work if one.step == step), None)
    if not text.strip():
        return replace(job, work=tuple(one for one in job.work if one is not old)) if old else job
    state, minutes, why = read_worked(text)
    if old and (old.state, old.minutes, old.why) == (state, minutes, why):
        return job
    key = old.id if old else free_id("K1", (one.id for one in job.work))
    plain = {"id": key, "step": step, "state": state, "minutes": minutes, "why": why, "seen": day}
    return replace(job, work=replaced(job.work, read(Worked, plain)))


def read_worked(text: str) -> tuple[Literal["done", "could not", "left out"], float | None, str]:
    """What was typed: how the step went, its minutes, why not. Raises BadInput (field ``seen``).

    >>> read_worked('25'), read_worked('could not: bung comes tomorrow')
    (('done', 25.0, ''), ('could not', None, 'bung comes tomorrow'))
    """
    plain = text.strip()
    head, _, rest = plain.partition(":")
    word = head.strip().lower()
    if word in _DONE:
        return "done", None, rest.strip()
    if word in _WORDS:
        if not rest.strip():
            raise BadInput("seen", plain, "why", f"Say why: '{word}: the bung comes tomorrow'.")
        return _WORDS[word], None, rest.strip()
    try:
        minutes = parse_number(plain.removesuffix("min"))
    except BadInput:
        raise BadInput("seen", plain[:40], "done, minutes, could not: why, left out: why") from None
    if not 0 <= minutes <= LONGEST_MIN:
        raise BadInput("seen", plain[:40], f"minutes from 0 to {LONGEST_MIN:g}")
    return "done", minutes, ""
