"""Runs: how long a lead must be, whether the supplied one reaches, which insulation it needs.

Insulation classes: ISO 6722. Slack rules: common practice, no source.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from metrolex.findings import Finding
from metrolex.job import Job, Run
from metrolex.layout.lengths import MOVING_EXTRA_M, run_length_m
from metrolex.tables import load_table
from metrolex.topology import topology_of

__all__ = [
    "RunPlan",
    "insulation_class",
    "insulation_degc",
    "plan_run",
    "run_findings",
]


@dataclass(frozen=True, slots=True)
class RunPlan:
    """Length of a run against the lead supplied for it."""

    length_m: float
    supplied_m: float | None
    peak_degc: float
    insulation_class: str | None
    findings: tuple[Finding, ...]

    @property
    def extension_m(self) -> float:
        """Metres missing; the whole length where no lead is supplied."""
        return max(0.0, self.length_m - (self.supplied_m or 0.0))

    @property
    def spare_m(self) -> float:
        """Metres left over to hide."""
        return max(0.0, (self.supplied_m or 0.0) - self.length_m)


SPARE_SAID_M = 0.3  # less is taken up by a bend or two (common practice, no source)


def plan_run(run: Run, channel: str = "") -> RunPlan:
    """The length of a run against its lead, with what is to be said of its heat and its motion.

    ``channel`` is the id of the channel the findings hold up, '' where it is not one channel's.
    """
    name, segments, supplied_m = run.name, run.segments, run.supplied_m
    moving = [segment.name or "a segment" for segment in segments if segment.moving]
    length = run_length_m(run)
    peak = max((segment.peak_degc for segment in segments), default=20.0)
    insulation = insulation_class(peak)
    findings = []
    if supplied_m is not None and length > supplied_m:
        findings.append(
            Finding(
                "caution",
                "lead_short",
                name,
                f"The run needs {length:.2f} m with its slack; the supplied lead is {supplied_m:.2f} m.",
                f"{length - supplied_m:.2f} m short",
                "Plan an extension with staggered splices, or a shorter way.",
                "harness",
                channel,
                about=f"run {run.id}",
            )
        )
    if insulation is None:
        findings.append(
            Finding(
                "stop",
                "too_hot_for_insulation",
                name,
                "No insulation class stands this temperature for good.",
                f"{peak:g} °C",
                "Take another way, or shield it and measure.",
                "harness",
                channel,
                about=f"run {run.id}",
            )
        )
    findings.extend(
        Finding(
            "note",
            "slack_where_it_moves",
            name,
            f"'{part}' moves: {MOVING_EXTRA_M * 100:g} cm of slack is added there.",
            f"{MOVING_EXTRA_M:g} m",
            "Leave it as a loop that touches nothing at either end of the travel.",
            "harness",
            channel,
            about=f"run {run.id}",
        )
        for part in moving
    )
    left = (supplied_m or 0.0) - length
    if left > SPARE_SAID_M and not run.spare:
        findings.append(
            Finding(
                "note",
                "spare_not_said",
                name,
                "More lead is supplied than the way takes, and nobody has said what becomes of it.",
                f"{left:.2f} m over",
                "Coil it flat where it is dry and tied; a thermocouple's or a moulded lead is never cut."
                if run.thermocouple_type
                else "Cut it off, or coil it flat where it is dry and tied.",
                "harness",
                channel,
                about=f"run {run.id}",
            )
        )
    if run.spare == "cut off" and run.thermocouple_type:
        findings.append(
            Finding(
                "stop",
                "couple_lead_cut",
                name,
                "A thermocouple's lead is of its own two metals to the display: cut and joined with copper it reads the joint.",
                remedy="Leave it whole and coil the rest.",
                place="harness",
                channel=channel,
                about=f"run {run.id}",
            )
        )
    return RunPlan(length, supplied_m, peak, insulation, tuple(findings))


def insulation_class(peak_degc: float) -> str | None:
    """The lowest class of ISO 6722 that stands ``peak_degc`` for good; None above class H, 250 degC."""
    for row in load_table("insulation")["classes"]:
        if peak_degc <= row["max_degc"]:
            return str(row["name"])
    return None


def insulation_degc(name: str) -> float:
    """What an insulation class stands for good, in degC."""
    return float(next(row["max_degc"] for row in load_table("insulation")["classes"] if row["name"] == name))


def run_findings(job: Job) -> Iterator[Finding]:
    """Findings of every run of the job."""
    for run in job.runs:
        channel = next((c.id for c in job.measured if c.run == run.id), "")
        way = topology_of(job).ways[run.id]
        if way.segments:
            yield from plan_run(way, channel).findings
        elif run.start and run.finish:
            yield from _no_path(job, run, channel)
        else:
            yield Finding(
                "note",
                "run_not_measured",
                run.name,
                "The way of this lead is not measured yet.",
                remedy="Lay it along the plan, or enter its segments; the length, the reach and the drop follow.",
                place="harness",
                channel=channel,
                about=f"run {run.id}",
            )


def _no_path(job: Job, run: Run, channel: str) -> Iterator[Finding]:
    names = {zone.id: zone.name for zone in job.zones}
    start, finish = (names.get(key or "", "?") for key in (run.start, run.finish))
    yield Finding(
        "stop",
        "no_way_through",
        run.name,
        f"The plan has no way from {start} to {finish}{' through the zones chosen' if run.via else ''}.",
        remedy="Add the way or the opening it takes, or let it pass other zones.",
        place="harness",
        channel=channel,
        about=f"run {run.id}",
    )
