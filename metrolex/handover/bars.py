"""What bars the handing over of a job: a warning that must be there and is not, a stop nobody cleared or answered for."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from metrolex.findings import Finding
from metrolex.handover.warned import must_warn
from metrolex.job import Job, MeasuringChain

__all__ = ["Bar", "bars_of"]


@dataclass(frozen=True, slots=True)
class Bar:
    """One thing in the way: what it is about, why, and the place where it is put right; ``final`` where no reason takes one past it."""

    subject: str
    reason: str
    place: str
    final: bool = False


def bars_of(job: Job, standing: Sequence[Finding]) -> tuple[Bar, ...]:
    """All that is in the way; ``standing`` are the findings nobody has waived."""
    missing = [
        Bar(
            chain.name,
            f"No warning {'under the least' if side == 'low' else 'over the most'} it may read: nobody looks at a gauge all the time.",
            "scaling",
        )
        for chain in job.measured
        if (side := must_warn(chain))
        and (shown := _shown(job, chain))
        and not any(_warns(c, side) for c in shown)
    ]
    stops = [
        Bar(one.subject, one.reason, one.place or "brief", one.final)
        for one in standing
        if one.grade == "stop"
    ]
    return (*missing, *stops)


def _shown(job: Job, chain: MeasuringChain) -> list[MeasuringChain]:
    return [one for one in job.chains if one.channel == chain.channel and one.display]


def _warns(chain: MeasuringChain, side: str) -> bool:
    if side == "low":
        return chain.warn_low is not None or bool(chain.behaviour.by_rpm)
    return chain.warn_high is not None
