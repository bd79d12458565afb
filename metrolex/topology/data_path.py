"""Which display hears the data of which box: over a common pair, or handed on from one to the next in a chain."""

from __future__ import annotations

from metrolex.job import Display, Job, Pin
from metrolex.job.once import once_per_job
from metrolex.topology.ends import at_pin
from metrolex.topology.topology import Topology, topology_of

__all__ = ["hears_data", "next_in_chain"]


@once_per_job
def next_in_chain(job: Job, display: Display) -> tuple[str, ...]:
    """The displays and boxes that data of this one reaches by wire, without another between: both wires of a pair, or out to in."""
    wiring = topology_of(job)
    found = []
    for other in job.displays:
        if other.id == display.id:
            continue
        pair = all(
            (mine := display.pin_for(role))
            and (theirs := other.pin_for(role))
            and _joined(wiring, display, mine, other, theirs)
            for role in ("can_high", "can_low")
        )
        out, into = display.pin_for("data_out"), other.pin_for("data_in")
        if pair or (out and into and _joined(wiring, display, out, other, into)):
            found.append(other.id)
    return tuple(found)


def _joined(wiring: Topology, one: Display, pin: Pin, other: Display, its: Pin) -> bool:
    return at_pin(other, its) in wiring.reaches(at_pin(one, pin))


def hears_data(job: Job, box: Display, display: Display, awake: frozenset[str]) -> bool:
    """Whether data of a box arrives at a display: straight, or through others that are awake and hand it on."""
    if box.id == display.id:
        return True
    known, edge = {box.id}, [box]
    while edge:
        at = edge.pop()
        for key in next_in_chain(job, at):
            if key == display.id:
                return True
            other = job.display(key)
            if other is not None and key not in known and key in awake:
                known.add(key)
                edge.append(other)
    return False
