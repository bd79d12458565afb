"""The lamps a display has of its own, against what they are to tell: fewer than the shift points were planned for, fewer than the readings that warn."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.findings import Finding
from metrolex.job import Display, Job

__all__ = ["own_lamp_findings"]


def own_lamp_findings(job: Job) -> Iterator[Finding]:
    """Findings of every display whose lamps somebody has counted; none counted says nothing."""
    for display in job.displays:
        if display.screen.shift_lamps:
            yield from _shift(job, display)
        if display.screen.warning_lamps and "lamp" not in display.screen.faces:
            yield from _warnings(job, display)


def _shift(job: Job, display: Display) -> Iterator[Finding]:
    has = display.screen.shift_lamps
    for chain in job.chains:
        plan = chain.shift
        if chain.display == display.id and plan is not None and plan.power and plan.lamps > has:
            yield Finding(
                "caution",
                "more_shift_lamps_than_there_are",
                chain.name,
                f"The shift points are planned for {plan.lamps} lamps, {display.name} has {has}: its last lamp would light before the point.",
                f"{plan.lamps} for {has}",
                f"Plan them for {has}.",
                "scaling",
                chain.id,
                about=f"channel {chain.id}",
            )


def _warnings(job: Job, display: Display) -> Iterator[Finding]:
    has = display.screen.warning_lamps
    warn = [chain.name for chain in job.chains if chain.display == display.id and not chain.alarm.silent]
    if len(warn) > has:
        yield Finding(
            "note",
            "warnings_share_a_lamp",
            display.name,
            f"{len(warn)} of its readings warn, and it has {has} lamp{'s' if has > 1 else ''} for them: which one it is the driver must read.",
            f"{len(warn)} on {has}",
            "A lamp or a gauge of its own for the one that must be acted on at once.",
            "dash",
            about=f"display {display.id}",
        )
