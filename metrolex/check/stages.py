"""The stages of a job in working order, with what is open in each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from metrolex.check.board import Row
from metrolex.feeds.check import loads_by_need
from metrolex.findings import Finding
from metrolex.job import Job

__all__ = ["STAGES", "Stage", "next_action", "stages_of"]

#: Stages in the order people work: key, name.
STAGES = (
    ("brief", "Brief"),
    ("ports", "Ports"),
    ("feeds", "Feeds"),
    ("harness", "Harness"),
    ("scaling", "Scaling"),
    ("proving", "Proving"),
    ("handover", "Handover"),
)


@dataclass(frozen=True, slots=True)
class Stage:
    """One stage: how many things are open in it, the gravest of them, and a word for where it stands."""

    key: str
    name: str
    words: str
    count: int = 0
    grade: Literal["", "stop", "caution"] = ""


def stages_of(job: Job, rows: Sequence[Row], findings: Sequence[Finding]) -> tuple[Stage, ...]:
    """Where the job stands, stage by stage; ``findings`` are those still standing."""
    return tuple(_stage(key, name, job, rows, findings) for key, name in STAGES)


def _stage(key: str, name: str, job: Job, rows: Sequence[Row], findings: Sequence[Finding]) -> Stage:
    stops = sum(f.grade == "stop" for f in findings if f.place == key)
    cautions = sum(f.grade == "caution" for f in findings if f.place == key)
    if stops:
        return Stage(key, name, f"{stops} stop{'s' * (stops > 1)}", stops, "stop")
    to_do, words = _open(key, job, rows)
    if cautions:
        return Stage(key, name, f"{cautions} caution{'s' * (cautions > 1)}", cautions, "caution")
    return Stage(key, name, words, to_do)


def _open(key: str, job: Job, rows: Sequence[Row]) -> tuple[int, str]:
    links = {"ports": ("port", "sender"), "harness": ("run",), "scaling": ("scaling",)}
    if key in links:
        count = sum(row.cell(link).state == "open" for row in rows for link in links[key])
        return count, f"{count} open" if count else _settled(rows)
    if key == "brief":
        return (0, "settled") if rows else (1, "nothing to show yet")
    if key == "feeds":
        fed = {tap.need for tap in job.taps if tap.circuit}
        count = sum(need not in fed for need in loads_by_need(job))
        return count, f"{count} to find" if count else _settled(rows)
    if key == "proving":
        count = sum(row.cell("proof").state != "proved" for row in rows)
        return count, f"{len(rows) - count} of {len(rows)} proved" if rows else "not begun"
    if key == "handover":
        return 0, "ready" if rows and all(r.cell("proof").state == "proved" for r in rows) else "draft"
    return 0, "not begun"


def _settled(rows: Sequence[Row]) -> str:
    return "settled" if rows else "not begun"


def next_action(job: Job, rows: Sequence[Row], findings: Sequence[Finding]) -> tuple[str, str]:
    """What to do next, as (words, stage key): the worst finding first, then the first open link."""
    for finding in findings:
        if finding.grade == "stop":
            return f"{finding.subject}: {finding.remedy or finding.reason}", finding.place or "brief"
    if not rows:
        return "Say what the driver should see.", "brief"
    for row in rows:
        for cell in row.cells:
            if cell.state == "open" and cell.link != "proof":
                stage = {
                    "port": "ports",
                    "sender": "ports",
                    "run": "harness",
                    "feed": "feeds",
                    "scaling": "scaling",
                }[cell.link]
                return f"{row.channel.name}: {cell.fact[0].lower()}{cell.fact[1:]}", stage
    for finding in findings:
        if finding.grade == "caution":
            return f"{finding.subject}: {finding.remedy or finding.reason}", finding.place or "brief"
    for row in rows:
        if row.cell("proof").state != "proved":
            return f"{row.channel.name}: prove it", "proving"
    return "Hand over the book.", "handover"
