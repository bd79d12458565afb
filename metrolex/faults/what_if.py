"""What each likely single fault of a channel would show, before it happens or while it is looked for."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from metrolex.faults.catalogue import catalogue
from metrolex.faults.kinds import LikelyFault, sender_parts
from metrolex.job import MeasuringChain, Sender, State
from metrolex.scaling.reading import Shown
from metrolex.topology import at_pin, at_terminal, topology_of
from metrolex.twin import addresses
from metrolex.twin.addresses import Address
from metrolex.twin.build import Network
from metrolex.twin.each import solve_each
from metrolex.twin.kept import once_per_circuit
from metrolex.twin.run import Solved, solve

__all__ = ["WhatIf", "likely_faults", "solve_with", "what_if"]

WIRE_KINDS = ("wire.broken", "wire.chafed", "joint.poor")


@dataclass(frozen=True, slots=True)
class WhatIf:
    """One fault: in words, what the face shows, and the volts at the signal pin against the display's ground."""

    words: str
    shown: Shown
    signal_v: float | None


@once_per_circuit
def what_if(network: Network, state: State, channel: MeasuringChain) -> tuple[WhatIf, ...]:
    """Every likely fault of one channel, each alone, in one state; empty while its signal is not wired."""
    listed = tuple(likely_faults(network, channel))
    display, stage = network.job.display(channel.display), network.job.input_of(channel)
    ground = display.pin_for("ground") if display else None
    if display is None or stage is None or stage.pin is None or ground is None or not listed:
        return ()
    pins = addresses.pin_node(display, stage.pin), addresses.pin_node(display, ground.id)
    return tuple(
        WhatIf(likely.words, faces[channel.id], one.across(*pins))
        for likely, (one, faces) in zip(listed, solve_with(network, state, listed), strict=True)
    )


def solve_with(
    network: Network, state: State, listed: tuple[LikelyFault, ...]
) -> list[tuple[Solved, dict[str, Shown]]]:
    """The job with each fault alone in one state, and what stands on its faces, by channel id."""
    healthy = solve(network, state)
    elements = {element.name: element for element in healthy.elements}
    solved = solve_each(network, state, [one.in_state(healthy, elements) for one in listed])
    return [(one, likely.seen(one)) for likely, one in zip(listed, solved, strict=True)]


def likely_faults(network: Network, channel: MeasuringChain) -> Iterator[LikelyFault]:
    """The faults fitters meet on a channel's own way: sender, wires, thread, ground; none while its signal is not wired."""
    job = network.job
    display, stage = job.display(channel.display), job.input_of(channel)
    if job.heard(channel) is None or display is None or stage is None or stage.pin is None:
        return
    wiring = topology_of(job)
    signal = wiring.wires_at(at_pin(display, stage.pin), measured=True)
    if not signal:
        return
    reader, first = job.sender_wired_to(channel)
    if channel.box and reader and first and first.pin:
        signal = (*signal, *wiring.wires_at(at_pin(reader, first.pin), measured=True))
    sender = job.sender(channel.sender)
    back = wiring.wires_at(at_terminal(sender, "return"), measured=True) if sender else ()
    readers = [display, reader] if reader else [display]
    grounds = dict.fromkeys(key for each in readers for key in wiring.grounds_of(each))
    own: dict[Address, tuple[str, tuple[str, ...]]] = {
        **{addresses.wire(wire.id): ("signal ", WIRE_KINDS) for wire in signal},
        **({} if sender is None else _of_sender(sender)),
        **{addresses.wire(wire.id): ("return ", ("wire.broken",)) for wire in back},
        **{addresses.ground_node(key): ("", ("strap.corroded",)) for key in grounds},
    }
    by_part: dict[Address, list[LikelyFault]] = {}
    for likely in catalogue(network):
        by_part.setdefault(likely.part, []).append(likely)
    for part, (prefix, kinds) in own.items():
        for likely in by_part.get(part, ()):
            if likely.kind in kinds:
                yield replace(
                    likely,
                    words=prefix * (likely.part.kind == "wire" and "joint" not in likely.kind) + likely.words,
                )


def _of_sender(sender: Sender) -> dict[Address, tuple[str, tuple[str, ...]]]:
    parts = sender_parts(sender)
    return {
        parts["element"]: ("", ("sender.open", "sender.shorted")),
        parts["leads"]: ("", ("sender.shorted",)),
        parts["thread"]: ("", ("thread.open", "thread.taped")),
    }
