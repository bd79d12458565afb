"""What the job needs against what came in the box: a shopping list that follows the job as it changes.

Quantities come from the job's own parts: fittings and seals of the stacks, taps and drills, hose clamps, leads that are
missing or too short, wire by size and colour, what ends it, sleeves, switches, fuse taps, fluids. Ties and consumables are rough: common practice, no source.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from metrolex.errors import BadInput
from metrolex.harness.conductors import find_gauge
from metrolex.harness.cut_list import cut_list, purchases
from metrolex.harness.protection import cover_run
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
    """A thing the job needs: how many, of what unit, for which channels, how many are at hand, what one costs; ``spare`` of them are for mistakes."""

    key: str
    name: str
    group: str
    need: float
    unit: str
    used_for: tuple[str, ...]
    have: float = 0.0
    spare: float = 0.0
    price: float | None = None

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
    spare: float = 0.0


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
        spare = want.spare if old is None else old.spare + want.spare
        merged[key] = Item(_key(want), want.name, want.group, round(need, 3), want.unit, used, spare=spare)
    known = {item.id: item for item in job.kit}
    order = {group: i for i, group in enumerate(_GROUPS)}
    items = [
        replace(i, have=known[i.key].have, price=known[i.key].price) if i.key in known else i
        for i in merged.values()
    ]
    return tuple(sorted(items, key=lambda item: order[item.group]))


_ON_THE_VEHICLE = ("shared", "ecu")  # sources that bring their sender with them
_PASTES = {"exhaust": "Anti-seize", "fuel": "Fuel-proof paste sealant"}
_GROUPS = (
    "displays and senders",
    "leads",
    "wire",
    "terminals and splices",
    "sleeves and ties",
    "fittings",
    "seals and sealant",
    "feeds",
    "switches",
    "tools",
    "fluids",
)
TIE_EVERY_M = 0.2  # one tie more for each, and one at each end (common practice, no source)


def _key(want: _Want) -> str:
    return want.name[:60]


def _wants(job: Job) -> Iterator[_Want]:
    for display in job.displays:
        yield _Want("displays and senders", display.name, 1, "", display.id)
    for channel in job.measured:
        sender, port = job.sender(channel.sender), job.port(channel.port)
        if sender is not None:
            if channel.source not in _ON_THE_VEHICLE and sender.screwed_in:
                yield _Want("displays and senders", sender.name, 1, "", channel.name)
            yield from _lead(job, channel)
        if port is not None and not (sender and not sender.screwed_in):
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
            yield _Want("feeds", f"Fuse {tap.fuse_a:g} A", 2, "", tap.id, spare=1)
    yield from _wire(job)
    yield from _along_the_runs(job)
    for switch in job.switches:
        rated = "Relay" if switch.kind == "relay" else f"Switch, {_SWITCHES[switch.kind]}"
        yield _Want("switches", f"{rated}, {switch.limit_a:g} A", 1, "", switch.name)
    for plan in fluids_of(job):
        yield _Want("fluids", plan.name, plan.have_ready_l, "L", ", ".join(plan.places), once=True)


_SWITCHES = {"on_off": "on and off", "changeover": "changeover", "momentary": "push button"}


def _wire(job: Job) -> Iterator[_Want]:
    """Wire by size and colour, with what is kept for mistakes, and what its ends are finished with."""
    for bought in purchases(job):
        colour = f"{bought.colour}/{bought.stripe}" if bought.stripe else bought.colour
        metres = math.ceil(10 * bought.needed_m) / 10
        for_wires = ", ".join(wire for reel in bought.wires for wire in reel)
        yield _Want("wire", f"Wire {bought.size} {colour or 'colour not said'}", metres, "m", for_wires)
    for cut in cut_list(job):
        for kind, ending in ((cut.wire.a.kind, cut.a_terminal), (cut.wire.b.kind, cut.b_terminal)):
            if kind in ("ground", "port", "battery", "switch"):
                size = find_gauge(cut.wire.size, cut.wire.system).words
                yield _Want(
                    "terminals and splices", f"{ending[0].upper()}{ending[1:]}, {size}", 1, "", cut.wire.id
                )
            elif kind == "plug":
                yield _Want("terminals and splices", "Splice, glued sleeve", 1, "", cut.wire.id)
    for splice in job.splices:
        yield _Want("terminals and splices", "Splice, glued sleeve", 1, "", splice.id)


def _along_the_runs(job: Job) -> Iterator[_Want]:
    """Loom, sleeves and ties along the runs; a grommet for an edge that is bare."""
    for run in job.runs:
        for cover in cover_run(job, run):
            length = math.ceil(10 * cover.segment.length_m) / 10
            if cover.cover:
                yield _Want(
                    "sleeves and ties", cover.cover[0].upper() + cover.cover[1:], length, "m", run.name
                )
            elif cover.loom_mm is not None:
                yield _Want("sleeves and ties", f"Split loom, {cover.loom_mm:g} mm", length, "m", run.name)
            ties = math.ceil(cover.segment.length_m / TIE_EVERY_M) + 1
            yield _Want("sleeves and ties", "Cable tie", ties, "", run.name)
    for opening in job.openings:
        if opening.edge == "bare":
            yield _Want(
                "sleeves and ties", f"Grommet for a hole of {opening.hole_mm:g} mm", 1, "", opening.name
            )


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
