"""Rules of the ports of a job: the chosen places with their stacks, mouths used twice, fluids."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.findings import Finding
from metrolex.job import Job
from metrolex.kit import body_of
from metrolex.ports.facts import mouths_of, senders_in
from metrolex.ports.fluids import fluid_findings
from metrolex.ports.practices import practice_of, topic_called, topics_for
from metrolex.ports.rules import port_findings

__all__ = ["ports_findings"]


def ports_findings(job: Job) -> Iterator[Finding]:
    """Findings of every chosen place of a job."""
    for channel in job.measured:
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
                    about=f"port {port.id}",
                )
    yield from _bodies(job)
    yield from _mouths(job)
    yield from _other_bank(job)
    yield from fluid_findings(job)


def _other_bank(job: Job) -> Iterator[Finding]:
    """Both banks are to be read, and one has no channel yet."""
    topic = "exhaust_banks"
    for measurand in topic_called(topic).measurands:
        if topic not in {t.key for t in topics_for(job, measurand)} or practice_of(job, topic).key != "both":
            continue
        there = [channel for channel in job.measured if channel.measurand == measurand]
        if len(there) == 1:
            yield Finding(
                "caution",
                "other_bank_open",
                there[0].name,
                "Both banks are to be read, and only one is: the other bank has no channel.",
                "1 of 2 banks",
                "Add the channel again on Brief, for the other bank.",
                "ports",
                there[0].id,
                about=f"channel {there[0].id}",
            )


def _bodies(job: Job) -> Iterator[Finding]:
    """Senders whose body is not the combined one any more."""
    for channel in job.measured:
        sender = job.sender(channel.sender)
        host = job.sender(sender.in_body) if sender else None
        if sender is not None and host is not None and body_of(sender.name) not in ("", host.name):
            yield Finding(
                "stop",
                "body_gone",
                channel.name,
                f"It sits in the body of a combined sender, and '{host.name}' is chosen there now.",
                host.name,
                "Take the combined sender again, or a sender of its own.",
                "ports",
                channel.id,
                about=f"channel {channel.id}",
            )


def _mouths(job: Job) -> Iterator[Finding]:
    """Two senders in one mouth."""
    for port in job.ports:
        senders, room = senders_in(job, port), mouths_of(port)
        if len(senders) > room:
            yield Finding(
                "stop",
                "one_mouth_two_senders",
                port.name,
                "More senders than mouths at this place.",
                f"{len(senders)} senders, {room} mouth{'s' if room > 1 else ''}",
                "A tee, a plate with more mouths, or another place for one of them.",
                "ports",
                about=f"port {port.id}",
            )
