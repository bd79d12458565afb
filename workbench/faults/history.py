"""What a workshop found before, over all its jobs."""

from __future__ import annotations

from collections import Counter

from metrolex.faults.history import found_before
from metrolex.intake import read
from metrolex.job.search import Search
from workbench.accounts.models import Workshop
from workbench.jobs.models import Part
from workbench.library.models import known_anew

__all__ = ["history_of", "learnt"]


def history_of(workshop: Workshop | None) -> Counter[str]:
    """How often each kind of fault was the cause in this workshop."""
    if workshop is None:
        return Counter()
    bodies = Part.objects.filter(kind="searches", job__workshop=workshop).values_list("body", flat=True)
    return found_before(read(Search, body) for body in bodies)


def learnt(workshop: Workshop | None) -> None:
    """A search ended: pages made before it do not know of it."""
    if workshop is not None:
        known_anew(workshop.pk)
