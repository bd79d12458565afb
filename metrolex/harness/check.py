"""Rules of the harness: fuse against wire, wires without a length, where each tap's power goes."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.findings import Finding
from metrolex.harness.conductors import find_gauge
from metrolex.harness.openings import opening_findings
from metrolex.harness.protection import protection_findings
from metrolex.harness.runs import conductor_length_m, run_findings
from metrolex.job import Conductor, End, Job, Tap

__all__ = ["harness_findings", "wires_after"]


def harness_findings(job: Job) -> Iterator[Finding]:
    """Findings of the runs and of each wire of the job."""
    yield from run_findings(job)
    yield from opening_findings(job)
    yield from protection_findings(job)
    for tap in job.taps:
        yield from _fuse_against_wires(job, tap)
    for wire in job.conductors:
        if conductor_length_m(job, wire.id) is None:
            yield Finding(
                "note", "wire_without_length", wire.id, "The length of this wire is not known, so it is left out of the circuit.",
                remedy="Measure it, or give its run segments.", place="harness",
            )  # fmt: skip


def wires_after(job: Job, tap: Tap) -> list[Conductor]:
    """The wires fed by a tap, through splices, up to the pins they end at."""
    reached: list[Conductor] = []
    edge = [("tap", tap.id)]
    seen = set(edge)
    while edge:
        at = edge.pop()
        for wire in job.conductors:
            for near, far in ((wire.a, wire.b), (wire.b, wire.a)):
                if (near.kind, near.id) == at and wire not in reached:
                    reached.append(wire)
                    if far.kind == "splice" and _key(far) not in seen:
                        seen.add(_key(far))
                        edge.append(_key(far))
    return reached


def _key(end: End) -> tuple[str, str]:
    return end.kind, end.id


def _fuse_against_wires(job: Job, tap: Tap) -> Iterator[Finding]:
    wires = wires_after(job, tap)
    if tap.fuse_a is None or not wires:
        return
    thinnest = min(wires, key=lambda wire: find_gauge(wire.size, wire.system).max_fuse_a)
    allowed = find_gauge(thinnest.size, thinnest.system)
    if tap.fuse_a > allowed.max_fuse_a:
        yield Finding(
            "stop", "fuse_over_wire", thinnest.id,
            f"{allowed.words} is guarded by {allowed.max_fuse_a:g} A at the most; the fuse of {tap.id} would let it burn.",
            f"{tap.fuse_a:g} A on {allowed.words}", f"Fit {allowed.max_fuse_a:g} A or less, or a thicker wire.", "harness",
        )  # fmt: skip
