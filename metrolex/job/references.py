"""What in a job points to what: checked when a job is read, followed when a part is taken out.

One table says it: a list of the job, a field of its parts, the list that field points into, and what becomes of a part whose
reference is taken away: it stays without it, or it goes too.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from difflib import get_close_matches
from operator import attrgetter
from typing import Any

from metrolex.errors import BadInput
from metrolex.job.place import check_paths
from metrolex.job.whole import PARTS, Job
from metrolex.job.wiring import End
from metrolex.job.within import replaced_within
from metrolex.quantities import in_unit

__all__ = ["LIST_OF_END", "REFERENCES", "Reference", "check_references", "without"]


@dataclass(frozen=True, slots=True)
class Reference:
    """``field`` of the parts in ``kind`` names a part (or several) in ``among``; ``goes``: the part is nothing without it.

    ``inner`` are fields that name something inside the part named, and are empty without it.
    """

    kind: str
    field: str
    among: str
    goes: bool = False
    inner: tuple[str, ...] = ()


REFERENCES = (
    Reference("channels", "source", "sources"),
    Reference("sources", "sender", "senders"),
    Reference("senders", "in_body", "senders"),
    Reference("sources", "port", "ports"),
    Reference("sources", "run", "runs"),
    Reference("sources", "through.box", "displays", inner=("box_input", "output")),
    Reference("sources", "joint.plug", "connectors", inner=("pin",)),
    Reference("readouts", "channel", "channels", goes=True),
    Reference("readouts", "display", "displays", inner=("input",)),
    Reference("ports", "channel", "channels", goes=True),
    Reference("ports", "spot.path", "paths", inner=("at_m",)),
    Reference("paths", "into", "paths"),
    Reference("settings", "display", "displays", goes=True),
    Reference("taps", "circuit", "circuits"),
    Reference("circuits", "slot.panel", "panels"),
    Reference("circuits", "where.zone", "zones"),
    Reference("panels", "zone", "zones"),
    Reference("grounds", "zone", "zones"),
    Reference("ways", "a", "zones", goes=True),
    Reference("ways", "b", "zones", goes=True),
    Reference("ways", "opening", "openings"),
    Reference("runs", "start", "zones"),
    Reference("runs", "finish", "zones"),
    Reference("runs", "plug", "zones"),
    Reference("runs", "via", "zones"),
    Reference("openings", "runs", "runs"),
    Reference("connectors", "display", "displays"),
    Reference("conductors", "run", "runs"),
    Reference("switches", "channels", "channels"),
    Reference("fixtures", "site", "sites", goes=True),
    Reference("mountings", "site", "sites", goes=True),
    Reference("mountings", "display", "displays", goes=True),
    Reference("pages", "display", "displays", goes=True),
    Reference("faces", "page", "pages", goes=True),
    Reference("faces", "channel", "channels", goes=True),
)

#: The list a wire's end points into, by the end's kind; the battery is always there.
LIST_OF_END = {
    "tap": "taps",
    "display": "displays",
    "sender": "senders",
    "ground": "grounds",
    "splice": "splices",
    "port": "ports",
    "plug": "connectors",
    "switch": "switches",
}


def check_references(job: Job) -> None:
    """Raises BadInput for an id given twice or a reference to a part that is not there."""
    ids = {name: _unique(name, [part.id for part in getattr(job, name)]) for name in PARTS}
    check_paths(job.paths)
    _check_pairs(job)
    for reference in REFERENCES:
        for i, part in enumerate(getattr(job, reference.kind)):
            at = f"{reference.kind}[{i}].{reference.field}"
            value = attrgetter(reference.field)(part)
            for j, key in enumerate(value if isinstance(value, tuple) else ()):
                _require(f"{at}[{j}]", key, ids[reference.among])
            if not isinstance(value, tuple):
                _require(at, value, ids[reference.among])
    _check_channels(job)
    _check_displays(job)
    for i, sender in enumerate(job.senders):
        _unique(f"senders[{i}].readers", [reader.id for reader in sender.readers])
    _check_ports(job)
    for i, way in enumerate(job.ways):
        if way.a == way.b:
            raise BadInput(f"ways[{i}].b", way.b, "another zone than the first")
    for i, wire in enumerate(job.conductors):
        _require_end(job, f"conductors[{i}].a", wire.a, ids)
        _require_end(job, f"conductors[{i}].b", wire.b, ids)
        if wire.a == wire.b:
            raise BadInput(f"conductors[{i}].b", wire.b.id, "another place than the first end")


def without(job: Job, kind: str, *keys: str) -> Job:
    """The job without some parts of a list, and without what is nothing without them: wires that end there, parts that go too.

    Whatever else named them stands as it was, without the name. The job itself where none of the keys is there.
    """
    parts = getattr(job, kind)
    kept = tuple(part for part in parts if part.id not in keys)
    if len(kept) == len(parts):
        return job
    job = _with_list(job, kind, kept)
    for reference in REFERENCES:
        if reference.among == kind:
            job = _let_go(job, reference, keys)
    wires = [
        wire.id
        for wire in job.conductors
        if any(LIST_OF_END.get(end.kind) == kind and end.id in keys for end in (wire.a, wire.b))
    ]
    return without(job, "conductors", *wires)


def _let_go(job: Job, reference: Reference, keys: tuple[str, ...]) -> Job:
    parts = getattr(job, reference.kind)
    held = [part for part in parts if _names(part, reference.field, keys)]
    if not held:
        return job
    if not reference.goes:
        return _with_list(job, reference.kind, tuple(_freed(p, reference, keys) for p in parts))
    if reference.kind == "settings":  # they have no ids of their own
        return replace(job, settings=tuple(part for part in parts if part not in held))
    return without(job, reference.kind, *(part.id for part in held))


def _with_list(job: Job, kind: str, parts: tuple[Any, ...]) -> Job:
    change: dict[str, Any] = {kind: parts}
    return replace(job, **change)


def _names(part: Any, field: str, keys: tuple[str, ...]) -> bool:
    value = attrgetter(field)(part)
    return any(key in value for key in keys) if isinstance(value, tuple) else value in keys


def _freed(part: Any, reference: Reference, keys: tuple[str, ...]) -> Any:
    if not _names(part, reference.field, keys):
        return part
    value = attrgetter(reference.field)(part)
    left = tuple(key for key in value if key not in keys) if isinstance(value, tuple) else None
    name = reference.field.rpartition(".")[2]
    return replaced_within(part, {name: left} | dict.fromkeys(reference.inner))


def _check_channels(job: Job) -> None:
    for i, readout in enumerate(job.readouts):
        if readout.input is not None:
            display = job.display(readout.display)
            stages = [stage.id for stage in display.inputs] if display else []
            _require(f"readouts[{i}].input", readout.input, stages)
    for i, source in enumerate(job.sources):
        box, through = job.display(source.through.box), source.through
        plug = job.connector(source.joint.plug)
        _require(f"sources[{i}].joint.pin", source.joint.pin, [c.pin for c in plug.cavities] if plug else [])
        _require(
            f"sources[{i}].through.box_input", through.box_input, [s.id for s in box.inputs] if box else []
        )
        _require(f"sources[{i}].through.output", through.output, [o.id for o in box.outputs] if box else [])
    places = {channel.id: i for i, channel in enumerate(job.channels)}
    for chain in job.measured:
        sender = job.heard(chain)
        if sender is not None:
            try:
                in_unit(0.0, sender.curve.y_unit, chain.unit)
            except BadInput as fault:
                raise BadInput(f"channels[{places[chain.channel]}].unit", chain.unit, fault.allowed) from None


def _check_displays(job: Job) -> None:
    for i, display in enumerate(job.displays):
        at = f"displays[{i}]"
        pins = _unique(f"{at}.pins", [pin.id for pin in display.pins])
        _unique(f"{at}.inputs", [stage.id for stage in display.inputs])
        _unique(f"{at}.outputs", [output.id for output in display.outputs])
        for j, stage in enumerate(display.inputs):
            _require(f"{at}.inputs[{j}].pin", stage.pin, pins)
        for j, output in enumerate(display.outputs):
            _require(f"{at}.outputs[{j}].pin", output.pin, pins)
        for j, pin in enumerate(display.pins):
            _require(f"{at}.pins[{j}].passes", pin.passes or None, pins)


def _check_ports(job: Job) -> None:
    for i, port in enumerate(job.ports):
        path = job.path(port.spot.path)
        if path is None or path.length_m is None or port.spot.at_m is None or port.spot.at_m <= path.length_m:
            continue
        raise BadInput(
            f"ports[{i}].spot.at_m",
            port.spot.at_m,
            f"0 to {path.length_m:g} m",
            f"{port.spot.at_m:g} m is beyond the end of {path.name}, {path.length_m:g} m.",
        )


def _require_end(job: Job, at: str, end: End, ids: dict[str, list[str]]) -> None:
    if end.kind == "battery":
        _require(f"{at}.id", end.id, ["positive", "negative"])
        return
    _require(f"{at}.id", end.id, ids[LIST_OF_END[end.kind]])
    if end.kind == "display":
        display = job.display(end.id)
        _require(f"{at}.terminal", end.terminal, [pin.id for pin in display.pins] if display else [])
    elif end.kind == "plug":
        connector = job.connector(end.id)
        _require(f"{at}.terminal", end.terminal, [c.pin for c in connector.cavities] if connector else [])
    elif end.kind == "switch":
        switch = job.switch(end.id)
        _require(f"{at}.terminal", end.terminal, switch.terminals if switch else [])
    elif end.kind == "sender":
        sender = job.sender(end.id)
        _require(f"{at}.terminal", end.terminal, sender.terminals if sender else [])


def _unique(field: str, ids: list[str]) -> list[str]:
    seen: set[str] = set()
    for i, key in enumerate(ids):
        if key in seen:
            raise BadInput(
                f"{field}[{i}].id", key, "each id once", f"The id '{key}' is used twice in {field}."
            )
        seen.add(key)
    return ids


def _check_pairs(job: Job) -> None:
    """What has no id of its own is known by two words together: they stand once."""
    for kind, pairs, words in (
        ("settings", [(s.display, s.name) for s in job.settings], "the entry '{1}' of {0}"),
        ("waivers", [(w.code, w.subject) for w in job.waivers], "'{0}' of {1}"),
    ):
        seen: set[tuple[str, str]] = set()
        for i, pair in enumerate(pairs):
            if pair in seen:
                what = words.format(*pair)
                raise BadInput(
                    f"{kind}[{i}]", pair[1], "each once", f"In {kind} {what} stands twice: which holds?"
                )
            seen.add(pair)


def _require(field: str, key: str | None, among: Iterable[str]) -> None:
    known = list(among)
    if key is None or key in known:
        return
    near = get_close_matches(key, known, 1)
    hint = f" Did you mean '{near[0]}'?" if near else ""
    allowed = ", ".join(known[:12]) or "nothing: there are none yet"
    raise BadInput(field, key, allowed, f"There is no part '{key:.60}' here.{hint}")
