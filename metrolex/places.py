"""The places of work, in the order people work: the one table of them.

The spine, the keys, the links of the chain board, the findings and the next action all read it: a new place is a new row.
"""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["KEYS", "LINKS", "PLACES", "Link", "Place"]


@dataclass(frozen=True, slots=True)
class Link:
    """One link of a measuring chain: its heading on the board, where it stands from sender to proof, whether findings of its place colour it."""

    key: str
    heading: str
    position: int
    coloured: bool = False


@dataclass(frozen=True, slots=True)
class Place:
    """One place of work: its key in addresses, its name, the letter that goes there after 'g', the links worked on there."""

    key: str
    name: str
    letter: str
    links: tuple[Link, ...] = ()


PLACES = (
    Place("brief", "Brief", "b"),
    Place("mount", "Mount", "m"),
    Place("ports", "Ports", "p", (Link("port", "Port", 0, True), Link("sender", "Sender", 1))),
    Place("feeds", "Feeds", "f", (Link("feed", "Feed", 3),)),
    Place("harness", "Harness", "h", (Link("run", "Run", 2, True),)),
    Place("scaling", "Scaling", "s", (Link("scaling", "Scaling", 4, True),)),
    Place("dash", "Dash", "d"),
    Place("work", "Work order", "w"),
    Place("proving", "Proving", "v", (Link("proof", "Proof", 5),)),
    Place("faults", "Faults", "t"),
    Place("handover", "Handover", "o"),
)

#: What a finding may name as its place; '' for one that belongs to all.
KEYS = frozenset({"", *(place.key for place in PLACES)})

#: The links of a chain in order, each with the key of its place.
LINKS = tuple(
    (link, place.key)
    for link, place in sorted(
        ((link, place) for place in PLACES for link in place.links), key=lambda pair: pair[0].position
    )
)
