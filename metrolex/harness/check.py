"""Rules of the harness: fuse against wire, wires without a length."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.bus.pair import bus_findings
from metrolex.findings import Finding
from metrolex.harness.colours import colour_findings
from metrolex.harness.extension import extension_findings
from metrolex.harness.fusing import load_findings
from metrolex.harness.heat import heat_findings
from metrolex.harness.openings import opening_findings
from metrolex.harness.protection import protection_findings
from metrolex.harness.runs import run_findings
from metrolex.harness.supports import support_findings
from metrolex.harness.switches import switch_findings
from metrolex.harness.translate import plug_findings
from metrolex.job import Job
from metrolex.topology import topology_of

__all__ = ["harness_findings"]


def harness_findings(job: Job) -> Iterator[Finding]:
    """Findings of the runs and of each wire of the job."""
    yield from run_findings(job)
    yield from opening_findings(job)
    yield from protection_findings(job)
    yield from extension_findings(job)
    yield from support_findings(job)
    yield from colour_findings(job)
    yield from plug_findings(job)
    yield from bus_findings(job)
    yield from switch_findings(job)
    yield from load_findings(job)
    yield from heat_findings(job)
    for wire in job.conductors:
        if wire.id not in topology_of(job).lengths_m:
            yield Finding(
                "note",
                "wire_without_length",
                wire.id,
                "The length of this wire is not known, so it is left out of the circuit.",
                remedy="Measure it, or give its run segments.",
                place="harness",
            )
