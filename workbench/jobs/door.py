"""The one door every change of a stored job goes through.

Nothing is worked out while the record is locked: the act is done on the job as it was read, the outcome is checked and its circuit
solved, and only then the record is locked and compared. If somebody stored another version meanwhile, all of it is done
again on that one.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.utils.timezone import localtime

from metrolex.acts.channels import add_channel
from metrolex.errors import BadInput, CircuitError
from metrolex.intake import dump, read
from metrolex.job import Job
from metrolex.job.changes import Change, Clash, changes_between, merged, undone, words_of
from metrolex.job.references import check_references
from metrolex.jobfile import SCHEMA_VERSION
from workbench.accounts.models import Membership
from workbench.accounts.roles import may_write
from workbench.jobs.cache import JOBS
from workbench.jobs.models import Act, JobRecord
from workbench.jobs.storage import store, store_new
from workbench.jobs.summary import Summary, summary_of

__all__ = ["Conflict", "Seen", "change", "create_job", "import_job"]

#: How often an act is done again because somebody else stored one first.
_TRIES = 20


@dataclass(frozen=True, slots=True)
class Seen:
    """The version of a job a form was made from, and the last one whose clash the person has been told of since."""

    version: int
    told: int = 0

    @staticmethod
    def of(text: str) -> Seen | None:
        """What a form posts: '5', or '5.7' once told of version 7; None for anything else."""
        version, _, told = text.partition(".")
        if not (version.isascii() and version.isdigit() and len(text) < 20):
            return None
        return Seen(int(version), int(told) if told.isascii() and told.isdigit() else 0)

    def __str__(self) -> str:
        return f"{self.version}.{self.told}" if self.told else f"{self.version}"


class Conflict(BadInput):
    """Somebody else changed the same value since the form was made: what both say, by field."""

    def __init__(self, clashes: Sequence[Clash], who: str, version: int) -> None:
        self.version = version
        self.complaints = [(clash.path[-1], clash.words(who)) for clash in clashes]
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
) -> Job:
    """Do an act on a stored job and keep both the outcome and the act; the job after it.

    ``seen`` is the version the person looked at: what others changed since stays, unless the act changes the same
    value. Raises BadInput with nothing stored: for a reader, for a job that cannot be meant, Conflict for the same value.
    """
    may_write(by)
    for _ in range(_TRIES):
        current = JobRecord.objects.get(pk=record.pk)
        before = JOBS.job_of(current)
        after = _after(current, before, act, by, seen)
        if after == before:
            return before
        if _kept(current, before, after, _summary(after), by, why):
            return after
    raise BadInput("job", None, "a quiet moment", "Others are saving in this job just now: try again.")


def _after(
    record: JobRecord, before: Job, act: Callable[[Job], Job], by: Membership | None, seen: Seen | None
) -> Job:
    """The job after the act, with what others changed since ``seen`` left as they made it."""
    after = _meant(act(before))
    since = _acts_since(record, seen)
    foreign = [kept for kept in since if by is None or kept.by_id != by.user_id]
    if not foreign:
        return after
    theirs = dump(before, whole=True)
    base = undone(theirs, _what(since))
    told = seen.told if seen else 0
    plain, clashes = merged(
        base, theirs, dump(after, whole=True), _what(foreign), _what(k for k in foreign if k.version > told)
    )
    if clashes:
        raise Conflict(clashes, _who(foreign[-1]), record.version)
    return _meant(read(Job, plain))


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


def _who(act: Act) -> str:
    return f"{act.by_name or 'Somebody'} ({localtime(act.at):%H:%M})"


def _meant(job: Job) -> Job:
    """The job, read through the gate again and its references checked. Raises BadInput."""
    job = read(Job, dump(job))
    check_references(job)
    return job


def _summary(job: Job) -> Summary:
    """What the shelf says of the job. Raises BadInput where its circuit has no answer."""
    try:
        return summary_of(job)
    except CircuitError as fault:
        raise BadInput("job", None, "a circuit with one answer", str(fault)) from None


@transaction.atomic
def _kept(
    current: JobRecord, before: Job, after: Job, summary: Summary, by: Membership | None, why: str
) -> bool:
    """Whether it could be stored: not where the record moved on since ``current`` was read."""
    locked = JobRecord.objects.select_for_update().get(pk=current.pk)
    if locked.version != current.version:
        return False
    store(locked, before, after, summary)
    changes = changes_between(dump(before, whole=True), dump(after, whole=True))
    _remember(locked, changes, words_of(changes), by, why)
    JOBS.put(locked, after)  # should the commit fail, nobody ever asks for a version of that moment
    return True


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


def create_job(by: Membership, job: Job, wanted: Iterable[str], *, on_dash: bool = False) -> JobRecord:
    """A new job with a channel for each measurand wanted, on gauges of their own or on one dash."""
    for measurand in wanted:
        job = add_channel(job, measurand, on_dash=on_dash)
    check_references(job)
    return _stored(by.workshop_id, job, by, "job made")


def import_job(by: Membership, job: Job) -> JobRecord:
    """Store a job that came from a job file. Raises BadInput where its circuit has no answer."""
    return _stored(by.workshop_id, job, by, "job taken from a job file")


@transaction.atomic
def _stored(workshop: int, job: Job, by: Membership, words: str) -> JobRecord:
    may_write(by)
    record = store_new(workshop, job, _summary(job))
    _remember(record, (), words, by, "")
    JOBS.put(record, job)
    return record
