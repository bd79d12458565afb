"""What the job needs against what came in the box: a shopping list that follows the job as it changes.

Quantities come from the job's own parts: fittings and seals of the stacks, taps and drills, hose clamps, leads that are
missing or too short, fuse taps, fluids. Consumables are rough: common practice, no source.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.harness.runs import plan_run
from metrolex.job import Job, MeasuringChain, Port
from metrolex.job.once import once_per_job
from metrolex.ports.cards import card_for
from metrolex.ports.facts import service_of, spare_mouths, stack_of
from metrolex.ports.fluids import fluids_of
from metrolex.topology import topology_of

__all__ = ["Item", "shopping_list"]


@dataclass(frozen=True, slots=True)
class Item:
    """A thing the job needs: how many, of what unit, for which channels, how many are at hand."""

    key: str
    name: str
    group: str
    need: float
    unit: str
    used_for: tuple[str, ...]
    have: float = 0.0

    @property
    def buy(self) -> float:
        """How many are missing."""
        return max(0.0, round(self.need - self.have, 3))


@dataclass(frozen=True, slots=True)
class _Want:
    group: str
    name: str
    need: float
    unit: str
    used_for: str
    once: bool = False


@once_per_job
def shopping_list(job: Job) -> tuple[Item, ...]:
    """Everything the job needs, group by group, with what is at hand taken off.

    Tools and bottles are needed once for the whole job however many channels want them.
    """
    merged: dict[tuple[str, str], Item] = {}
    for want in _wants(job):
        key = (want.group, want.name)
        old = merged.get(key)
        need = want.need if old is None else (max(old.need, want.need) if want.once else old.need + want.need)
        used = (want.used_for,) if old is None else tuple(dict.fromkeys((*old.used_for, want.used_for)))
        merged[key] = Item(_key(want), want.name, want.group, round(need, 3), want.unit, used)
    have = {item.id: item.have for item in job.kit}
    order = {group: i for i, group in enumerate(_GROUPS)}
    items = [
        Item(i.key, i.name, i.group, i.need, i.unit, i.used_for, have.get(i.key, 0.0))
        for i in merged.values()
    ]
    return tuple(sorted(items, key=lambda item: order[item.group]))


_ON_THE_VEHICLE = ("shared", "ecu")  # sources that bring their sender with them
_PASTES = {"exhaust": "Anti-seize", "fuel": "Fuel-proof paste sealant"}
_GROUPS = ("displays and senders", "leads", "fittings", "seals and sealant", "feeds", "tools", "fluids")


def _key(want: _Want) -> str:
    return want.name[:60]


def _wants(job: Job) -> Iterator[_Want]:
    for display in job.displays:
        yield _Want("displays and senders", display.name, 1, "", display.id)
    for channel in job.measured:
        sender, port = job.sender(channel.sender), job.port(channel.port)
        if sender is not None:
            if channel.source not in _ON_THE_VEHICLE and not sender.rides:
                yield _Want("displays and senders", sender.name, 1, "", channel.name)
            yield from _lead(job, channel)
        if port is not None and not (sender and sender.rides):
            # Two senders in one plate want the plate once.
            first = next(c.id for c in job.measured if c.port == port.id)
            yield from (
                _way_in(job, channel, port)
                if first == channel.id
                else _seals(job, channel, port, last_only=True)
            )
    for tap in job.taps:
        circuit = job.circuit(tap.circuit)
        if circuit is not None and circuit.kind == "fuse":
            yield _Want("feeds", f"Fuse tap, {circuit.form or 'form ?'}", 1, "", tap.id)
        if tap.fuse_a:
            yield _Want("feeds", f"Fuse {tap.fuse_a:g} A", 2, "", tap.id)
    for plan in fluids_of(job):
        yield _Want("fluids", plan.name, plan.have_ready_l, "L", ", ".join(plan.places), once=True)


def _lead(job: Job, channel: MeasuringChain) -> Iterator[_Want]:
    sender, run = job.sender(channel.sender), job.run(channel.run)
    _, stage = job.sender_wired_to(channel)
    if (
        sender is not None
        and sender.lead_m is None
        and sender.wires > 1
        and not (stage and stage.kind == "own_lead")
    ):
        yield _Want("leads", f"Sender lead, {sender.wires} wires", 1, "", channel.name)
    way = topology_of(job).ways[run.id] if run else None
    if way is None or not way.segments:
        return
    plan = plan_run(way)
    if plan.supplied_m is not None and plan.extension_m > 0:
        yield _Want(
            "leads",
            f"Extension lead, {sender.wires if sender else 2} wires",
            math.ceil(10 * plan.extension_m) / 10,
            "m",
            channel.name,
        )


def _way_in(job: Job, channel: MeasuringChain, port: Port) -> Iterator[_Want]:
    spare = spare_mouths(job, port)
    for fitting in port.stack:
        yield _Want("fittings", fitting.name, 1, "", channel.name)
        if fitting.spare_ports and spare:
            plugs = min(spare, fitting.spare_ports)
            yield _Want("fittings", f"Plug {fitting.female or fitting.male}", plugs, "", channel.name)
            spare -= plugs
        if fitting.sort in ("hose adapter", "hose tee"):
            yield _Want("seals and sealant", f"Hose clamp for {fitting.male}", 2, "", channel.name)
    yield from _seals(job, channel, port)
    for tool in card_for(job, channel, port).tools:
        yield _Want("tools", tool[0].upper() + tool[1:], 1, "", channel.name, once=True)


def _seals(job: Job, channel: MeasuringChain, port: Port, *, last_only: bool = False) -> Iterator[_Want]:
    sender = job.sender(channel.sender)
    if sender is None or not sender.body.thread or not port.thread:
        return
    try:
        joints = stack_of(port, sender).joints
    except BadInput:  # a thread nobody knows: said as a finding
        return
    paste = _PASTES.get(service_of(job, channel, port), "PTFE tape or paste sealant")
    for joint in joints[-1:] if last_only else joints:
        if joint.seal == "washer":
            # A banjo seals on both sides of its eye.
            both = next((2 for f in port.stack if f.sort == "banjo" and f.male == joint.male.name), 1)
            yield _Want("seals and sealant", f"Washer for {joint.male.name}", both, "", channel.name)
        elif joint.seal == "o_ring" and joint.male.threaded:
            yield _Want("seals and sealant", f"O-ring for {joint.male.name}", 1, "", channel.name)
        elif joint.seal == "sealant":
            yield _Want("seals and sealant", paste, 1, "", channel.name, once=True)
