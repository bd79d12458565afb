"""The job file: JSON with a schema version, read with errors that name the place, written without loss."""

from __future__ import annotations

import json
from collections.abc import Iterable
from difflib import get_close_matches
from pathlib import Path
from typing import Any

from metrolex.errors import BadInput
from metrolex.intake import dump, parse_json, read
from metrolex.job import PARTS, End, Job
from metrolex.job.place import check_paths
from metrolex.quantities import in_unit

__all__ = [
    "EXAMPLES",
    "SCHEMA_VERSION",
    "check_references",
    "example_job_data",
    "job_from_data",
    "job_from_text",
    "job_to_data",
    "job_to_text",
]

SCHEMA_VERSION = 2


def job_from_text(text: str) -> Job:
    """Read a job file. Raises BadInput naming the place of the first thing that cannot be meant."""
    return job_from_data(parse_json(text))


def job_from_data(data: object, path: str = "") -> Job:
    """Build a job from plain JSON data, its references checked. Raises BadInput."""
    if not isinstance(data, dict):
        raise BadInput(path or "input", data, "a job as a JSON object")
    field = f"{path}.schema_version" if path else "schema_version"
    version = data.get("schema_version")
    if version is None:
        raise BadInput(
            field, None, f"{SCHEMA_VERSION}", "The key 'schema_version' is missing: is this a job file?"
        )
    if isinstance(version, bool) or not isinstance(version, int):
        raise BadInput(field, version, f"{SCHEMA_VERSION}")
    if version > SCHEMA_VERSION:
        raise BadInput(
            field,
            version,
            f"{SCHEMA_VERSION}",
            f"The file was written by a newer Metrolex (schema version {version}; this one reads {SCHEMA_VERSION}).",
        )
    if version < 1:
        raise BadInput(field, version, f"{SCHEMA_VERSION}")
    if version == 1:
        data = with_panels(data)
    job = read(Job, {key: value for key, value in data.items() if key != "schema_version"}, path)
    try:
        check_references(job)
    except BadInput as fault:
        raise fault.within(path) from None
    return job


def with_panels(data: dict[str, Any]) -> dict[str, Any]:
    """Data of schema version 1, where a circuit told its panel in words, with those words as panels."""
    circuits = data.get("circuits")
    if "panels" in data or not isinstance(circuits, list):
        return data
    moved, panels = [], {}
    for circuit in circuits:
        if not isinstance(circuit, dict) or not isinstance(circuit.get("panel"), str):
            moved.append(circuit)
            continue
        words = circuit["panel"].strip()
        rest = {name: value for name, value in circuit.items() if name != "panel"}
        if words:
            panels[words[:60]] = {"id": words[:60], "name": words}
            rest["panel"] = words[:60]
        moved.append(rest)
    return {**data, "circuits": moved} | ({"panels": list(panels.values())} if panels else {})


#: The jobs that ship as examples, all invented, the fullest first.
EXAMPLES = ("van", "single_seater", "sidecar", "fire_tender")


def example_job_data(name: str = "van") -> dict[str, Any]:
    """A job shipped as an example, as plain data. Raises BadInput for an unknown name."""
    if name not in EXAMPLES:
        raise BadInput("name", name, " | ".join(EXAMPLES))
    return parse_json(
        (Path(__file__).parent / "data" / "examples" / f"{name}.json").read_text(encoding="utf-8")
    )


def job_to_data(job: Job) -> dict[str, Any]:
    """The job as plain JSON data; values at their default are left out."""
    return {"schema_version": SCHEMA_VERSION, **dump(job)}


def job_to_text(job: Job) -> str:
    """The job file's text."""
    return json.dumps(job_to_data(job), indent=1, ensure_ascii=False, allow_nan=False) + "\n"


def check_references(job: Job) -> None:
    """Raises BadInput for an id given twice or a reference to a part that is not there."""
    ids = {name: _unique(name, [part.id for part in getattr(job, name)]) for name in PARTS}
    for i, channel in enumerate(job.channels):
        at = f"channels[{i}]"
        for field, among in (
            ("display", "displays"),
            ("sender", "senders"),
            ("port", "ports"),
            ("run", "runs"),
        ):
            _require(f"{at}.{field}", getattr(channel, field), ids[among])
        if channel.input is not None:
            display = job.display(channel.display)
            _require(f"{at}.input", channel.input, [stage.id for stage in display.inputs] if display else [])
        sender = job.sender(channel.sender)
        if sender is not None:
            try:
                in_unit(0.0, sender.curve.y_unit, channel.unit)
            except BadInput as fault:
                raise BadInput(f"{at}.unit", channel.unit, fault.allowed) from None
    _require_ports(job, ids)
    for i, display in enumerate(job.displays):
        at = f"displays[{i}]"
        pins = _unique(f"{at}.pins", [pin.id for pin in display.pins])
        _unique(f"{at}.inputs", [stage.id for stage in display.inputs])
        for j, stage in enumerate(display.inputs):
            _require(f"{at}.inputs[{j}].pin", stage.pin, pins)
    _require_harness(job, ids)
    for i, setting in enumerate(job.settings):
        _require(f"settings[{i}].display", setting.display, ids["displays"])


#: List of the job, field of its parts, list that field points into.
_PLAIN_REFERENCES = (
    ("taps", "circuit", "circuits"), ("circuits", "panel", "panels"), ("circuits", "zone", "zones"), ("panels", "zone", "zones"),
    ("grounds", "zone", "zones"), ("ways", "a", "zones"), ("ways", "b", "zones"), ("ways", "opening", "openings"), ("runs", "start", "zones"),
    ("runs", "finish", "zones"), ("runs", "plug", "zones"), ("connectors", "display", "displays"), ("conductors", "run", "runs"),
)  # fmt: skip


def _require_harness(job: Job, ids: dict[str, list[str]]) -> None:
    for kind, field, among in _PLAIN_REFERENCES:
        for i, part in enumerate(getattr(job, kind)):
            _require(f"{kind}[{i}].{field}", getattr(part, field), ids[among])
    for i, way in enumerate(job.ways):
        if way.a == way.b:
            raise BadInput(f"ways[{i}].b", way.b, "another zone than the first")
    for i, run in enumerate(job.runs):
        for j, zone in enumerate(run.via):
            _require(f"runs[{i}].via[{j}]", zone, ids["zones"])
    for i, opening in enumerate(job.openings):
        for j, passing in enumerate(opening.runs):
            _require(f"openings[{i}].runs[{j}]", passing, ids["runs"])
    for i, wire in enumerate(job.conductors):
        _require_end(job, f"conductors[{i}].a", wire.a, ids)
        _require_end(job, f"conductors[{i}].b", wire.b, ids)
        if wire.a == wire.b:
            raise BadInput(f"conductors[{i}].b", wire.b.id, "another place than the first end")


def _require_ports(job: Job, ids: dict[str, list[str]]) -> None:
    check_paths(job.paths)
    for i, port in enumerate(job.ports):
        _require(f"ports[{i}].channel", port.channel, ids["channels"])
        _require(f"ports[{i}].path", port.path, ids["paths"])
        path = job.path(port.path)
        if path is None or path.length_m is None or port.at_m is None or port.at_m <= path.length_m:
            continue
        raise BadInput(
            f"ports[{i}].at_m",
            port.at_m,
            f"0 to {path.length_m:g} m",
            f"{port.at_m:g} m is beyond the end of {path.name}, {path.length_m:g} m.",
        )


def _require_end(job: Job, at: str, end: End, ids: dict[str, list[str]]) -> None:
    if end.kind == "battery":
        _require(f"{at}.id", end.id, ["positive", "negative"])
        return
    _require(f"{at}.id", end.id, ids["connectors" if end.kind == "plug" else f"{end.kind}s"])
    if end.kind == "display":
        display = job.display(end.id)
        _require(f"{at}.terminal", end.terminal, [pin.id for pin in display.pins] if display else [])
    elif end.kind == "plug":
        connector = job.connector(end.id)
        _require(f"{at}.terminal", end.terminal, [c.pin for c in connector.cavities] if connector else [])
    elif end.kind == "sender":
        sender = job.sender(end.id)
        _require(f"{at}.terminal", end.terminal, sender.terminals if sender else [])


def _unique(field: str, ids: list[str]) -> list[str]:
    for i, key in enumerate(ids):
        if key in ids[:i]:
            raise BadInput(
                f"{field}[{i}].id", key, "each id once", f"The id '{key}' is used twice in {field}."
            )
    return ids


def _require(field: str, key: str | None, among: Iterable[str]) -> None:
    known = list(among)
    if key is None or key in known:
        return
    near = get_close_matches(key, known, 1)
    hint = f" Did you mean '{near[0]}'?" if near else ""
    allowed = ", ".join(known[:12]) or "nothing: there are none yet"
    raise BadInput(field, key, allowed, f"There is no part '{key:.60}' here.{hint}")
