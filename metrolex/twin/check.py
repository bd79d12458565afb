"""Rules that need the circuit worked out: dead in crank, drop too high, ground lifted, memory lost."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.circuit import GROUND
from metrolex.findings import Finding
from metrolex.job import Display, Job, Pin, State
from metrolex.topology import at_port, at_terminal, topology_of
from metrolex.twin import addresses
from metrolex.twin.addresses import Address
from metrolex.twin.backlight import backlight_findings
from metrolex.twin.build import Network
from metrolex.twin.grounds import ground_findings
from metrolex.twin.reach import missing_at, missing_on_the_way, not_worked_out
from metrolex.twin.run import Solved, solve
from metrolex.twin.start import start_findings

__all__ = ["MAX_DROP_RATIO", "MAX_GROUND_RISE_V", "twin_findings"]

MAX_DROP_RATIO = 0.03  # of the battery's volts, out and back (common practice, no source)
MAX_GROUND_RISE_V = 0.1  # common practice, no source


def twin_findings(network: Network) -> Iterator[Finding]:
    """Findings of every display that is wired to a feed and a ground."""
    run, crank, off = (solve(network, State(key)) for key in ("run", "crank", "off"))
    for display in network.job.displays:
        supply, ground = display.pin_for("ignition"), display.pin_for("ground")
        if supply is None or ground is None or missing_on_the_way(network.job, display):
            continue  # not worked out yet: the board says what is missing
        yield from _ignition(display, supply, ground, run, crank)
        yield from _memory(display, ground, off)
    yield from start_findings(network)
    yield from _grounds_of_senders(network.job)
    yield from backlight_findings(network)
    yield from ground_findings(network)


def _ignition(display: Display, supply: Pin, ground: Pin, run: Solved, crank: Solved) -> Iterator[Finding]:
    pair = _pair(display, supply, ground)
    volts = run.across(*pair) or 0.0
    battery = run.across(addresses.BATTERY_POSITIVE, GROUND) or 0.0
    drop = battery - volts
    if display.id in run.powered and drop > MAX_DROP_RATIO * battery:
        yield Finding(
            "caution",
            "drop_high",
            display.id,
            f"From the battery to its pins, out and back, {display.name} loses more than "
            f"{MAX_DROP_RATIO:.0%}.",
            f"{drop:.2f} V of {battery:.1f} V",
            "Thicker wire, a shorter run or a better ground.",
            "harness",
        )
    rise = run.volts(pair[1]) or 0.0
    if rise > MAX_GROUND_RISE_V:
        yield Finding(
            "caution",
            "ground_lifted",
            display.id,
            f"The ground pin of {display.name} stands above battery negative.",
            f"{rise:.2f} V",
            "Clean the ground point, or give the display a ground of its own.",
            "feeds",
        )
    if display.id in run.powered and display.id not in crank.powered:
        cranking = crank.across(*pair) or 0.0
        yield Finding(
            "caution" if display.supply.needs_crank else "note",
            "dead_in_crank",
            display.id,
            f"{display.name} {'goes dark' if display.face else 'stops'} while the starter turns and comes back after it.",
            f"{cranking:.1f} V, needs {display.supply.min_v:g} V",
            "Feed it from a circuit that is live in run and crank.",
            "feeds",
        )


def _memory(display: Display, ground: Pin, off: Solved) -> Iterator[Finding]:
    memory, job = display.pin_for("memory"), off.network.job
    if memory is None or not_worked_out(job, display, memory) or missing_at(job, display, memory):
        return
    volts = off.across(*_pair(display, memory, ground))
    if volts is not None and volts < display.supply.min_v:
        yield Finding(
            "caution",
            "memory_lost",
            display.id,
            f"{display.name} has no memory volts with the key off: it forgets {display.supply.forgets or 'its settings'}.",
            f"{volts:.1f} V",
            "Feed its memory pin from a constant circuit.",
            "feeds",
        )


def _grounds_of_senders(job: Job) -> Iterator[Finding]:
    wiring = topology_of(job)
    for channel in job.measured:
        sender, port = job.sender(channel.sender), job.port(channel.port)
        if sender is None or sender.wires != 1 or port is None or port.ground.grounded:
            continue
        if not wiring.wired(at_port(port)) and not wiring.wired(at_terminal(sender, "body")):
            yield Finding(
                "stop",
                "sender_without_ground",
                channel.name,
                f"'{sender.called}' returns through its body, but '{port.name}' joins no metal: the gauge sees an open circuit.",
                "1 wire",
                "Run a ground lead to the adapter, or take a two-wire sender.",
                "ports",
                channel.id,
                about=f"channel {channel.id}",
            )


def _pair(display: Display, supply: Pin, ground: Pin) -> tuple[Address, Address]:
    return addresses.pin_node(display, supply.id), addresses.pin_node(display, ground.id)
