"""What of a job is not planned yet: its steps come into the order once it is."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.job import Job
from metrolex.topology import at_pin, topology_of

__all__ = ["unplanned"]


def unplanned(job: Job) -> tuple[str, ...]:
    """In words, by what it is missing from: places, feeds, grounds, wires."""
    return tuple(_open(job))


def _open(job: Job) -> Iterator[str]:
    for chain in job.measured:
        sender = job.sender(chain.sender)
        if sender is not None and sender.screwed_in and not chain.port:
            yield f"the place of {chain.name}"
    bare = [
        display.name
        for display in job.displays
        if not any(topology_of(job).wires_at(at_pin(display, pin), measured=False) for pin in display.pins)
    ]
    if job.displays and not any(tap.circuit for tap in job.taps):
        yield "the feeds"
    if job.displays and not job.grounds:
        yield "the ground"
    yield from (f"the wires of {name}" for name in bare)
