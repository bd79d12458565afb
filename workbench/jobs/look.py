"""A job worked out in one state: what every page shows."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from metrolex.check import Row, Stage, chain_board, find_all, stages_of, waived
from metrolex.findings import Finding
from metrolex.job import Job, State, Waiver
from metrolex.job.once import once_per_job
from metrolex.twin import Network, Solved, build, solve

__all__ = ["FIRST_SEEN", "Look", "look_at"]

#: How a job is looked at until somebody turns its key.
FIRST_SEEN = State("run", "off", "running")


@dataclass(frozen=True, slots=True)
class Look:
    """A job worked out in one state: everything a page shows comes from here."""

    job: Job
    state: State
    network: Network
    solved: Solved
    findings: tuple[Finding, ...]
    waivers: Mapping[Finding, Waiver]
    standing: tuple[Finding, ...]
    rows: tuple[Row, ...]
    stages: tuple[Stage, ...]

    def findings_at(self, place: str) -> tuple[Finding, ...]:
        """The findings of one place; all of them for the board ('') and for the book."""
        everywhere = place in ("", "handover")
        return tuple(finding for finding in self.findings if everywhere or finding.place in (place, ""))

    def waived(self, finding: Finding) -> Waiver | None:
        return self.waivers.get(finding)


@once_per_job
def look_at(job: Job, state: State) -> Look:
    """Work a job out in one state; switches it does not have are left out of it."""
    there = tuple(switch.id for switch in job.switches if switch.id in state.thrown)
    if there != state.thrown:
        return look_at(job, replace(state, thrown=there))
    network = build(job)
    solved = solve(network, state)
    findings = find_all(network, solved)
    waivers = waived(job, findings)
    standing = tuple(finding for finding in findings if finding not in waivers)
    rows = chain_board(network, solved, standing)
    return Look(
        job, state, network, solved, findings, waivers, standing, rows, stages_of(job, rows, standing)
    )
