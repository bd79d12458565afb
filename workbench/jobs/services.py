"""What can be done with a stored job: make it, change it, look at it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager

from django.db import transaction

from metrolex.acts.channels import add_channel
from metrolex.errors import BadInput, CircuitError
from metrolex.intake import dump, read
from metrolex.job import Job
from metrolex.job.references import check_references
from workbench.accounts.models import Workshop
from workbench.jobs.look import Look, look_at
from workbench.jobs.models import JobRecord
from workbench.jobs.storage import job_of, store, store_new

__all__ = ["Look", "change", "create_job", "import_job", "look_at"]


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
