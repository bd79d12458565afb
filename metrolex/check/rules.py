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


def waived(job: Job, findings: Iterable[Finding]) -> dict[Finding, Waiver]:
    """The findings gone past, each with its written reason.

    A waiver holds for the one thing it was written for. One from before things had keys names what the finding called its thing: it
    holds where just one finding of its rule does.
    """
    found: dict[Finding, Waiver] = {}
    known = [finding for finding in findings if not finding.final]
    for waiver in job.waivers:
        mine = [f for f in known if (f.code, f.key) == (waiver.code, waiver.subject)]
        named = [f for f in known if (f.code, f.subject) == (waiver.code, waiver.subject)]
        if not mine and len({f.key for f in named}) == 1:
            mine = named
        found |= dict.fromkeys(mine, waiver)
    return found


def still_standing(job: Job, findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """The findings nobody has waived with a reason."""
    all_of_them = tuple(findings)
    gone = waived(job, all_of_them)
    return tuple(finding for finding in all_of_them if finding not in gone)
