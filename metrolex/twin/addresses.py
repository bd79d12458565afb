"""Where things are in the twin: one typed address for each node and each element; names only print it.

An address says the kind of part, its id, what of it is meant, and which one of several. Two parts of one id but of unlike kind, or an id that
another one begins with, are never taken for one another. Nodes and elements have addresses of one kind but are asked for apart.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from difflib import get_close_matches
from functools import lru_cache
from typing import Literal

from metrolex.circuit import GROUND
from metrolex.circuit.elements import Name
from metrolex.errors import BadInput
from metrolex.job import Display, End, GroundPoint, Job

__all__ = ["BATTERY_POSITIVE", "BODY", "ENGINE", "Address", "address_called", "end_node", "printed"]

Kind = Literal[
    "vehicle",
    "contact",
    "circuit",
    "tap",
    "wire",
    "splice",
    "switch",
    "ground",
    "display",
    "sender",
    "port",
    "plug",
    "channel",
    "instrument",
]


@dataclass(frozen=True, slots=True)
class Address:
    """A node or an element of the twin. ``which`` tells several of one ``what`` apart: a pin, an input, a wire."""

    kind: Kind
    id: str
    what: str = ""
    which: str = ""
    words: str = field(default="", compare=False)
    """as it is printed"""
    hashed: int = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "hashed", hash((self.kind, self.id, self.what, self.which)))

    def __hash__(self) -> int:  # looked up far more often than made
        return self.hashed

    def __str__(self) -> str:
        return self.words or " ".join(word for word in (self.id, self.what, self.which) if word)


# One object for each address there is: every edit has a few hundred made anew, and what is one object is compared at a glance.
_at = lru_cache(maxsize=20_000)(Address)


def address_called(words: str, among: Iterable[Name], field_name: str, thing: str) -> Name:
    """The one address that is printed so, or with its kind where two are. Raises BadInput with the nearest."""
    names = printed(among)
    for address, name in names.items():
        if name == words:
            return address
    near = get_close_matches(words, names.values(), 1)
    hint = f" Did you mean '{near[0]}'?" if near else ""
    raise BadInput(
        field_name,
        words,
        f"the name of {thing} of the job",
        f"There is no {thing.rsplit(maxsplit=1)[-1]} '{words:.60}'.{hint}",
    )


def printed(addresses: Iterable[Name]) -> dict[Name, str]:
    """A name for each, no two alike: the kind of part is added where two would read the same."""
    listed = list(addresses)
    seen: dict[str, int] = {}
    for address in listed:
        seen[str(address)] = seen.get(str(address), 0) + 1
    return {
        address: f"{address} ({address.kind})"
        if seen[str(address)] > 1 and isinstance(address, Address)
        else str(address)
        for address in listed
    }


# The vehicle

BATTERY_POSITIVE = _at("vehicle", "battery positive")
BATTERY_CELLS = _at("vehicle", "battery cells")
BODY = _at("vehicle", "body")
ENGINE = _at("vehicle", "engine block")


def vehicle(part: str) -> Address:
    """A part of the vehicle there is one of: 'starter', 'engine to body strap'."""
    return _at("vehicle", part)


def contact(name: str) -> Address:
    """A contact of the key or lamp switch."""
    return _at("contact", name)


def contact_output(name: str) -> Address:
    return _at("contact", name, "output")


# Circuits and taps


def feed_side(circuit: str) -> Address:
    """The side of a fuse that the vehicle feeds."""
    return _at("circuit", circuit, "feed side")


def load_side(circuit: str) -> Address:
    return _at("circuit", circuit, "load side")


def circuit_part(circuit: str, what: str) -> Address:
    """'fuse', 'vehicle load', 'leakage', 'joint', 'dimmer' of a circuit."""
    return _at("circuit", circuit, what)


def feed_of(circuit: str) -> Address:
    """What feeds a circuit."""
    return _at("circuit", circuit, "feed", words=f"feed to {circuit}")


def tap(key: str) -> Address:
    """A tap with its fuse."""
    return _at("tap", key, words=f"tap {key}")


def tap_node(key: str) -> Address:
    return _at("tap", key, "output", words=f"tap {key} output")


# Wires, splices, ground points


def wire(key: str) -> Address:
    return _at("wire", key, words=f"wire {key}")


def splice_node(key: str) -> Address:
    return _at("splice", key, words=f"splice {key}")


def splice_leg(key: str, wire_id: str) -> Address:
    """Where one wire enters a splice: a node, and the element from it to the joint."""
    return _at("splice", key, "at", wire_id, words=f"splice {key} at {wire_id}")


def ground_node(key: str) -> Address:
    """A ground point: its terminal, and its contact."""
    return _at("ground", key, words=f"ground {key}")


def rail(point: GroundPoint) -> Name:
    """Where a ground point's metal belongs."""
    metal: dict[str, Name] = {"body": BODY, "engine": ENGINE, "battery": GROUND}
    return metal[point.where]


# Switches


def switch_node(switch: str, terminal: str) -> Address:
    return _at("switch", switch, terminal)


def contact_of(switch: str, a: str, b: str) -> Address:
    """A contact of a switch or relay of the job."""
    return _at("switch", switch, a, b, words=f"{switch} {a} to {b}")


def coil(switch: str) -> Address:
    """The coil of a relay."""
    return _at("switch", switch, "coil", words=f"{switch} coil")


# Senders


def sender_node(sender: str, terminal: str) -> Address:
    """A terminal of a sender, or 'element', its inner point."""
    return _at("sender", sender, terminal)


def sender_part(sender: str, what: str) -> Address:
    """'element', 'thread', 'leads', 'supply load', 'output' of a sender."""
    return _at("sender", sender, what)


def reader(sender: str, key: str) -> Address:
    """The reference of whoever of the vehicle reads a sender: its point, and its source."""
    return _at("sender", sender, "reader", key, words=f"{sender} reader {key}")


def reader_pull_up(sender: str, key: str) -> Address:
    return _at("sender", sender, "reader pull-up", key, words=f"{sender} reader {key} pull-up")


def joined_at(plug: str, pin: str) -> Address:
    """The vehicle's own wire from a sender to a pin of a plug."""
    return _at("plug", plug, "own wire", pin, words=f"plug {plug} pin {pin} to its sender")


# Displays


def pin_node(display: Display, pin: str) -> Address:
    """'gauge 2 pin 1 memory'; the pin's own name after its number where they differ."""
    named = next((p.name for p in display.pins if p.id == pin), "")
    tail = f" {named}" if named and named != pin else ""
    return _at("display", display.id, "pin", pin, words=f"{display.id} pin {pin}{tail}")


def pin_load(display: str, pin: str) -> Address:
    return _at("display", display, "load", pin, words=f"{display} load at pin {pin}")


def pin_return(display: str, pin: str) -> Address:
    return _at("display", display, "return", pin, words=f"{display} return at pin {pin}")


def reference_node(display: str, stage: str) -> Address:
    """The reference of an input: its point, and its source."""
    return _at("display", display, "reference", stage, words=f"{display} input {stage} reference")


def pull_up(display: str, stage: str) -> Address:
    return _at("display", display, "pull-up", stage, words=f"{display} input {stage} pull-up")


def input_load(display: str, stage: str) -> Address:
    return _at("display", display, "input", stage, words=f"{display} input {stage}")


def sensor_supply_node(display: str) -> Address:
    """Inside a display, before what limits the current of its sensor supply."""
    return _at("display", display, "sensor supply")


def sensor_supply(display: str, pin: str) -> Address:
    return _at("display", display, "sensor supply", pin, words=f"{display} sensor supply at pin {pin}")


def supply_limiter(display: str, pin: str) -> Address:
    words = f"{display} sensor supply limiter"
    return _at("display", display, "supply limiter", pin, words=words)


def output(display: str, key: str) -> Address:
    """What a box gives at one of its outputs: its source, and the point behind the resistance of the output."""
    return _at("display", display, "output", key, words=f"{display} output {key}")


def output_leg(display: str, key: str) -> Address:
    """From the source of an output to its pin."""
    return _at("display", display, "output leg", key, words=f"{display} output {key} to its pin")


def instrument(name: str) -> Address:
    """A meter or lamp hung on the job."""
    return _at("instrument", name)


def end_node(job: Job, end: End, wire_id: str) -> Name:
    """The node a conductor's end sits on. In a splice each wire has a node of its own beside the joint."""
    if end.kind == "tap":
        return tap_node(end.id)
    if end.kind == "ground":
        return ground_node(end.id)
    if end.kind == "splice":
        return splice_leg(end.id, wire_id)
    if end.kind == "sender":
        return sender_node(end.id, end.terminal)
    if end.kind == "port":
        fitted = next((c.sender for c in job.measured if c.port == end.id and c.sender), None)
        return (
            sender_node(fitted, "body")
            if fitted
            else _at("port", end.id, "body", words=f"port {end.id} body")
        )
    if end.kind == "battery":
        return BATTERY_POSITIVE if end.id == "positive" else GROUND
    if end.kind == "switch":
        return switch_node(end.id, end.terminal)
    if end.kind == "plug":
        return _at("plug", end.id, "pin", end.terminal, words=f"plug {end.id} pin {end.terminal}")
    display = job.display(end.id)
    assert display is not None, "references are checked when a job is read"
    return pin_node(display, end.terminal)
