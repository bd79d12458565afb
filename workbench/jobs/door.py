"""The one door every change of a stored job goes through.

Nothing is worked out while the record is locked: the act is done on the job as it was read, the outcome is checked and its circuit
solved, and only then it is stored, if the version stored is still the one that was read. If somebody stored another meanwhile, all
of it is done again on that one. What the shelf and the next page show of it is worked out when the answer has been sent.
"""

from __future__ import annotations

import copy
from collections.abc import Callable, Iterable, Sequence
from typing import Any

from django.db import transaction
from django.utils.timezone import localtime

from metrolex.acts.channels import add_channel
from metrolex.errors import BadInput, CircuitError
from metrolex.intake import dump, read, read_anew
from metrolex.job import Job
from metrolex.job.changes import (
    Change,
    Clash,
    Path,
    changes_of,
    done_again,
    merged,
    touched,
    undone,
    words_of,
)
from metrolex.job.references import check_references
from metrolex.jobfile import SCHEMA_VERSION
from metrolex.twin import build, solve
from metrolex.twin.carry import carry_over
from workbench.accounts.models import Membership
from workbench.accounts.roles import may_write
from workbench.jobs.afterwards import afterwards
from workbench.jobs.cache import JOBS
from workbench.jobs.look import FIRST_SEEN
from workbench.jobs.models import Act, JobRecord
from workbench.jobs.seen import Seen
from workbench.jobs.storage import store, store_new
from workbench.jobs.summary import keep_summary

__all__ = ["AsOne", "Conflict", "all_of_it", "change", "create_job", "import_job"]

#: How often an act is done again because somebody else stored one first.
_TRIES = 20


#: The parts of a job an act sets as one: somebody else's half of them is not kept beside it in silence.
AsOne = Callable[[Job], Sequence[Path]]


def all_of_it(job: Job) -> Sequence[Path]:
    """Of an act all of whose values are meant: a button, one figure typed. A form sends back much that was only shown."""
    return ((),)


class Conflict(BadInput):
    """Somebody else changed the same value since the form was made: what both say, by field."""

    def __init__(self, clashes: Sequence[Clash], who: Callable[[Clash], str], version: int) -> None:
        self.version = version
        self.complaints = [(clash.path[-1], clash.words(who(clash))) for clash in clashes]
        super().__init__(
            ".".join(clashes[0].path), None, "one value", " ".join(words for _, words in self.complaints)
        )


def change(
    record: JobRecord,
    act: Callable[[Job], Job],
    *,
    by: Membership | None,
    why: str = "",
    seen: Seen | None = None,
    as_one: AsOne = lambda job: (),
) -> Job:
    """Do an act on a stored job and keep both the outcome and the act; the job after it, and ``record`` that of its version.

    ``seen`` is what the page had seen: what was changed since from any other page, by whomever, stays, unless the act changes the same
    value or what it sets ``as_one``. Raises BadInput with nothing stored: for a reader, for a job that cannot be meant, Conflict for the same value.
    """
    may_write(by)
    record.acted = None
    current = copy.copy(record)
    for _ in range(_TRIES):
        before = JOBS.job_of(current)
        try:
            after = _after(current, before, act, by, seen, as_one)
            if after == before:  # the one at hand has worked out already what the next page shows
                after = before
            if (after is before and not _moved_on(current)) or _kept(current, before, after, by, why):
                vars(record).update(vars(current))
                return after
        except BadInput:
            if not _moved_on(current):
                raise
        current.refresh_from_db()
    raise BadInput("job", None, "a quiet moment", "Others are saving in this job just now: try again.")


def _moved_on(record: JobRecord) -> bool:
    """Whether another version than the record's is stored by now."""
    return not JobRecord.objects.filter(pk=record.pk, version=record.version).exists()


def _after(
    record: JobRecord,
    before: Job,
    act: Callable[[Job], Job],
    by: Membership | None,
    seen: Seen | None,
    as_one: AsOne,
) -> Job:
    """The job after the act, with what others changed since ``seen`` left as they made it."""
    after = _meant(act(before), before)
    since = _acts_since(record, seen)
    own = seen.own if seen else frozenset()
    foreign = [kept for kept in since if kept.version not in own]
    if not foreign:
        return after
    theirs = dump(before, whole=True)
    base = done_again(undone(theirs, _what(since)), _what(k for k in since if k.version in own))
    told = seen.told if seen else 0
    plain, clashes = merged(
        base,
        theirs,
        dump(after, whole=True),
        _what(foreign),
        _what(k for k in foreign if k.version > told),
        as_one(before),
    )
    if clashes:
        raise Conflict(clashes, lambda clash: _who(clash, foreign, by), record.version)
    return _meant(read(Job, plain), before)


def _acts_since(record: JobRecord, seen: Seen | None) -> list[Act]:
    """The acts stored after the version seen, oldest first. Raises BadInput for a page too old to be compared."""
    if seen is None or seen.version >= record.version:
        return []
    since = list(record.acts.filter(version__gt=seen.version).order_by("version"))
    if len(since) != record.version - seen.version or any(kept.schema != SCHEMA_VERSION for kept in since):
        raise BadInput(
            "job", None, "a page of today", "This page is too old to be compared with the job: load it again."
        )
    return since


def _what(acts: Iterable[Act]) -> list[Change]:
    return [change for act in acts for change in act.what()]


def _who(clash: Clash, foreign: Sequence[Act], by: Membership | None) -> str:
    """Who changed last what both changed, and when."""
    act = next((one for one in reversed(foreign) if touched(clash.path, one.what())), foreign[-1])
    if by is not None and act.by_id == by.user_id:
        return f"You ({localtime(act.at):%H:%M})"
    return f"{act.by_name or 'Somebody'} ({localtime(act.at):%H:%M})"


def _meant(job: Job, known: Job) -> Job:
    """The job, what is new in it read through the gate, its references checked, its circuit solved once. Raises BadInput."""
    job = read_anew(job, known)
    check_references(job)
    if not carry_over(known, job):
        _solved(job)
    return job


def _solved(job: Job) -> None:
    try:
        solve(build(job), FIRST_SEEN)
    except CircuitError as fault:
        raise BadInput("job", None, "a circuit with one answer", str(fault)) from None


def _kept(record: JobRecord, before: Job, after: Job, by: Membership | None, why: str) -> bool:
    """Whether it could be stored, and ``record`` is that of the new version: not where another one is stored by now."""
    changes = changes_of(before, after)
    words = words_of(changes)
    with transaction.atomic():
        if not store(record, before, after):
            return False
        _remember(record, changes, words, by, why)
    record.acted = record.version
    _ready(record, after)
    return True


def _ready(record: JobRecord, job: Job) -> None:
    """Have what the next page and the shelf ask for at hand, once the answer is sent."""
    stored = copy.copy(record)

    def work_out() -> None:
        JOBS.put(stored, job)
        keep_summary(stored, job)

    afterwards(work_out)


def _remember(
    record: JobRecord, changes: Sequence[Change], words: str, by: Membership | None, why: str
) -> None:
    name = by.name if by else ""
    plain: list[dict[str, Any]] = [c.plain() for c in changes]
    record.acts.create(
        version=record.version,
        by=by.user if by else None,
        by_name=name[:150],
        words=words[:400],
        why=why,
        schema=SCHEMA_VERSION,
        changes=plain,
    )


def create_job(
    by: Membership, job: Job, wanted: Iterable[str], *, on_dash: bool = False, lit: bool = True
) -> JobRecord:
    """A new job with a channel for each measurand wanted, on gauges of their own or on one dash."""
    for measurand in wanted:
        job = add_channel(job, measurand, on_dash=on_dash, lit=lit)
    check_references(job)
    return _stored(by.workshop_id, job, by, "job made")


def import_job(by: Membership, job: Job) -> JobRecord:
    """Store a job that came from a job file. Raises BadInput where its circuit has no answer."""
    return _stored(by.workshop_id, job, by, "job taken from a job file")


def _stored(workshop: int, job: Job, by: Membership, words: str) -> JobRecord:
    may_write(by)
    _solved(job)
    with transaction.atomic():
        record = store_new(workshop, job)
        _remember(record, (), words, by, "")
    _ready(record, job)
    return record
