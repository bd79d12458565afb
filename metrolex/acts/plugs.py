"""Plugs of the vehicle, pins of displays, signals of the bus."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from metrolex.acts.edit import channel_called, free_id, replaced
from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import Connector, Job, Pin
from metrolex.job.references import without

__all__ = ["choose_signal", "describe_pin", "remove_plug", "set_bus", "set_plug"]


def set_plug(job: Job, data: dict[str, Any]) -> Job:
    key = data.pop("id")
    key = key or free_id(str(data["name"])[:50].strip().lower(), (c.id for c in job.connectors))
    connector = read(Connector, {**data, "id": key, "display": data["display"] or None})
    pins = {cavity.pin for cavity in connector.cavities}
    held = next(
        (
            w
            for w in job.conductors
            for e in (w.a, w.b)
            if e.kind == "plug" and e.id == key and e.terminal not in pins
        ),
        None,
    )
    if held is not None:
        raise BadInput(
            "cavities",
            held.id,
            "every pin a wire ends on",
            f"{held.id} ends on a pin that is not in the list: take the wire out first.",
        )
    return replace(job, connectors=replaced(job.connectors, connector))


def remove_plug(job: Job, key: str) -> Job:
    """The job without a plug, and without the wires that end on it."""
    return without(job, "connectors", key)


def describe_pin(job: Job, key: str, pin: Pin, clean: dict[str, Any]) -> Job:
    facts: dict[str, Any] = {name: clean[name] for name in ("function", "active", "limit_a") if name in clean}
    if "drives_a" in clean:
        facts["drives_a"] = clean["drives_a"] or 0.0
    return replace(
        job,
        displays=tuple(
            replace(d, pins=tuple(replace(p, **facts) if p.id == pin.id else p for p in d.pins))
            if d.id == key
            else d
            for d in job.displays
        ),
    )


def set_bus(job: Job, facts: Mapping[str, Any]) -> Job:
    """The named facts of the data bus; every other as it stands."""
    return replace(job, bus=replace(job.bus, **facts))


def choose_signal(job: Job, key: str, name: str) -> Job:
    channel = channel_called(job, key)
    if name and name not in {s.name for s in job.bus.signals}:
        raise BadInput("signal", name, "a signal of the bus", f"The bus lists no signal '{name:.40}'.")
    return job.with_chain(replace(channel, signal=name))
