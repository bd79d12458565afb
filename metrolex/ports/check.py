"""Rules of the ports of a job: the chosen places with their stacks, mouths used twice, fluids."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.findings import Finding
from metrolex.job import Job
from metrolex.ports.fluids import fluid_findings
from metrolex.ports.rules import port_findings

__all__ = ["ports_findings"]


def ports_findings(job: Job) -> Iterator[Finding]:
    """Findings of every chosen place of a job."""
    for channel in job.channels:
        port = job.port(channel.port)
        if port is not None:
            yield from port_findings(job, channel, port, job.sender(channel.sender))
            if (
                channel.sender is not None
                and not port.stack
                and port.way_in == ""
                and port.thread == ""
                and port.kind == "own"
            ):
                yield Finding(
                    "note",
                    "way_in_open",
                    port.name,
                    "No thread is given for this place yet.",
                    "",
                    "Say what thread is there.",
                    "ports",
                    channel.id,
                )
    yield from _mouths(job)
    yield from fluid_findings(job)


def _mouths(job: Job) -> Iterator[Finding]:
    """Two senders in one mouth."""
    for port in job.ports:
        senders = {
            channel.sender
            for channel in job.channels
            if channel.port == port.id and (sender := job.sender(channel.sender)) and not sender.rides
        }
        room = 1 + sum(fitting.spare_ports + (fitting.sort == "tee") for fitting in port.stack)
        if len(senders) > room:
            yield Finding(
                "stop", "one_mouth_two_senders", port.name, "More senders than mouths at this place.", f"{len(senders)} senders, {room} mouth{'s' if room > 1 else ''}",
                "A tee, a plate with more mouths, or another place for one of them.", "ports",
            )  # fmt: skip
