"""Between rows and the core's Job: the only place that knows both."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from metrolex.intake import dump, read
from metrolex.job import PARTS, Job
from workbench.jobs.models import JobRecord, Part
from workbench.jobs.summary import Summary

__all__ = ["job_of", "store", "store_new"]

_LISTS = (*PARTS, "settings", "waivers")


def job_of(record: JobRecord) -> Job:
    """The core's job of a record, in two queries (one if the record is at hand)."""
    data: dict[str, Any] = {
        "name": record.name,
        "vehicle": record.vehicle,
        "brief": record.brief,
        "survey": record.survey,
        "bus": record.bus,
    }
    for part in record.parts.all():
        data.setdefault(part.kind, []).append(part.body)
    return read(Job, data)


@transaction.atomic
def store_new(workshop_id: int, job: Job, summary: Summary) -> JobRecord:
    """Store a job as a new record of a workshop."""
    record = JobRecord(workshop_id=workshop_id)
    _fill(record, job, summary)
    record.save()
    Part.objects.bulk_create(
        Part(job=record, kind=kind, key=key, position=i, body=body)
        for kind in _LISTS
        for i, (key, body) in enumerate(_rows(job, kind).items())
    )
    return record


@transaction.atomic
def store(record: JobRecord, before: Job, after: Job, summary: Summary) -> None:
    """Write what differs between two versions of a job, part by part."""
    for kind in _LISTS:
        if getattr(before, kind) != getattr(after, kind):
            _store_list(record, kind, _rows(before, kind), _rows(after, kind))
    _fill(record, after, summary)
    record.version += 1
    record.save()


def _store_list(record: JobRecord, kind: str, old: dict[str, Any], new: dict[str, Any]) -> None:
    gone = [key for key in old if key not in new]
    if gone:
        record.parts.filter(kind=kind, key__in=gone).delete()
    places = list(new)
    for key, body in new.items():
        if key not in old:
            Part.objects.create(job=record, kind=kind, key=key, position=places.index(key), body=body)
        elif old[key] != body or list(old).index(key) != places.index(key):
            part = record.parts.get(kind=kind, key=key)
            part.body, part.position, part.version = body, places.index(key), part.version + 1
            part.save()


def _rows(job: Job, kind: str) -> dict[str, Any]:
    if kind == "settings":
        return {f"{s.display}: {s.name}"[:200]: dump(s) for s in job.settings}
    if kind == "waivers":
        return {f"{o.code}: {o.subject}"[:200]: dump(o) for o in job.waivers}
    return {part.id: dump(part) for part in getattr(job, kind)}


def _fill(record: JobRecord, job: Job, summary: Summary) -> None:
    record.name = job.name
    record.vehicle, record.brief, record.survey, record.bus = (
        dump(part) for part in (job.vehicle, job.brief, job.survey, job.bus)
    )
    record.next_words, record.next_stage, record.next_grade = (
        summary.words[:400],
        summary.stage,
        summary.grade,
    )
