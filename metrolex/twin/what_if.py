"""What each likely single fault of a channel would show, before it happens or while it is looked for."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from metrolex.circuit import Fault
from metrolex.job import Channel, Job, State
from metrolex.scaling.reading import Shown
from metrolex.twin import names
from metrolex.twin.build import Network
from metrolex.twin.run import readings, solve_each

__all__ = ["WhatIf", "likely_faults", "what_if"]

TAPE_OHM = 300.0  # tape on a thread that should conduct (common practice, no source)
CORRODED_OHM = 1.0  # a ground point that was painted over (common practice, no source)
POOR_JOINT_OHM = 50.0  # a crimp that moves (common practice, no source)


@dataclass(frozen=True, slots=True)
class WhatIf:
    """One fault: in words, what the face shows, and the volts at the signal pin against the display's ground."""

    words: str
    fault: Fault
    shown: Shown
    signal_v: float | None


def what_if(network: Network, state: State, channel: Channel) -> tuple[WhatIf, ...]:
    """Every likely fault of one channel, each alone, in one state; empty while its signal is not wired."""
    listed = list(likely_faults(network, channel))
    display, stage = network.job.display(channel.display), network.job.input_of(channel)
    ground = display.pin_for("ground") if display else None
    if display is None or stage is None or stage.pin is None or ground is None or not listed:
        return ()
    pins = names.pin_node(display, stage.pin), names.pin_node(display, ground.id)
    solved = solve_each(network, state, [fault for _, fault in listed])
    return tuple(
        WhatIf(words, fault, readings(one)[channel.id], one.across(*pins))
        for (words, fault), one in zip(listed, solved, strict=True)
    )


def likely_faults(network: Network, channel: Channel) -> Iterator[tuple[str, Fault]]:
    """The faults fitters meet, in words, for what the channel has: sender, wires, thread, ground."""
    job = network.job
    sender, display, stage = job.sender(channel.sender), job.display(channel.display), job.input_of(channel)
    if sender is None or display is None or stage is None or stage.pin is None:
        return
    signal = _wires_at(network, display.id, stage.pin)
    for wire in signal:
        yield f"signal wire {wire} broken", Fault(f"wire {wire}", "open")
        yield f"signal wire {wire} chafed to the body", Fault(f"wire {wire}", "short", to=names.BODY)
        yield f"poor joint in {wire}", Fault(f"wire {wire}", "resistance", POOR_JOINT_OHM)
    if not signal:
        return
    if sender.wires < 3:
        yield "sender open inside", Fault(f"{sender.id} element", "open")
        yield "sender shorted inside", Fault(f"{sender.id} element", "short")
    port = job.port(channel.port)
    if sender.wires == 1 and port is not None and port.grounded:
        yield "no contact through the thread", Fault(f"{sender.id} thread", "open")
        yield "tape on the thread", Fault(f"{sender.id} thread", "resistance", TAPE_OHM)
    for wire in _wires_of_sender(network, sender.id, "return"):
        yield f"return wire {wire} broken", Fault(f"wire {wire}", "open")
    for point in _grounds_of(job, display.id):
        yield f"ground {point} corroded", Fault(f"ground {point}", "resistance", CORRODED_OHM)


def _wires_at(network: Network, display: str, pin: str) -> list[str]:
    return [
        w.id for w in network.job.conductors
        if w.id in network.lengths_m and any((e.kind, e.id, e.terminal) == ("display", display, pin) for e in (w.a, w.b))
    ]  # fmt: skip


def _wires_of_sender(network: Network, sender: str, terminal: str) -> list[str]:
    return [
        w.id for w in network.job.conductors
        if w.id in network.lengths_m and any((e.kind, e.id, e.terminal) == ("sender", sender, terminal) for e in (w.a, w.b))
    ]  # fmt: skip


def _grounds_of(job: Job, display: str) -> list[str]:
    """The ground points a display's ground pin reaches, straight or through splices."""
    shown = job.display(display)
    ground = shown.pin_for("ground") if shown else None
    edge = [("display", display, ground.id if ground else "")]
    seen, found = set(edge), []
    while edge:
        at = edge.pop()
        for wire in job.conductors:
            for near, far in ((wire.a, wire.b), (wire.b, wire.a)):
                key = (far.kind, far.id, far.terminal)
                if (near.kind, near.id, near.terminal) == at and key not in seen:
                    seen.add(key)
                    if far.kind == "ground":
                        found.append(far.id)
                    elif far.kind == "splice":
                        edge.append(key)
    return found
