"""Choosing where a sender goes in, and which sender it is."""

from __future__ import annotations

from dataclasses import replace

from metrolex.errors import BadInput
from metrolex.job import Channel, Job, Sender
from metrolex.kit import measurand_facts, sender_kit
from metrolex.ports.compare import port_at
from workbench.jobs.services import free_id, replaced

__all__ = ["choose_place", "choose_sender", "set_port_facts"]


def choose_place(job: Job, channel_id: str, kind: str) -> Job:
    """The job with a channel's sender going in at a usual place."""
    channel = _channel(job, channel_id)
    key = channel.port or free_id(f"{channel.id} port", (port.id for port in job.ports))
    if sum(other.port == key for other in job.channels) > 1:
        key = free_id(f"{channel.id} port", (port.id for port in job.ports))
    port = port_at(channel.measurand, kind, key)
    return replace(job, ports=replaced(job.ports, port)).with_channel(replace(channel, port=key))


def set_port_facts(
    job: Job, channel_id: str, name: str, thread: str, way_in: str, grounded: bool, why: str
) -> Job:
    """The job with what was found at the chosen place."""
    channel = _channel(job, channel_id)
    port = job.port(channel.port)
    if port is None:
        raise BadInput("name", name, "a chosen place", "Choose a place first.")
    port = replace(port, name=name, thread=thread, way_in=way_in, grounded=grounded, why=why)
    return replace(job, ports=replaced(job.ports, port))


def choose_sender(job: Job, channel_id: str, kit: str) -> Job:
    """The job with a generic sender for a channel. Wires to terminals the new one lacks go with the old one."""
    channel = _channel(job, channel_id)
    if kit not in measurand_facts(channel.measurand).senders:
        raise BadInput("sender", kit, " | ".join(measurand_facts(channel.measurand).senders))
    key = channel.sender or free_id(f"{channel.id} sender", (sender.id for sender in job.senders))
    sender = sender_kit(kit, key)
    job = replace(job, senders=replaced(job.senders, sender)).with_channel(replace(channel, sender=key))
    return _fit_run(_drop_dead_wires(job, sender), channel, sender)


def _drop_dead_wires(job: Job, sender: Sender) -> Job:
    kept = tuple(
        wire for wire in job.conductors
        if not any(end.kind == "sender" and end.id == sender.id and end.terminal not in sender.terminals for end in (wire.a, wire.b))
    )  # fmt: skip
    return replace(job, conductors=kept)


def _fit_run(job: Job, channel: Channel, sender: Sender) -> Job:
    run = job.run(channel.run)
    if run is None or sender.lead_m is None:
        return job
    return replace(job, runs=replaced(job.runs, replace(run, supplied_m=sender.lead_m)))


def _channel(job: Job, key: str) -> Channel:
    channel = job.channel(key)
    if channel is None:
        raise BadInput("channel", key, ", ".join(c.id for c in job.channels))
    return channel
