"""What each likely single fault of a channel would show, before it happens or while it is looked for."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from metrolex.circuit import Fault
from metrolex.job import Channel, End, State
from metrolex.scaling.reading import Shown
from metrolex.topology import at_pin, at_terminal, topology_of
from metrolex.twin import addresses
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
    pins = addresses.pin_node(display, stage.pin), addresses.pin_node(display, ground.id)
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
    signal = _wires_at(network, at_pin(display, stage.pin))
    for wire in signal:
        yield f"signal wire {wire} broken", Fault(addresses.wire(wire), "open")
        yield (
            f"signal wire {wire} chafed to the body",
            Fault(addresses.wire(wire), "short", to=addresses.BODY),
        )
        yield f"poor joint in {wire}", Fault(addresses.wire(wire), "resistance", POOR_JOINT_OHM)
    if not signal:
        return
    if sender.wires < 3:
        yield "sender open inside", Fault(addresses.sender_part(sender.id, "element"), "open")
        yield "sender shorted inside", Fault(addresses.sender_part(sender.id, "element"), "short")
    port = job.port(channel.port)
    if sender.wires == 1 and port is not None and port.grounded:
        yield "no contact through the thread", Fault(addresses.sender_part(sender.id, "thread"), "open")
        yield "tape on the thread", Fault(addresses.sender_part(sender.id, "thread"), "resistance", TAPE_OHM)
    for wire in _wires_at(network, at_terminal(sender, "return")):
        yield f"return wire {wire} broken", Fault(addresses.wire(wire), "open")
    for point in topology_of(job).grounds_of(display):
        yield f"ground {point} corroded", Fault(addresses.ground_node(point), "resistance", CORRODED_OHM)


def _wires_at(network: Network, end: End) -> list[str]:
    return [wire.id for wire in topology_of(network.job).wires_at(end, measured=True)]
