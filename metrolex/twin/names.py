"""What the points of the circuit are called, in field terms. Every drawing and test uses these names."""

from __future__ import annotations

from metrolex.circuit import GROUND
from metrolex.job import Display, End, GroundPoint, Job

__all__ = [
    "BATTERY_POSITIVE", "BODY", "ENGINE", "end_node", "feed_side", "ground_node", "load_side", "pin_node",
    "reference_node", "sender_node", "sensor_supply_node", "splice_node", "tap_node",
]  # fmt: skip

BATTERY_POSITIVE = "battery positive"
BODY = "body"
ENGINE = "engine block"


def feed_side(circuit: str) -> str:
    """The side of a fuse that the vehicle feeds."""
    return f"{circuit} feed side"


def load_side(circuit: str) -> str:
    return f"{circuit} load side"


def tap_node(tap: str) -> str:
    return f"tap {tap} output"


def splice_node(splice: str) -> str:
    return f"splice {splice}"


def ground_node(ground: str) -> str:
    return f"ground {ground}"


def sender_node(sender: str, terminal: str) -> str:
    return f"{sender} {terminal}"


def pin_node(display: Display, pin: str) -> str:
    """'gauge 2 pin 1 memory'; the pin's own name after its number where they differ."""
    named = next((p.name for p in display.pins if p.id == pin), "")
    return f"{display.id} pin {pin}" + (f" {named}" if named and named != pin else "")


def reference_node(display: str, stage: str) -> str:
    return f"{display} input {stage} reference"


def sensor_supply_node(display: str) -> str:
    """Inside a display, before what limits the current of its sensor supply."""
    return f"{display} sensor supply"


def rail(point: GroundPoint) -> str:
    """Where a ground point's metal belongs."""
    return {"body": BODY, "engine": ENGINE, "battery": GROUND}[point.where]


def end_node(job: Job, end: End, wire: str) -> str:
    """The node a conductor's end sits on. In a splice each wire has a node of its own beside the joint."""
    if end.kind == "tap":
        return tap_node(end.id)
    if end.kind == "ground":
        return ground_node(end.id)
    if end.kind == "splice":
        return f"{splice_node(end.id)} at {wire}"
    if end.kind == "sender":
        return sender_node(end.id, end.terminal)
    if end.kind == "port":
        fitted = next((c.sender for c in job.channels if c.port == end.id and c.sender), None)
        return sender_node(fitted, "body") if fitted else f"port {end.id} body"
    if end.kind == "battery":
        return BATTERY_POSITIVE if end.id == "positive" else GROUND
    if end.kind == "plug":
        return f"plug {end.id} pin {end.terminal}"
    display = job.display(end.id)
    assert display is not None, "references are checked when a job is read"
    return pin_node(display, end.terminal)
