"""Usual layouts of vehicles to start a plan from. Data in ``data/layouts.toml``."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import Opening, Way, Zone
from metrolex.tables import load_table

__all__ = ["Layout", "layout_called", "layouts"]


@dataclass(frozen=True, slots=True)
class Layout:
    """Zones, ways and openings of one kind of vehicle, with its name in a sentence."""

    key: str
    words: str
    zones: tuple[Zone, ...]
    ways: tuple[Way, ...]
    openings: tuple[Opening, ...]


def layouts() -> tuple[tuple[str, str], ...]:
    """(key, words) of every layout there is."""
    return tuple((str(row["key"]), str(row["words"])) for row in load_table("layouts")["layouts"])


def layout_called(key: str) -> Layout:
    """One layout. Raises BadInput (field ``layout``) for an unknown key."""
    for row in load_table("layouts")["layouts"]:
        if row["key"] == key:
            holes = {hole[0] for hole in row["openings"]}
            return Layout(
                key,
                row["words"],
                tuple(_zone(zone) for zone in row["zones"]),
                tuple(_way(way, holes) for way in row["ways"]),
                tuple(
                    read(Opening, {"id": k, "name": name, "hole_mm": mm, "edge": edge, "made": made})
                    for k, name, mm, edge, made in row["openings"]
                ),
            )
    raise BadInput("layout", key, ", ".join(known for known, _ in layouts()))


def _zone(row: list[Any]) -> Zone:
    key, name, kind, x, y, w, h = row
    zone: Zone = read(
        Zone,
        {
            "id": key,
            "name": name,
            "kind": kind,
            "x": x,
            "y": y,
            "w": w,
            "h": h,
            "pedals": kind == "footwell",
        },
    )
    return zone


def _way(row: list[Any], holes: set[str]) -> Way:
    key, a, b, length, peak, *words = row
    way: Way = read(
        Way,
        {
            "id": key,
            "a": a,
            "b": b,
            "length_m": length,
            "peak_degc": peak,
            "moving": "moving" in words,
            "wet": "wet" in words,
            "opening": next((word for word in words if word in holes), None),
            "tied_to": [word for word in words if word not in holes and word not in ("moving", "wet")],
        },
    )
    return way
