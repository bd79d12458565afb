"""Switches and relays: one more, one less, into a wire, two readings on one dial."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from metrolex.acts.edit import channel_called, free_id, with_fields
from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import Conductor, End, Job, MeasuringChain, Switch
from metrolex.job.references import without
from metrolex.topology import comes_from

__all__ = ["add_switch", "into_wire", "set_switch", "share_dial", "take_switch"]

_CUT_IN = ("on_off", "momentary")


def add_switch(job: Job, facts: Mapping[str, Any]) -> Job:
    """One more switch or relay, with nothing on it yet. Raises BadInput."""
    key = free_id("K1" if facts.get("kind") == "relay" else "SW1", (one.id for one in job.switches))
    return replace(job, switches=(*job.switches, read(Switch, {"id": key} | dict(facts))))


def set_switch(job: Job, key: str, facts: Mapping[str, Any]) -> Job:
    """The named facts of a switch. Raises BadInput where a wire would end at a terminal it no longer has."""
    before = _switch_called(job, key)
    job = replace(job, switches=with_fields(job.switches, Switch, key, dict(facts)))
    after = _switch_called(job, key)
    used = {end.terminal for wire in job.conductors for end in (wire.a, wire.b) if _at(end, key)}
    lost = sorted(used - set(after.terminals))
    if lost:
        raise BadInput(
            "kind" if after.kind != before.kind else "poles",
            after.kind,
            "a switch with the terminals in use",
            f"Wires end at {', '.join(lost)} of {before.name}: take them off first.",
        )
    return job


def take_switch(job: Job, key: str) -> Job:
    """The job without a switch: a wire it was put into is whole again, other wires at it go.

    Of two readings on one dial the first stays joined; the second is read nowhere until an input is found for it.
    """
    switch = _switch_called(job, key)
    ends = {
        end: [w for w in job.conductors if End("switch", key, end) in (w.a, w.b)] for end in switch.terminals
    }
    common, stays = ends.get("common", []), ends.get("A" if switch.channels else "on", [])
    if (
        len(common) == len(stays) == 1
        and common[0] != stays[0]
        and (switch.channels or switch.kind in _CUT_IN)
    ):
        job = _joined_again(job, key, common[0], stays[0])
    if switch.channels:
        second = channel_called(job, switch.channels[1])
        first = channel_called(job, switch.channels[0])
        if (second.display, second.input) == (first.display, first.input):
            job = job.with_chain(replace(second, display=None, input=None))
    return without(job, "switches", key)


def into_wire(
    job: Job, wire_id: str, facts: Mapping[str, Any], to_m: float | None, after_m: float | None
) -> Job:
    """A switch put into a wire: ``to_m`` of it up to the switch (None: along its run as before), ``after_m`` from there on. Raises BadInput."""
    wire = job.wire(wire_id)
    if wire is None:
        raise BadInput("wire", wire_id, ", ".join(one.id for one in job.conductors))
    if facts.get("kind", "on_off") not in _CUT_IN:
        raise BadInput("kind", facts.get("kind"), "a switch on and off, or one that springs back")
    job = add_switch(job, facts)
    switch = job.switches[-1]
    if switch.poles != 1:
        raise BadInput("poles", switch.poles, "1 for a switch in one wire")
    first = replace(wire, b=End("switch", switch.id, "common"))
    if to_m is not None:
        first = replace(first, length_m=to_m, run=None)
    key = free_id("W1", (one.id for one in job.conductors))
    second = replace(wire, id=key, a=End("switch", switch.id, "on"), length_m=after_m, run=None)
    wires = tuple(first if one.id == wire_id else one for one in job.conductors)
    return replace(job, conductors=(*wires, second))


def share_dial(job: Job, channel_id: str, other_id: str, name: str = "") -> Job:
    """Two readings on one dial by a changeover switch: the first's at rest, the second's thrown; one table for both. Raises BadInput.

    Their signal wires go to the switch; from there to the dial a wire is to be laid.
    """
    first, second = channel_called(job, channel_id), channel_called(job, other_id)
    stage = job.input_of(first)
    if first.channel == second.channel:
        raise BadInput("other", other_id, "another reading", "Choose two different readings.")
    if stage is None or stage.pin is None:
        raise BadInput(
            "channel", channel_id, "a reading by a signal wire", f"{first.name} has no signal wire to switch."
        )
    if first.unit != second.unit or first.measurand.rpartition("_")[2] != second.measurand.rpartition("_")[2]:
        raise BadInput(
            "other",
            other_id,
            "a reading of the same kind and unit",
            f"One dial cannot show {first.name} and {second.name}: they are not measured in the same.",
        )
    for chain in (first, second):
        if any(chain.channel in one.channels for one in job.switches):
            raise BadInput(
                "other",
                chain.name,
                "a reading that is not switched yet",
                f"{chain.name} hangs on a switch already.",
            )
    facts = {
        "name": name.strip() or f"{first.name} or {_inside(second.name)}",
        "kind": "changeover",
        "positions": [first.name, second.name],
    }
    job = add_switch(job, facts)
    key = job.switches[-1].id
    job = replace(
        job,
        switches=(*job.switches[:-1], replace(job.switches[-1], channels=(first.channel, second.channel))),
    )
    job = _onto_switch(job, first, End("switch", key, "A"))
    job = _onto_switch(job, second, End("switch", key, "B"))
    before = second.display
    job = job.with_chain(replace(second, display=first.display, input=first.input, scaling=first.scaling))
    used = {chain.display for chain in job.chains} | {e.id for w in job.conductors for e in (w.a, w.b)}
    return job if before is None or before in used else without(job, "displays", before)


def _onto_switch(job: Job, chain: MeasuringChain, terminal: End) -> Job:
    """The wire from what a chain hears to its pin, ended at the switch."""
    leaves, stage = comes_from(job, chain), job.input_of(chain)
    pin = End("display", chain.display or "", stage.pin or "") if stage else None

    def moved(wire: Conductor) -> Conductor:
        if (wire.a, wire.b) == (pin, leaves):
            return replace(wire, a=terminal)
        return replace(wire, b=terminal) if (wire.b, wire.a) == (pin, leaves) else wire

    return replace(job, conductors=tuple(map(moved, job.conductors)))


def _joined_again(job: Job, key: str, common: Conductor, stays: Conductor) -> Job:
    """The two wires at a switch as one: along the run one of them lies in, else as long as both together."""
    kept, goes = (stays, common) if stays.run and not common.run else (common, stays)
    far = goes.b if _at(goes.a, key) else goes.a
    length = kept.length_m
    if kept.run is None:
        length = kept.length_m + goes.length_m if kept.length_m and goes.length_m else None
    whole = replace(
        kept, a=far if _at(kept.a, key) else kept.a, b=far if _at(kept.b, key) else kept.b, length_m=length
    )
    wires = (whole if one.id == kept.id else one for one in job.conductors if one.id != goes.id)
    return replace(job, conductors=tuple(wires))


def _inside(name: str) -> str:
    """A name inside a sentence: its first letter small, but for what is written in capitals."""
    return name if name[1:2].isupper() else name[:1].lower() + name[1:]


def _at(end: End, key: str) -> bool:
    return (end.kind, end.id) == ("switch", key)


def _switch_called(job: Job, key: str) -> Switch:
    found = job.switch(key)
    if found is None:
        raise BadInput("switch", key, ", ".join(one.id for one in job.switches))
    return found
