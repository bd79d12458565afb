"""All rules of all rooms on one job, worst first."""

from __future__ import annotations

from collections.abc import Iterable

from metrolex.brief.check import brief_findings
from metrolex.dash.check import dash_findings
from metrolex.feeds.check import feed_findings
from metrolex.findings import Finding, worst_first
from metrolex.harness.check import harness_findings
from metrolex.job import Job, Waiver
from metrolex.mount.check import mount_findings
from metrolex.ports.check import ports_findings
from metrolex.scaling.check import scaling_findings
from metrolex.scaling.counting import counting_findings
from metrolex.scaling.menu import menu_findings
from metrolex.twin.build import Network
from metrolex.twin.check import twin_findings
from metrolex.twin.run import Solved, state_findings

__all__ = ["find_all", "still_standing", "waived"]


def find_all(network: Network, solved: Solved) -> tuple[Finding, ...]:
    """Every finding of a job. ``solved`` is the state looked at: what it had to assume is said too."""
    job = network.job
    found: list[Finding] = []
    rooms = (
        brief_findings(job),
        mount_findings(job),
        dash_findings(job),
        ports_findings(job),
        feed_findings(job),
        harness_findings(job),
        scaling_findings(job),
        counting_findings(job),
        menu_findings(job),
        twin_findings(network),
    )
    for rules in rooms:
        found.extend(rules)
    found.extend(state_findings(solved))
    return worst_first(dict.fromkeys(found))


def waived(job: Job, finding: Finding) -> Waiver | None:
    """The written reason for going past a finding, None where there is none."""
    return next((o for o in job.waivers if (o.code, o.subject) == (finding.code, finding.subject)), None)


def still_standing(job: Job, findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """The findings nobody has waived with a reason."""
    return tuple(finding for finding in findings if waived(job, finding) is None)
