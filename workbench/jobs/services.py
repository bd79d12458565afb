"""What can be done with a job: make it, change it, look at it."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from typing import Any, TypeVar

from django.db import transaction

from metrolex.errors import BadInput, CircuitError
from metrolex.intake import dump, read
from metrolex.job import Channel, Display, Input, Job, Override, Run
from metrolex.jobfile import check_references
from metrolex.kit import DASH, display_kit, facts_for
from workbench.accounts.models import Workshop
from workbench.jobs.look import Look, look_at
from workbench.jobs.models import JobRecord
from workbench.jobs.storage import job_of, store, store_new

__all__ = [
    "Look", "add_channel", "change", "channel_called", "create_job", "display_called", "free_id",
    "has_dash", "import_job", "in_old_order", "look_at", "override_finding",
    "remove_channel", "remove_override", "replaced", "with_fields",
]  # fmt: skip


T = TypeVar("T", bound=Any)


@transaction.atomic
def change(record: JobRecord, edit: Callable[[Job], Job]) -> Job:
    """Apply ``edit`` to the stored job and store what changed.

    The record is locked meanwhile, so two people's edits of different parts both hold. Raises BadInput, with
    nothing stored, when the edited job cannot be meant.
    """
    locked = JobRecord.objects.select_for_update().get(pk=record.pk)
    before = job_of(locked)
    after = read(Job, dump(edit(before)))
    check_references(after)
    if after != before:
        with _circuit_in_words():
            store(locked, before, after)
    return after


@contextmanager
def _circuit_in_words() -> Iterator[None]:
    """A job whose circuit has no answer is refused like any other that cannot be meant."""
    try:
        yield
    except CircuitError as fault:
        raise BadInput("job", None, "a circuit with one answer", str(fault)) from None


def create_job(workshop: Workshop, job: Job, wanted: Iterable[str], *, on_dash: bool = False) -> JobRecord:
    """A new job with a channel for each measurand wanted, on gauges of their own or on one dash."""
    for measurand in wanted:
        job = add_channel(job, measurand, on_dash=on_dash)
    check_references(job)
    return store_new(workshop.pk, job)


def import_job(workshop: Workshop, job: Job) -> JobRecord:
    """Store a job that came from a job file. Raises BadInput where its circuit has no answer."""
    with _circuit_in_words():
        return store_new(workshop.pk, job)


def add_channel(job: Job, measurand: str, *, on_dash: bool = False) -> Job:
    """The job with one more thing to show: its channel, its run, its gauge or a free input of the dash."""
    facts = facts_for(measurand, job.vehicle)
    key = free_id(facts.name.lower(), (channel.id for channel in job.channels))
    gauge = free_id("gauge 1", (d.id for d in job.displays))
    kit = display_kit(facts.display, gauge, f"{facts.name} gauge")
    job, display, stage = _on_dash(job, kit.display.inputs[0].kind) if on_dash else (
        replace(job, displays=(*job.displays, kit.display)), kit.display, kit.display.inputs[0],
    )  # fmt: skip
    scaling = (
        kit.scaling
        if kit.scaling.table
        else replace(kit.scaling, decimals=max(kit.scaling.decimals, facts.decimals))
    )
    channel = Channel(
        key, facts.name, facts.id, facts.unit, display.id, stage.id, scaling=scaling,
        true_stopped=facts.true_stopped, true_running=facts.true_running, warn_low=facts.warn_low,
        warn_high=facts.warn_high,
    )  # fmt: skip
    runs = job.runs
    if facts.senders:
        run = free_id(f"{key} run", (r.id for r in job.runs))
        runs = (*runs, Run(run, f"{facts.name} sender to its gauge"))
        channel = replace(channel, run=run)
    return replace(job, channels=(*job.channels, channel), runs=runs)


def _on_dash(job: Job, kind: str) -> tuple[Job, Display, Input]:
    """A free input of a kind on the job's dash; a dash more where there is none."""
    taken = {(channel.display, channel.input) for channel in job.channels}
    for display in job.displays:
        for stage in display.inputs if has_dash(display) else ():
            if stage.kind == kind and (display.id, stage.id) not in taken:
                return job, display, stage
    key = free_id("dash", (d.id for d in job.displays))
    dash = display_kit(DASH, key, "Dash").display
    stage = next(stage for stage in dash.inputs if stage.kind == kind)
    return replace(job, displays=(*job.displays, dash)), dash, stage


def channel_called(job: Job, key: str) -> Channel:
    """A channel of the job. Raises BadInput naming those it has."""
    found = job.channel(key)
    if found is None:
        raise BadInput("channel", key, ", ".join(c.id for c in job.channels))
    return found


def display_called(job: Job, key: str) -> Display:
    """A display of the job. Raises BadInput naming those it has."""
    found = job.display(key)
    if found is None:
        raise BadInput("display", key, ", ".join(d.id for d in job.displays))
    return found


def has_dash(display: Display) -> bool:
    """Whether a display takes several readings."""
    return len(display.inputs) > 1


def remove_channel(job: Job, key: str) -> Job:
    """The job without a channel, its gauge, its sender, its port, its run and their wires."""
    channel = channel_called(job, key)
    others = [c for c in job.channels if c.id != key]
    used = {(field, getattr(c, field)) for c in others for field in ("display", "sender", "port", "run")}

    def stays(field: str, part_id: str) -> bool:
        return getattr(channel, field) != part_id or (field, part_id) in used

    gone = {
        (kind, getattr(channel, kind)) for kind in ("display", "sender", "port")
        if (kind, getattr(channel, kind)) not in used
    }  # fmt: skip
    return replace(
        job,
        channels=tuple(others),
        displays=tuple(d for d in job.displays if stays("display", d.id)),
        senders=tuple(s for s in job.senders if stays("sender", s.id)),
        ports=tuple(p for p in job.ports if stays("port", p.id) and p.channel != key),
        conductors=tuple(
            replace(w, run=w.run if w.run is None or stays("run", w.run) else None)
            for w in job.conductors
            if (w.a.kind, w.a.id) not in gone and (w.b.kind, w.b.id) not in gone
        ),
        runs=tuple(r for r in job.runs if stays("run", r.id)),
        openings=tuple(replace(o, runs=tuple(r for r in o.runs if stays("run", r))) for o in job.openings),
        settings=tuple(s for s in job.settings if ("display", s.display) not in gone),
    )


def override_finding(job: Job, code: str, subject: str, reason: str, by: str) -> Job:
    """Go past a stop in writing. The reason is printed in the book."""
    if not reason.strip():
        raise BadInput("reason", reason, "a written reason", "Write down why: it is printed in the book.")
    rest = tuple(o for o in job.overrides if (o.code, o.subject) != (code, subject))
    return replace(job, overrides=(*rest, Override(code, subject, reason.strip(), by)))


def remove_override(job: Job, code: str, subject: str) -> Job:
    """Take a written override back: the finding stands again."""
    return replace(job, overrides=tuple(o for o in job.overrides if (o.code, o.subject) != (code, subject)))


def with_fields(parts: tuple[T, ...], kind: type[T], key: str, data: dict[str, Any]) -> tuple[T, ...]:
    """The parts with the named fields of one changed and all others as they stand; one more where there is none of that key.

    Lists of words keep the order they stood in. Raises BadInput.
    """
    old = next((part for part in parts if part.id == key), None)
    plain = dump(old) if old is not None else {}
    for name, value in data.items():
        listed = old is not None and isinstance(value, list) and all(isinstance(word, str) for word in value)
        plain[name] = in_old_order(getattr(old, name), value) if listed else value
    return replaced(parts, read(kind, plain | {"id": key}))


def in_old_order(before: Iterable[str], chosen: Iterable[str]) -> list[str]:
    """The words chosen, those that stood there already in the order they stood in."""
    wanted = list(chosen)
    kept = [word for word in before if word in wanted]
    return [*kept, *(word for word in wanted if word not in kept)]


def replaced(parts: tuple[T, ...], part: T) -> tuple[T, ...]:
    """The parts with one in place of its namesake, or added at the end."""
    if any(other.id == part.id for other in parts):
        return tuple(part if other.id == part.id else other for other in parts)
    return (*parts, part)


def free_id(wanted: str, taken: Iterable[str]) -> str:
    """``wanted``, or the next number after it that is free ('gauge 1', 'gauge 2'...)."""
    used = set(taken)
    if wanted not in used:
        return wanted
    match = re.fullmatch(r"(.*?)(\d+)", wanted)
    stem, number = (match[1], int(match[2])) if match else (f"{wanted} ", 1)
    while f"{stem}{number}" in used:
        number += 1
    return f"{stem}{number}"
