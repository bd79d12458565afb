"""A sender the vehicle already has: who reads it, and where the display's wire joins."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from metrolex.acts.edit import channel_called, free_id, replaced
from metrolex.acts.inputs import assigned
from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import End, Job, MeasuringChain, Reader, Sender
from metrolex.job.references import without
from metrolex.scaling.fitted import refitted

__all__ = ["add_reader", "join_at", "take_reader"]


def add_reader(job: Job, channel_id: str, facts: Mapping[str, Any]) -> Job:
    """Somebody of the vehicle reads a channel's sender already: it is there, with a loom of its own. Raises BadInput."""
    channel, sender = _with_sender(job, channel_id)
    key = free_id("R1", (reader.id for reader in sender.readers))
    reader = read(Reader, {"id": key} | dict(facts))
    job = _put(job, replace(sender, readers=(*sender.readers, reader)))
    job = job.with_chain(replace(channel, source="shared"))
    leads = [
        wire.id
        for wire in job.conductors
        for end in (wire.a, wire.b)
        if end.kind == "sender" and end.id == sender.id and end.terminal != "signal"
    ]
    job = without(job, "conductors", *leads)  # return and supply are the vehicle's own
    return refitted(assigned(job, channel_id), channel_id)


def take_reader(job: Job, channel_id: str, reader_id: str) -> Job:
    """Nobody of that name reads it; without any reader left it is a sender of one's own again. Raises BadInput."""
    channel, sender = _with_sender(job, channel_id)
    if all(reader.id != reader_id for reader in sender.readers):
        raise BadInput("reader", reader_id, ", ".join(reader.id for reader in sender.readers))
    left = tuple(reader for reader in sender.readers if reader.id != reader_id)
    job = _put(job, replace(sender, readers=left))
    if not left:
        job = _joined(job, channel, None, None)
        job = job.with_chain(replace(channel_called(job, channel_id), source="sender"))
    return refitted(assigned(job, channel_id), channel_id)


def join_at(job: Job, channel_id: str, plug: str, pin: str) -> Job:
    """The display's wire joined at a pin of a plug of the vehicle, '' for the sender itself; a wire that is there moves along. Raises BadInput."""
    channel, _ = _with_sender(job, channel_id)
    if not plug:
        return _joined(job, channel, None, None)
    connector = job.connector(plug)
    if connector is None or connector.display is not None:
        raise BadInput("plug", plug, "a plug of the vehicle")
    if all(cavity.pin != pin for cavity in connector.cavities):
        raise BadInput("pin", pin, ", ".join(cavity.pin for cavity in connector.cavities))
    return _joined(job, channel, plug, pin)


def _joined(job: Job, channel: MeasuringChain, plug: str | None, pin: str | None) -> Job:
    old = _place(channel)
    fresh_chain = replace(channel, plug=plug, pin=pin)
    fresh = _place(fresh_chain)

    def moved(end: End) -> End:
        return fresh if end == old and fresh is not None else end

    wires = tuple(
        replace(wire, a=moved(wire.a), b=moved(wire.b)) if _leads_to_display(wire.a, wire.b) else wire
        for wire in job.conductors
    )
    return replace(job, conductors=wires).with_chain(fresh_chain)


def _place(channel: MeasuringChain) -> End | None:
    if channel.plug is not None and channel.pin is not None:
        return End("plug", channel.plug, channel.pin)
    return End("sender", channel.sender, "signal") if channel.sender else None


def _leads_to_display(a: End, b: End) -> bool:
    return "display" in (a.kind, b.kind)


def _with_sender(job: Job, channel_id: str) -> tuple[MeasuringChain, Sender]:
    channel = channel_called(job, channel_id)
    sender = job.sender(channel.sender)
    if sender is None:
        raise BadInput(
            "sender", None, "a chosen sender", "Choose the sender first: the one that is there, by its curve."
        )
    if channel.box is not None:
        raise BadInput("sender", sender.name, "a sender that speaks by no box")
    return channel, sender


def _put(job: Job, sender: Sender) -> Job:
    return replace(job, senders=replaced(job.senders, sender))
