"""Why a pin has no volts yet: what is missing on its way, by name.

A wire of unknown length is left out of the circuit. What hangs behind it would read 0 V, which is not what a meter will say: it is not worked out.
"""

from __future__ import annotations

from metrolex.job import Conductor, Display, Job, Pin
from metrolex.job.once import once_per_job
from metrolex.topology import Topology, at_pin, topology_of

__all__ = ["missing_at", "missing_on_the_way", "not_worked_out"]

#: What a pin of a role must reach for its volts to mean something.
_SOURCES = {
    "ignition": ("tap", "battery"),
    "memory": ("tap", "battery"),
    "lamps": ("tap", "battery"),
    "ground": ("ground", "battery"),
}
_WANTED = {"ignition": "a tap", "memory": "a tap", "lamps": "a tap", "ground": "a ground point"}


def missing_on_the_way(job: Job, display: Display) -> str:
    """Why a display has neither supply nor ground to be worked out with, in words; '' where both are there."""
    return _missing_on_the_way(job, display.id)


@once_per_job
def _missing_on_the_way(job: Job, key: str) -> str:
    display = job.display(key)
    assert display is not None
    for role in ("ignition", "ground"):
        if role == "ignition" and display.supply.own_battery:
            continue
        pin = display.pin_for(role)
        if pin is None:
            return f"its pins name no {role}"
        words = not_worked_out(job, display, pin) or missing_at(job, display, pin)
        if words:
            return words
    return ""


def not_worked_out(job: Job, display: Display, pin: Pin) -> str:
    """What length is missing between a pin and its feed or ground; '' where none is."""
    wiring = topology_of(job)
    sources = _SOURCES.get(pin.role)
    if sources is None:
        wires = wiring.wires_at(at_pin(display, pin))
        missing = tuple(wire for wire in wires if wire.id not in wiring.lengths_m)
        return _no_length(job, missing) if wires and len(missing) == len(wires) else ""
    return _no_length(job, wiring.unmeasured_to(at_pin(display, pin), sources))


def missing_at(job: Job, display: Display, pin: Pin) -> str:
    """What is not there yet between a pin and its feed or ground; '' where it reaches one."""
    wiring: Topology = topology_of(job)
    here = at_pin(display, pin)
    if not wiring.wired(here):
        return f"its {pin.role} pin has no wire yet"
    sources = _SOURCES.get(pin.role, ())
    if not any(end.kind in sources for end in wiring.reaches(here)):
        return f"its {pin.role} wire does not reach {_WANTED[pin.role]} yet"
    taps = [job.tap(end.id) for end in wiring.reaches(here) if end.kind == "tap"]
    if taps and not any(tap and tap.circuit for tap in taps):
        return f"its {pin.role} tap is on no circuit yet"
    return ""


def _no_length(job: Job, wires: tuple[Conductor, ...]) -> str:
    if not wires:
        return ""
    run = next((found for wire in wires if (found := job.run(wire.run))), None)
    what = f"the run {run.name}" if run else f"wire {wires[0].id}"
    return f"not worked out: {what} has no length"
