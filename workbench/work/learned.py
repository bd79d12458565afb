"""How long this workshop takes beside the usual minutes, by what it noted in its other jobs."""

from __future__ import annotations

from collections.abc import Hashable

from django.db.models import Count, Max

from metrolex.intake import read
from metrolex.job import Worked
from metrolex.workorder.plan import Factors
from metrolex.workorder.planned import kind_in_words
from metrolex.workorder.quote import learned_factors
from workbench.jobs.models import JobRecord, Part

__all__ = ["factors_for", "factors_in_words", "noted_elsewhere"]

#: More than a workshop notes of one kind of step in years.
MOST = 2000


def noted_elsewhere(record: JobRecord) -> Hashable:
    """Other whenever the factors for a job may be."""
    others = Part.objects.filter(job__workshop=record.workshop_id, kind="work").exclude(job=record.pk)
    return tuple(others.aggregate(Max("updated"), Count("pk")).values())


def factors_for(record: JobRecord) -> Factors:
    """The factors for a job; its own minutes count for the next one, so that its order stays as it is while it is worked on."""
    rows = (
        Part.objects.filter(job__workshop=record.workshop_id, kind="work", body__state="done")
        .exclude(job=record.pk)
        .order_by("-updated", "-id")
        .values_list("body", flat=True)[:MOST]
    )
    return learned_factors(read(Worked, body) for body in reversed(rows))


def factors_in_words(factors: Factors) -> str:
    """'tapping feeds × 1.2, laying leads × 0.9'."""
    return ", ".join(f"{kind_in_words(kind)} × {factor:g}" for kind, factor in factors)
