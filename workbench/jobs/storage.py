"""Between rows and the core's Job: the only place that knows both."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.db.models import F
from django.utils import timezone

from metrolex.intake import dump, read
from metrolex.job import LISTS, Job
from workbench.jobs.models import WHOLE, JobRecord, Part

__all__ = ["job_of", "store", "store_new"]


def job_of(record: JobRecord) -> Job:
    """The core's job of a record, in two queries; in one if the whole record is at hand."""
    if record.get_deferred_fields():
        record.refresh_from_db(fields=WHOLE)
    data: dict[str, Any] = {"name": record.name, **{name: getattr(record, name) for name in WHOLE}}
    for part in record.parts.all():
        data.setdefault(part.kind, []).append(part.body)
    return read(Job, data)


@transaction.atomic
def store_new(workshop_id: int, job: Job) -> JobRecord:
    """Store a job as a new record of a workshop."""
    record = JobRecord(workshop_id=workshop_id, **_columns(job))
    record.save()
    Part.objects.bulk_create(
        Part(job=record, kind=kind, key=key, position=i, body=dump(part))
        for kind in LISTS
        for i, (key, part) in enumerate(_by_key(job, kind).items())
    )
    return record


@transaction.atomic(savepoint=False)
def store(record: JobRecord, before: Job, after: Job) -> bool:
    """Write what differs between two versions of a job, part by part, and make ``record`` that of the new one.

    False, with nothing written, where another version than the record's is stored by now. The row stays locked until the
    transaction ends.
    """
    altered = [name for name in ("name", *WHOLE) if getattr(before, name) is not getattr(after, name)]
    changed: dict[str, Any] = {name: dump(getattr(after, name)) for name in altered}
    changed |= {"version": record.version + 1, "updated": timezone.now()}
    if not JobRecord.objects.filter(pk=record.pk, version=record.version).update(**changed):
        return False
    for kind in LISTS:
        if getattr(before, kind) != getattr(after, kind):
            _store_list(record, kind, _by_key(before, kind), _by_key(after, kind))
    for name, value in changed.items():
        setattr(record, name, value)
    return True


def _store_list(record: JobRecord, kind: str, old: dict[str, Any], new: dict[str, Any]) -> None:
    mine = Part.objects.filter(job=record, kind=kind)
    gone = [key for key in old if key not in new]
    if gone:
        mine.filter(key__in=gone).delete()
    places = {key: i for i, key in enumerate(old)}
    for place, (key, part) in enumerate(new.items()):
        if key not in old:
            Part.objects.create(job=record, kind=kind, key=key, position=place, body=dump(part))
        elif old[key] != part or places[key] != place:
            mine.filter(key=key).update(
                body=dump(part), position=place, version=F("version") + 1, updated=timezone.now()
            )


def _pair(one: str, other: str) -> str:
    """The key of a part known by two words: no word holds what stands between them, so no two pairs have the same."""
    return f"{one}\x1f{other}"


def _by_key(job: Job, kind: str) -> dict[str, Any]:
    """The parts of a list by the key of their rows."""
    if kind == "settings":
        return {_pair(s.display, s.name): s for s in job.settings}
    if kind == "waivers":
        return {_pair(o.code, o.subject): o for o in job.waivers}
    return {part.id: part for part in getattr(job, kind)}


def _columns(job: Job) -> dict[str, Any]:
    return {name: dump(getattr(job, name)) for name in ("name", *WHOLE)}
