"""The usual places for a sender, by what it measures: data of ``data/ports.toml`` (common practice, no source)."""

from __future__ import annotations

import functools
from dataclasses import dataclass
from typing import Literal, cast

from metrolex.errors import BadInput
from metrolex.job import Port
from metrolex.job.place import Entry, FlowPath
from metrolex.tables import load_table

__all__ = ["Place", "place_of", "places_for", "port_at", "where_on"]


@dataclass(frozen=True, slots=True)
class Place:
    """A usual place: where on which path, how it is opened, its marks of 0 to 4, what speaks for and against it.

    ``anchors`` are parts it is found by, the first there; '!part' bars paths that have it. ``thread`` is the open mouth a stack of fittings starts from. ``bias`` is in the measurand's usual unit.
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


@functools.cache
def places_for(measurand: str) -> tuple[Place, ...]:
    """The usual places for a measurand; empty where it needs none."""
    return tuple(
        Place(
            row["kind"], row["name"], row["thread"], row["way_in"], row.get("path", ""), tuple(filter(None, row.get("anchor", "").split("|"))),
            row["side"], row.get("by_m", 0.0), cast(Entry, row["entry"]), row["grounded"], row["ground_at"], row.get("bias", 0.0),
            row.get("bias_words", ""), dict(row["marks"]), row["card"], row.get("fluid", ""), row.get("loss_l", 0.0), row["minutes"],
            row["for"], row["against"], row["caution"],
        )
        for row in load_table("ports").get(measurand, ())
    )  # fmt: skip


def place_of(measurand: str, port: Port) -> Place | None:
    """The usual place a port was made from, None for one of the fitter's own."""
    return next((place for place in places_for(measurand) if place.kind == port.kind), None)


def where_on(place: Place, path: FlowPath) -> float | None:
    """The distance of a usual place along a path, in metres; None where the path has none of its anchors or no scale."""
    if path.length_m is None or path.kind != place.path:
        return None
    if any(anchor.startswith("!") and path.first(anchor[1:]) for anchor in place.anchors):
        return None
    for anchor in place.anchors:
        part = path.last(anchor) if place.side in ("after", "end") else path.first(anchor)
        if part is not None:
            start = part.end_m if place.side in ("after", "end") else part.at_m
            return round(min(max(start + place.by_m, 0.0), path.length_m), 3)
    return None


def port_at(measurand: str, kind: str, key: str) -> Port:
    """The port of a job at a usual place, with the id ``key``. Raises BadInput for an unknown place."""
    for place in places_for(measurand):
        if place.kind == kind:
            return Port(
                key, place.name, place.kind, place.thread, place.way_in, place.grounded, place.ground_at, bias=place.bias,
                why=place.pro, entry=place.entry, access=place.marks["access"],
            )  # fmt: skip
    known = " | ".join(place.kind for place in places_for(measurand))
    raise BadInput("kind", kind, known or "nothing: this needs no port")
