"""The usual places for a sender, by what it measures: data of ``data/ports.toml`` (common practice, no source)."""

from __future__ import annotations

import functools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, cast

from metrolex.errors import BadInput
from metrolex.job import Job, Port, PortGround, Spot
from metrolex.job.place import Entry, FlowPath, downstream
from metrolex.ports.paths import line_of, paths_for
from metrolex.tables import load_table

__all__ = ["Place", "place_of", "places_for", "port_at", "spots_of", "usual_spots"]


@dataclass(frozen=True, slots=True)
class Place:
    """A usual place: where on which path, how it is opened, its marks of 0 to 4, what speaks for and against it.

    ``anchors`` are parts it is found by, the first there; '!part' bars paths that have it. ``thread`` is the open mouth a stack of fittings starts from. ``bias`` is in the measurand's usual unit. ``keeps``
    are sorts of fitting, one of each set, without which flow or factory switch would end there.
    """

    kind: str
    name: str
    thread: str
    way_in: str
    path: str
    anchors: tuple[str, ...]
    side: Literal["at", "after", "before", "end"]
    by_m: float
    entry: Entry
    grounded: bool
    ground_at: Literal["engine", "body"]
    bias: float
    bias_words: str
    marks: dict[str, int]
    card: str
    fluid: str
    loss_l: float
    minutes: float
    pro: str
    con: str
    caution: str
    keeps: tuple[frozenset[str], ...] = ()


@functools.cache
def places_for(measurand: str) -> tuple[Place, ...]:
    """The usual places for a measurand; empty where it needs none."""
    return tuple(
        Place(
            row["kind"],
            row["name"],
            row["thread"],
            row["way_in"],
            row.get("path", ""),
            tuple(filter(None, row.get("anchor", "").split("|"))),
            row["side"],
            row.get("by_m", 0.0),
            cast(Entry, row["entry"]),
            row["grounded"],
            row["ground_at"],
            row.get("bias", 0.0),
            row.get("bias_words", ""),
            dict(row["marks"]),
            row["card"],
            row.get("fluid", ""),
            row.get("loss_l", 0.0),
            row["minutes"],
            row["for"],
            row["against"],
            row["caution"],
            tuple(frozenset(sorts) for sorts in row.get("keeps", ())),
        )
        for row in load_table("ports").get(measurand, ())
    )


def place_of(measurand: str, port: Port) -> Place | None:
    """The usual place a port was made from, None for one of the fitter's own."""
    return next((place for place in places_for(measurand) if place.kind == port.kind), None)


def spots_of(place: Place, paths: Sequence[FlowPath]) -> list[tuple[FlowPath, float]]:
    """Where a usual place stands on these paths: (path, metres along it), on each bank that has it; empty where none has it.

    The first of its anchors that any path has counts, wherever in the line it lies: a bank before the common turbine is
    not a pipe without one. A spot beyond the end of a path lies in the one it flows into.
    """
    fitting = [path for path in paths if path.kind == place.path and path.length_m is not None]
    barred = {anchor[1:] for anchor in place.anchors if anchor.startswith("!")}
    fitting = [path for path in fitting if not barred & {part.kind for part in line_of(path, paths)}]
    for anchor in place.anchors:
        found = [spot for path in fitting if (spot := _spot(place, anchor, path, paths)) is not None]
        if found:
            return list({path.id: (path, at) for path, at in reversed(found)}.values())[::-1]
    return []


def usual_spots(job: Job, place: Place) -> list[tuple[FlowPath, float]]:
    """Where a usual place stands on the typical paths of a vehicle like this one, while none of its own is drawn."""
    if any(path.kind == place.path for path in job.paths):
        return []
    return spots_of(place, paths_for(job.vehicle))


def _spot(
    place: Place, anchor: str, path: FlowPath, paths: Sequence[FlowPath]
) -> tuple[FlowPath, float] | None:
    late = place.side in ("after", "end")
    part = path.last(anchor) if late else path.first(anchor)
    if part is None or path.length_m is None:
        return None
    at = max((part.end_m if late else part.at_m) + place.by_m, 0.0)
    for behind in downstream(paths, path) if path.into else ():
        if at <= path.length_m or behind.length_m is None:
            break
        at, path = at - path.length_m, behind
    assert path.length_m is not None
    return path, round(min(at, path.length_m), 3)


def port_at(measurand: str, kind: str, key: str) -> Port:
    """The port of a job at a usual place, with the id ``key``. Raises BadInput for an unknown place."""
    for place in places_for(measurand):
        if place.kind == kind:
            return Port(
                key,
                place.name,
                place.kind,
                thread=place.thread,
                way_in=place.way_in,
                spot=Spot(entry=place.entry, access=place.marks["access"]),
                ground=PortGround(place.grounded, place.ground_at),
                bias=place.bias,
                why=place.pro,
            )
    known = " | ".join(place.kind for place in places_for(measurand))
    raise BadInput("kind", kind, known or "nothing: this needs no port")
