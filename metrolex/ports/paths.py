"""Flow paths: templates of common layouts, what lies upstream, where two banks meet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any, get_args

from metrolex.fuel.systems import system_of
from metrolex.intake import read
from metrolex.job.place import FlowPath, PathKind, check_paths, downstream
from metrolex.job.vehicle import Vehicle
from metrolex.tables import load_table

__all__ = [
    "PATH_NAMES",
    "LinePart",
    "beside_words",
    "layout_of",
    "line_of",
    "moved_parts",
    "paths_for",
    "upstream",
    "with_path",
]

LAST_CARBURETTOR_YEAR = 1975  # before it a petrol engine nobody spoke of has one (common practice, no source)

#: Kinds of path in the order they are drawn.
PATH_NAMES = {
    "exhaust": "exhaust",
    "intake": "intake",
    "coolant": "coolant",
    "engine_oil": "engine oil",
    "gearbox_oil": "gearbox oil",
    "fuel": "fuel",
    "water": "pump water",
}


def layout_of(vehicle: Vehicle) -> dict[str, str]:
    """What templates ask of a vehicle, with the usual answer where it does not say."""
    two = vehicle.engine.layout in ("vee", "flat")
    return {
        "banks": "two" if two else "one",
        "induction": "turbo" if vehicle.engine.induction == "turbo" else "none",
        "cooling": vehicle.engine.cooling or "water",
        "gearbox": vehicle.driveline.gearbox or "manual",
        "fuel_feed": _fuel_line(vehicle),
        "pump": "water" if "water pump" in vehicle.has else "",
    }


def _fuel_line(vehicle: Vehicle) -> str:
    """Which template of the fuel path fits: by a carburettor, by injection, or with a high-pressure pump on the way."""
    if vehicle.fuel.burns == "electric":
        return "none"
    system = system_of(vehicle.fuel.fuel_feed)
    if system is not None:
        return (
            "high_pressure"
            if system.high_bar
            else ("carburettor" if system.key == "carburettor" else "injection")
        )
    if vehicle.fuel.burns == "diesel":
        return "high_pressure"
    return (
        "carburettor"
        if not vehicle.fuel.fuel_feed
        and vehicle.identity.year
        and vehicle.identity.year < LAST_CARBURETTOR_YEAR
        else "injection"
    )


@lru_cache(maxsize=64)  # most versions of a job are of the same vehicle, and every place asks
def paths_for(vehicle: Vehicle) -> tuple[FlowPath, ...]:
    """The paths of a vehicle of this layout, to be measured: ``measured`` is False on each."""
    layout = layout_of(vehicle)
    found = []
    for kind in get_args(PathKind):
        for row in load_table("flowpaths").get(kind, ()):
            if all(layout.get(key) == value for key, value in row["when"].items()):
                found.append(_read(kind, row))
    if vehicle.fuel.burns == "electric":
        found = [path for path in found if path.kind == "coolant"]
    return tuple(found)


def _read(kind: str, row: dict[str, Any]) -> FlowPath:
    plain = {key: value for key, value in row.items() if key != "when"}
    return read(
        FlowPath,
        {
            "id": row["name"].lower(),
            "kind": kind,
            **plain,
            **({"into": row["into"].lower()} if "into" in row else {}),
        },
    )


def upstream(paths: Sequence[FlowPath], path: FlowPath) -> list[FlowPath]:
    """The longest line of paths that lead into a path, nearest first."""
    before = [p for p in paths if p.into == path.id and p.id != path.id]
    if not before:
        return []
    longest = max(before, key=lambda p: p.length_m or 0.0)
    return [longest, *upstream([p for p in paths if p.id != path.id], longest)]


@dataclass(frozen=True, slots=True)
class LinePart:
    """A part of a line of paths that flow into one another, in metres of the path looked at: negative upstream of it."""

    kind: str
    at_m: float
    end_m: float


def line_of(path: FlowPath, paths: Sequence[FlowPath]) -> tuple[LinePart, ...]:
    """What lies along a path, before it and behind it, in the order of the flow. Paths of unknown length end the line."""
    found = [LinePart(part.kind, part.at_m, part.end_m) for part in path.parts]
    offset: float | None = 0.0
    for before in upstream(paths, path):
        if before.length_m is None or offset is None:
            break
        offset -= before.length_m
        found += [LinePart(part.kind, offset + part.at_m, offset + part.end_m) for part in before.parts]
    offset = path.length_m
    for behind in downstream(paths, path) if any(p.id == path.into for p in paths) else ():
        if offset is None:
            break
        found += [LinePart(part.kind, offset + part.at_m, offset + part.end_m) for part in behind.parts]
        offset = offset + behind.length_m if behind.length_m is not None else None
    return tuple(sorted(found, key=lambda part: part.at_m))


def beside_words(path: FlowPath, paths: Sequence[FlowPath]) -> str:
    """What leads into a path and where it flows on, in words; '' for one that stands by itself."""
    before = [p.name for p in paths if p.into == path.id]
    behind = next((p for p in paths if p.id == path.into), None)
    words = [f"fed by {' and '.join(before)}"] if before else []
    if behind is not None:
        parts = [
            p for p in behind.parts if p.kind in ("turbine", "compressor", "catalyst", "cooler", "throttle")
        ]
        first = (
            f", {parts[0].name or parts[0].kind} {1000 * parts[0].at_m:.0f} mm on"
            if parts and behind.length_m
            else ""
        )
        words.append(f"goes on in {behind.name}{first}")
    return "; ".join(words)


def with_path(paths: Sequence[FlowPath], path: FlowPath) -> tuple[FlowPath, ...]:
    """The paths with one in place of its namesake, checked. Raises BadInput."""
    after = tuple(path if p.id == path.id else p for p in paths)
    check_paths(after)
    return after


def moved_parts(path: FlowPath, length_m: float) -> FlowPath:
    """The path stretched to a measured length: parts and stretches keep their share of it."""
    if path.length_m is None:
        return replace(path, length_m=length_m)
    scale = length_m / path.length_m
    return replace(
        path,
        length_m=length_m,
        parts=tuple(
            replace(p, at_m=round(min(p.at_m * scale, length_m), 4), length_m=round(p.length_m * scale, 4))
            for p in path.parts
        ),
        stretches=tuple(
            replace(s, from_m=round(s.from_m * scale, 4), to_m=round(min(s.to_m * scale, length_m), 4))
            for s in path.stretches
        ),
    )
