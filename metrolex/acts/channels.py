"""What is shown to the driver: a channel more, a channel less."""

from __future__ import annotations

from dataclasses import replace
from itertools import chain, count

from metrolex.acts.edit import channel_called, free_id
from metrolex.errors import BadInput
from metrolex.intake import dump, read
from metrolex.job import Channel, Display, Input, Job, MeasuringChain, Run
from metrolex.job.references import without
from metrolex.kit import DASH, display_kit, facts_for
from metrolex.scaling.counting import COUNTED

__all__ = ["add_channel", "has_dash", "name_channel", "remove_channel", "show_more"]


def add_channel(job: Job, measurand: str, *, on_dash: bool = False, lit: bool = True) -> Job:
    """The job with one more thing to show: its channel, its run, its gauge or a free input of the dash; a gauge not ``lit`` has no lamp wire."""
    facts = facts_for(measurand, job.vehicle)
    called = {channel.name for channel in job.channels}
    name = next(n for n in chain([facts.name], (f"{facts.name} {i}" for i in count(2))) if n not in called)
    key = free_id(facts.name.lower(), (channel.id for channel in job.chains))
    gauge = free_id("gauge 1", (d.id for d in job.displays))
    kit = display_kit(facts.display, gauge, f"{name} gauge")
    if not lit:
        pins = tuple(pin for pin in kit.display.pins if pin.role != "lamps")
        kit = replace(kit, display=replace(kit.display, pins=pins))
    job, display, stage = (
        _on_dash(job, kit.display.inputs[0].kind)
        if on_dash
        else (
            replace(job, displays=(*job.displays, kit.display)),
            kit.display,
            kit.display.inputs[0],
        )
    )
    scaling = (
        kit.scaling
        if kit.scaling.table
        else replace(kit.scaling, decimals=max(kit.scaling.decimals, facts.decimals))
    )
    channel = MeasuringChain(
        key,
        name,
        facts.id,
        facts.unit,
        display.id,
        stage.id,
        scaling=scaling,
        true_stopped=facts.true_stopped,
        true_running=facts.true_running,
        warn_low=facts.warn_low,
        warn_high=facts.warn_high,
    )
    runs = job.runs
    if facts.senders or facts.id in COUNTED:
        run = free_id(f"{key} run", (r.id for r in job.runs))
        what = "sender" if facts.senders else "pick-up"
        runs = (*runs, Run(run, f"{name} {what} to its gauge"))
        channel = replace(channel, run=run)
    return replace(job, runs=runs).with_chain(channel)


def name_channel(job: Job, key: str, name: str) -> Job:
    """The job with a channel called otherwise; what was waived for it stays waived. Raises BadInput for a name another one has."""
    channel, words = channel_called(job, key), " ".join(name.split())
    others = [other.name for other in job.channels if other.id != channel.channel]
    if words.lower() in {other.lower() for other in others}:
        raise BadInput(
            "name",
            name,
            "a name no other channel has",
            f"There is a channel called {words} already: say which this one is, like {words}, right.",
        )
    read(Channel, dump(Channel(channel.channel, words, channel.measurand, channel.unit)))
    alone = channel.name not in others
    waivers = tuple(
        replace(waiver, subject=words) if alone and waiver.subject == channel.name else waiver
        for waiver in job.waivers
    )
    return replace(job.with_chain(replace(channel, name=words)), waivers=waivers)


def show_more(job: Job, measurand: str) -> Job:
    """The job with one more thing to show, on the dash where it has one."""
    return add_channel(job, measurand, on_dash=any(has_dash(display) for display in job.displays))


def _on_dash(job: Job, kind: str) -> tuple[Job, Display, Input]:
    """A free input of a kind on the job's dash; a dash more where there is none."""
    taken = {(channel.display, channel.input) for channel in job.chains}
    for display in job.displays:
        for stage in display.inputs if has_dash(display) else ():
            if stage.kind == kind and (display.id, stage.id) not in taken:
                return job, display, stage
    key = free_id("dash", (d.id for d in job.displays))
    dash = display_kit(DASH, key, "Dash").display
    stage = next(stage for stage in dash.inputs if stage.kind == kind)
    return replace(job, displays=(*job.displays, dash)), dash, stage


def has_dash(display: Display) -> bool:
    """Whether a display takes several readings."""
    return len(display.inputs) > 1


def remove_channel(job: Job, key: str) -> Job:
    """The job without a channel, and without its gauge, sender, port and run where no other channel uses them."""
    channel = channel_called(job, key)
    key, gone = channel.channel, [chain for chain in job.chains if chain.channel == channel.channel]
    shared = {other.port for other in job.chains if other.channel != key}
    ports = tuple(replace(p, channel=None) if p.channel == key and p.id in shared else p for p in job.ports)
    job = without(replace(job, ports=ports), "channels", key)
    for field, kind in (
        ("source_id", "sources"),
        ("display", "displays"),
        ("sender", "senders"),
        ("port", "ports"),
        ("run", "runs"),
    ):
        parts = {part for chain in gone if (part := getattr(chain, field)) is not None}
        used = {getattr(other, field) for other in job.chains}
        job = without(job, kind, *sorted(parts - used))
    return job
