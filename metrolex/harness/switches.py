"""Rules of switches and relays: what flows through their contacts, what is left unwired, who drives a coil."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.findings import Finding
from metrolex.harness.loads import load_of_wire
from metrolex.job import End, Job, Switch
from metrolex.topology import topology_of

__all__ = ["switch_findings"]


def switch_findings(job: Job) -> Iterator[Finding]:
    """Findings of every switch that has a wire."""
    wiring = topology_of(job)
    for switch in job.switches:
        here = {end: wiring.wires_at(End("switch", switch.id, end)) for end in switch.terminals}
        if not any(here.values()):
            continue
        flows = max(
            (load_of_wire(job, wire).steady_a for wires in here.values() for wire in wires), default=0.0
        )
        if flows > switch.limit_a:
            yield Finding(
                "caution",
                "switch_overloaded",
                switch.id,
                f"More flows through {switch.name} than its contacts carry.",
                f"{flows:.1f} A, contacts {switch.limit_a:g} A",
                "A relay for the load, the switch for its coil; or a switch that carries it.",
                "harness",
            )
        bare = [end for end in _needed(switch) if not here[end]]
        if bare:
            yield Finding(
                "note",
                "switch_half_wired",
                switch.id,
                f"{switch.name} has wires, but none at {' and '.join(bare)}.",
                remedy="Lay the missing wire, or say what is left free.",
                place="harness",
            )
        yield from _coil(job, switch)


def _needed(switch: Switch) -> tuple[str, ...]:
    """Terminals nothing works without."""
    if switch.kind == "relay":
        return ("30", "86", "85")
    return switch.terminals


def _coil(job: Job, relay: Switch) -> Iterator[Finding]:
    """A coil on an output of a display that carries less."""
    if relay.kind != "relay":
        return
    draws = job.vehicle.electrics.nominal_v / relay.coil_ohm
    joined = topology_of(job).joined(End("switch", relay.id, "86")) | topology_of(job).joined(
        End("switch", relay.id, "85")
    )
    for display in job.displays:
        for pin in display.pins:
            drives = pin.role == "output" and End("display", display.id, pin.id) in joined
            if drives and pin.limit_a is not None and draws > pin.limit_a:
                yield Finding(
                    "stop",
                    "output_overloaded",
                    display.id,
                    f"The coil of {relay.name} draws more than output {pin.name or pin.id} carries.",
                    f"{draws:.2f} A, output {pin.limit_a:g} A",
                    "A relay with a weaker coil, or a transistor between.",
                    "harness",
                )
