"""Rules of the brief: prerequisites, proposals, survey, cluster."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.brief.planner import planner_findings
from metrolex.brief.survey import survey_findings
from metrolex.findings import Finding
from metrolex.job import Job

__all__ = ["brief_findings"]


def brief_findings(job: Job) -> Iterator[Finding]:
    """Findings of the brief of a job."""
    yield from survey_findings(job)
    yield from planner_findings(job)
