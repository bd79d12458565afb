"""Choosing where a sender goes in, which sender it is, and the fittings between."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from typing import Any

from metrolex.acts.boxes import free_outputs, put_between, read_output, take_between
from metrolex.acts.edit import channel_called, free_id, replaced
from metrolex.acts.inputs import assigned
from metrolex.errors import BadInput
from metrolex.fittings.fitting import Fitting
from metrolex.fittings.stack import goes_on, open_end_of, solve_stack
from metrolex.intake import dump, read
from metrolex.job import (
    Antenna,
    Choice,
    Display,
    FluidRecord,
    Job,
    MeasuringChain,
    Port,
    Run,
    Sender,
    Spot,
    Weight,
)
from metrolex.job.place import FlowPath, PathKind
from metrolex.job.references import without
from metrolex.job.within import replaced_within
from metrolex.kit import body_of, box_kit, facts_for, sender_and_box, sender_kit
from metrolex.ports.compare import CRITERIA, WEIGHTS, candidates_for, weights_of
from metrolex.ports.facts import facts_of, mouth_of, sender_end
from metrolex.ports.fluids import fluids_of
from metrolex.ports.paths import moved_parts, paths_for, with_path
from metrolex.ports.places import place_of, spots_of
from metrolex.ports.practices import topic_called
from metrolex.quantities import in_unit
from metrolex.scaling.fitted import refitted

__all__ = [
    "add_path",
    "add_pin",
    "candidate_port",
    "change_stack",
    "choose_place",
    "choose_practice",
    "choose_sender",
    "chosen_choice",
    "fitting_options",
    "mark_sender",
    "measure_path",
    "move_pin",
    "offered_senders",
    "parts_of_choice",
    "record_fluid",
    "remove_path",
    "remove_pin",
    "set_antenna",
    "set_path",
    "set_port_facts",
    "set_weights",
    "settle_place",
    "solve_way_in",
    "start_paths",
    "suggested_sender",
]


def candidate_port(job: Job, channel: MeasuringChain, pin: str) -> Port:
    """The port behind a pin: one of the job's, or a usual place nobody has touched. Raises BadInput (``pin``)."""
    for candidate in candidates_for(job, channel):
        if candidate.port.id == pin:
            return candidate.port
    raise BadInput("pin", pin, "a place of this channel", "There is no such place for this channel.")


def choose_place(job: Job, channel_id: str, pin: str) -> Job:
    """The job with a channel's sender going in at a place; the place chosen before stays as a candidate."""
    channel = channel_called(job, channel_id)
    port = candidate_port(job, channel, pin)
    before = job.port(channel.port)
    if before is not None and before.channel is None and before.id != port.id:
        job = replace(job, ports=replaced(job.ports, replace(before, channel=channel.channel)))
    job, port = _stored(job, channel, port)
    job = job.with_chain(replace(channel, port=port.id))
    mine = job.sender(channel.sender)
    for other in job.chains:  # what sits in its body goes along
        rider = job.sender(other.sender)
        if mine is not None and rider is not None and rider.in_body == mine.id and other.port != port.id:
            job = job.with_chain(replace(other, port=port.id))
    return job


def parts_of_choice(job: Job, channel_id: str) -> tuple[tuple[str, ...], ...]:
    """The parts a choice of a sender sets as one, by their paths: the sender itself, and how its signal comes."""
    chain = job.chain(channel_id)
    if chain is None:
        return ()
    sender = (("senders", chain.sender),) if chain.sender else ()
    return (("sources", chain.source_id), *sender)


def settle_place(
    job: Job,
    channel_id: str,
    pin: str,
    kit: str,
    fittings: Sequence[Fitting],
    stock: Collection[str] = (),
    own: Mapping[str, Sender] | None = None,
) -> Job:
    """The job with place, sender and way in of a channel chosen at once; a way in there is none for stays open. '' keeps the sender that is there."""
    if kit and kit != chosen_choice(job, channel_called(job, channel_id), own or {}):
        job = choose_sender(job, channel_id, kit, own)
    job = choose_place(job, channel_id, pin)
    channel = channel_called(job, channel_id)
    port, sender = job.port(channel.port), job.sender(channel.sender)
    if port is None or sender is None or not port.thread or not sender.body.thread or port.stack:
        return job
    try:
        return solve_way_in(job, channel_id, port.id, fittings, stock)
    except BadInput:
        return job


def suggested_sender(
    job: Job, channel: MeasuringChain, port: Port, fittings: Sequence[Fitting], own: Mapping[str, Sender]
) -> str:
    """The sender to take for a place: the one chosen; else of those offered the first with the fewest joints to its mouth. '' where none is offered."""
    chosen = chosen_choice(job, channel, own)
    if chosen or not (offered := offered_senders(job, channel, own)):
        return chosen
    place = place_of(channel.measurand, port)

    def joints(choice: str) -> float:
        if choice in _of_boxes(job, channel):
            return 0.0
        sender = own[choice] if choice in own else sender_kit(sender_and_box(choice)[0], "sender")
        if not port.thread or not sender.body.thread:
            return 1.0
        try:
            way = solve_stack(mouth_of(port), sender_end(sender), fittings, (), place.keeps if place else ())
        except BadInput:
            return 99.0
        return 1.0 + len(way.chain) if way.found else 99.0

    return min(offered, key=joints)


def mark_sender(job: Job, channel_id: str, mark: str) -> Job:
    """The job with a word that tells a sender from its like ('left bank'). Raises BadInput where another of its kind has the same."""
    sender = _sender(job, channel_called(job, channel_id))
    words = " ".join(mark.split())
    alike = {s.mark.lower() for s in job.senders if s.name == sender.name and s.id != sender.id}
    if words and words.lower() in alike:
        raise BadInput(
            "mark",
            mark,
            "a word no other sender of its kind has",
            f"Another {sender.name} is marked {words} already.",
        )
    marked = read(Sender, {**dump(sender), "mark": words})
    return replace(job, senders=replaced(job.senders, marked))


def set_antenna(job: Job, data: dict[str, Any]) -> Job:
    """The job with its GPS antenna as it sits; nothing said of it takes it out. Raises BadInput."""
    said = any(value not in (None, "") for value in data.values())
    return replace(job, bus=replace(job.bus, antenna=read(Antenna, data) if said else None))


def move_pin(job: Job, channel_id: str, pin: str, at_m: float, path_id: str = "") -> Job:
    """The job with a pin at another distance along its path. Raises BadInput for a path without scale or a distance beyond it."""
    channel = channel_called(job, channel_id)
    job, port = _stored(job, channel, candidate_port(job, channel, pin))
    path = job.path(path_id or port.spot.path)
    if path is None:
        raise BadInput(
            "path",
            path_id,
            ", ".join(p.id for p in job.paths) or "a path",
            "Choose the path it lies on first.",
        )
    if path.length_m is None:
        raise BadInput(
            "at_m", at_m, "a measured path", f"{path.name} has no scale yet: measure its length first."
        )
    if not 0 <= at_m <= path.length_m:
        raise BadInput(
            "at_m",
            at_m,
            f"0 to {path.length_m:g} m",
            f"{at_m:g} m is beyond the end of {path.name}, {path.length_m:g} m.",
        )
    return replace(job, ports=replaced(job.ports, _at(port, path.id, round(at_m, 4))))


def _at(port: Port, path_id: str, at_m: float) -> Port:
    return replace(port, spot=replace(port.spot, path=path_id, at_m=at_m))


def _stored(job: Job, channel: MeasuringChain, port: Port) -> tuple[Job, Port]:
    if any(other.id == port.id for other in job.ports):
        return job, port
    port = replace(port, id=free_id(port.id, (other.id for other in job.ports)), channel=channel.channel)
    return replace(job, ports=(*job.ports, port)), port


def add_pin(job: Job, channel_id: str, name: str, path_id: str, at_m: float | None) -> Job:
    """The job with a place of the fitter's own for a channel."""
    channel = channel_called(job, channel_id)
    key = free_id("own place 1", (port.id for port in job.ports))
    port = Port(key, name, "own", channel=channel.channel, spot=Spot(entry="existing"))
    job = replace(job, ports=(*job.ports, port))
    return move_pin(job, channel_id, key, at_m or 0.0, path_id) if path_id else job


def remove_pin(job: Job, channel_id: str, pin: str) -> Job:
    """The job without a place that is only considered. Raises BadInput for the one chosen."""
    channel = channel_called(job, channel_id)
    if channel.port == pin:
        raise BadInput("pin", pin, "a place not chosen", "This place is chosen: choose another one first.")
    if all(port.id != pin for port in job.ports):
        raise BadInput("pin", pin, "a place of this channel", "There is no such place for this channel.")
    return without(job, "ports", pin)


def set_port_facts(job: Job, channel_id: str, pin: str, facts: dict[str, Any]) -> Job:
    """The job with what was found at a place. Raises BadInput on a field: beyond the path, a bore too small for the probe."""
    before, channel = job, channel_called(job, channel_id)
    job, port = _stored(job, channel, candidate_port(job, channel, pin))
    path, at_m = job.path(facts["path"]), facts["at_m"]
    if path is not None and at_m is not None and path.length_m is not None and at_m > path.length_m:
        raise BadInput(
            "at_m",
            at_m,
            f"0 to {path.length_m:g} m",
            f"{at_m:g} m is beyond the end of {path.name}, {path.length_m:g} m.",
        )
    found = replaced_within(port, facts)
    if found == port and before.port(port.id) is None:
        return before  # a usual place looked at and found as usual is not a place of this job
    port = found
    sender = job.sender(channel.sender)
    bore = facts_of(job, channel, port).bore_mm
    if (
        sender is not None
        and sender.body.probe_mm is not None
        and facts["bore_mm"] is not None
        and bore is not None
        and sender.body.probe_mm >= bore
    ):
        raise BadInput(
            "bore_mm",
            bore,
            f"more than the probe, {sender.body.probe_mm:g} mm",
            f"The probe is {sender.body.probe_mm:g} mm thick: it does not go into {bore:g} mm.",
        )
    return replace(job, ports=replaced(job.ports, port))


def solve_way_in(
    job: Job, channel_id: str, pin: str, fittings: Sequence[Fitting], stock: Collection[str]
) -> Job:
    """The job with the best chain of fittings of the library at a place. Raises BadInput where there is none."""
    channel = channel_called(job, channel_id)
    job, port = _stored(job, channel, candidate_port(job, channel, pin))
    place = place_of(channel.measurand, port)
    stack = solve_stack(
        mouth_of(port),
        sender_end(_sender(job, channel)),
        fittings,
        stock,
        place.keeps if place else (),
    )
    if not stack.found:
        last = stack.findings[-1]
        raise BadInput("stack", port.thread, last.figure, f"{last.reason} {last.remedy}")
    return replace(job, ports=replaced(job.ports, replace(port, stack=stack.chain)))


def change_stack(job: Job, channel_id: str, pin: str, do: str, name: str, fittings: Sequence[Fitting]) -> Job:
    """The job with a fitting put on top of a chain ('add'), taken off ('off'), or the chain emptied ('clear')."""
    channel = channel_called(job, channel_id)
    job, port = _stored(job, channel, candidate_port(job, channel, pin))
    if do == "clear":
        chain: tuple[Fitting, ...] = ()
    elif do == "off":
        chain = port.stack[:-1]
    else:
        fitting = next((f for f in fitting_options(port, fittings) if f.name == name), None)
        if fitting is None:
            raise BadInput(
                "name",
                name,
                "a fitting that goes on the open end",
                "That fitting does not go on the open end.",
            )
        chain = (*port.stack, fitting)
    return replace(job, ports=replaced(job.ports, replace(port, stack=chain)))


def fitting_options(port: Port, library: Sequence[Fitting]) -> tuple[Fitting, ...]:
    """The fittings that go on the open end of a chain; none where the chain itself does not go together."""
    try:
        open_end = open_end_of(mouth_of(port), port.stack)
    except BadInput:
        return ()
    return tuple(fitting for fitting in library if goes_on(open_end, fitting))


def start_paths(job: Job) -> Job:
    """The job with the flow paths of its vehicle's layout; paths it has already stay."""
    have = {path.id for path in job.paths}
    kinds = {path.kind for path in job.paths}
    fresh = tuple(path for path in paths_for(job.vehicle) if path.id not in have and path.kind not in kinds)
    return _placed(replace(job, paths=(*job.paths, *fresh)))


def _placed(job: Job) -> Job:
    """The job with its ports set on the paths where their usual places stand; those that have a position keep it."""
    ports = []
    for port in job.ports:
        channel = next((c for c in job.chains if c.port == port.id or c.channel == port.channel), None)
        place = place_of(channel.measurand, port) if channel else None
        at = next(((path.id, d) for path, d in (spots_of(place, job.paths) if place else ())), None)
        ports.append(_at(port, *at) if at and port.spot.path is None else port)
    return replace(job, ports=tuple(ports))


def measure_path(job: Job, path_id: str, length_m: float) -> Job:
    """The job with a path's measured length; parts, stretches and pins keep their share of it."""
    path = _path(job, path_id)
    scale = length_m / path.length_m if path.length_m else 1.0
    ports = tuple(
        _at(port, path_id, round(min(port.spot.at_m * scale, length_m), 4))
        if port.spot.path == path.id and port.spot.at_m is not None
        else port
        for port in job.ports
    )
    return replace(
        job, paths=with_path(job.paths, replace(moved_parts(path, length_m), measured=True)), ports=ports
    )


def set_path(job: Job, path: FlowPath) -> Job:
    """The job with a path in place of its namesake, or one more. Raises BadInput for a loop or pins left beyond its end."""
    known = any(p.id == path.id for p in job.paths)
    paths = with_path(job.paths, path) if known else with_path((*job.paths, path), path)
    return replace(job, paths=paths)


def add_path(job: Job, name: str, kind: PathKind, length_m: float | None) -> Job:
    """The job with one more path, without parts yet."""
    key = free_id(name.lower(), (path.id for path in job.paths))
    return set_path(job, FlowPath(key, name, kind, length_m))


def remove_path(job: Job, key: str) -> Job:
    """The job without a path; its pins stay without a position, what led into it ends open."""
    _path(job, key)
    return without(job, "paths", key)


def record_fluid(job: Job, fluid: str, lost_l: float | None, returned_l: float | None, kind: str) -> Job:
    """The job with what really went out and came back; nothing said is nothing kept."""
    if all(plan.key != fluid for plan in fluids_of(job)):
        raise BadInput("lost", fluid, "a fluid of this job", "This job does not let that fluid out.")
    if lost_l is None and returned_l is None and not kind:
        return replace(job, fluids=tuple(record for record in job.fluids if record.id != fluid))
    return replace(job, fluids=replaced(job.fluids, FluidRecord(fluid, lost_l, returned_l, kind)))


def choose_practice(job: Job, topic: str, practice: str) -> Job:
    """The job with a practice chosen. Raises BadInput."""
    topic_called(topic).practice(practice)
    rest = tuple(choice for choice in job.brief.practices if choice.topic != topic)
    return replace(job, brief=replace(job.brief, practices=(*rest, Choice(topic, practice))))


def set_weights(job: Job, weights: Mapping[str, float]) -> Job:
    """The job with criteria weighed anew. Raises BadInput for an unknown criterion or nothing that counts."""
    for name in weights:
        if name not in CRITERIA:
            raise BadInput("criterion", name, " | ".join(CRITERIA))
    after = weights_of(job) | dict(weights)
    if not any(after.values()):
        raise BadInput(
            "weights", 0, "one criterion above 0", "Something must count: raise one of them above 0."
        )
    kept = tuple(Weight(name, counts) for name, counts in after.items() if counts != WEIGHTS[name])
    return replace(job, brief=replace(job.brief, weights=kept))


def offered_senders(job: Job, channel: MeasuringChain, own: Mapping[str, Sender]) -> tuple[str, ...]:
    """Names of the senders that measure what a channel shows: the workshop's own, what a box of the job tells besides, then the generic ones."""
    there = {sender.name for sender in job.senders}
    return (
        *(name for name, sender in own.items() if _measures(sender, channel)),
        *_of_boxes(job, channel),
        *(
            name
            for name in facts_for(channel.measurand, job.vehicle).senders
            if not body_of(name) or body_of(name) in there
        ),
    )


def _of_boxes(job: Job, channel: MeasuringChain) -> dict[str, tuple[str, str]]:
    """Second readings of the job's boxes by their name in the list: the box and its output."""
    own = {chain.box for chain in job.chains if chain.channel != channel.channel}
    return {
        f"{box.name}: {output.name or output.id}": (box.id, output.id)
        for box, output in free_outputs(job, channel)
        if box.id in own
    }


def _measures(sender: Sender, channel: MeasuringChain) -> bool:
    try:
        in_unit(0.0, sender.curve.y_unit, channel.unit)
    except BadInput:
        return False
    return True


def choose_sender(job: Job, channel_id: str, kit: str, own: Mapping[str, Sender] | None = None) -> Job:
    """The job with a sender of the library for a channel, with its box where it speaks through one. Wires to terminals the new one lacks go with the old one."""
    channel = channel_called(job, channel_id)
    offered = offered_senders(job, channel, own or {})
    if kit not in offered:
        raise BadInput("sender", kit, " | ".join(offered))
    if kit in (second := _of_boxes(job, channel)):
        return read_output(job, channel_id, *second[kit])
    box = "" if kit in (own or {}) else sender_and_box(kit)[1]
    known = job.display(channel.box)
    keeps = bool(box) and known is not None and box_kit(box, known.id).outputs == known.outputs
    if not keeps:
        job = take_between(job, channel_id)
        channel = channel_called(job, channel_id)
    key = channel.sender or free_id(f"{channel.id} sender", (sender.id for sender in job.senders))
    sender = replace(own[kit], id=key) if own and kit in own else sender_kit(kit, key)
    host = next((one for one in job.senders if one.name == body_of(kit)), None) if body_of(kit) else None
    if host is not None:
        sender = replace(sender, in_body=host.id)
        where = next((one.port for one in job.chains if one.sender == host.id), None)
        channel = replace(channel, port=where)
    job = replace(job, senders=replaced(job.senders, sender)).with_chain(replace(channel, sender=key))
    if box and not keeps:
        job = put_between(job, channel_id, box_kit(box, "box"))
    job = _drop_dead_wires(job, sender)
    job = _without_run(job, channel) if sender.rides else _fit_run(job, channel, sender)
    return refitted(assigned(job, channel.id), channel.id)


def chosen_choice(job: Job, channel: MeasuringChain, own: Mapping[str, Sender]) -> str:
    """Which of the senders offered is the one chosen, '' where none is."""
    sender, box = job.sender(channel.sender), job.display(channel.box)
    for choice in offered_senders(job, channel, own):
        if sender is None:
            if box is not None and choice == f"{box.name}: {_output_name(box, channel)}":
                return choice
            continue
        name, kit = (choice, "") if choice in own else sender_and_box(choice)
        known = own[choice].name if choice in own else name
        alike = box is None if not kit else box is not None and box_kit(kit, box.id).outputs == box.outputs
        if known == sender.name and alike:
            return choice
    return ""


def _output_name(box: Display, channel: MeasuringChain) -> str:
    output = box.output_called(channel.output)
    return (output.name or output.id) if output else ""


def _without_run(job: Job, channel: MeasuringChain) -> Job:
    """What rides on another's pulses has no lead of its own: its run goes, unless wires or openings lie on it."""
    in_use = {w.run for w in job.conductors} | {run for opening in job.openings for run in opening.runs}
    runs = tuple(run for run in job.runs if run.id != channel.run or run.id in in_use)
    now = channel_called(job, channel.id)
    return replace(job.with_chain(replace(now, run=None)), runs=runs)


def _drop_dead_wires(job: Job, sender: Sender) -> Job:
    kept = tuple(
        wire
        for wire in job.conductors
        if not any(
            end.kind == "sender" and end.id == sender.id and end.terminal not in sender.terminals
            for end in (wire.a, wire.b)
        )
    )
    return replace(job, conductors=kept)


def _fit_run(job: Job, channel: MeasuringChain, sender: Sender) -> Job:
    run = job.run(channel.run)
    if run is None:  # what it read before had no lead of its own
        run = Run(
            free_id(f"{channel.id} run", (r.id for r in job.runs)), f"{channel.name} sender to its gauge"
        )
        job = replace(job, runs=(*job.runs, run))
        job = job.with_chain(replace(channel_called(job, channel.id), run=run.id))
    if sender.lead_m is None:
        return job
    return replace(job, runs=replaced(job.runs, replace(run, supplied_m=sender.lead_m)))


def _sender(job: Job, channel: MeasuringChain) -> Sender:
    sender = job.sender(channel.sender)
    if sender is None:
        raise BadInput("sender", None, "a sender", "Choose a sender first.")
    return sender


def _path(job: Job, key: str) -> FlowPath:
    path = job.path(key)
    if path is None:
        raise BadInput("path", key, ", ".join(p.id for p in job.paths) or "none: start the paths first")
    return path
