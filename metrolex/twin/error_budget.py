"""The error budget of a channel, with wire and ground offset as the twin has them."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass, replace

import numpy as np

from metrolex.errors import BadInput
from metrolex.job import MeasuringChain, State
from metrolex.quantities import in_unit
from metrolex.scaling.budget import Budget, Tolerances, budget
from metrolex.scaling.error import chain_of
from metrolex.scaling.reference import cancels
from metrolex.scaling.suggest import shared_span
from metrolex.senders import is_monotonic, y_range
from metrolex.topology import comes_from, returns_at, topology_of
from metrolex.twin import addresses
from metrolex.twin.build import Network
from metrolex.twin.kept import once_per_circuit
from metrolex.twin.run import Solved, solve, true_values

__all__ = ["Loop", "channel_budget", "loop_of"]

SAMPLES = 61


@dataclass(frozen=True, slots=True)
class Loop:
    """Resistance of the wires between sender and input, out and back, and the sender's ground above the input's.

    Both count for resistances and volts only. ``wired`` is False while a wire or a ground is missing: then both are 0.
    """

    wire_ohm: float = 0.0
    ground_offset_v: float = 0.0
    wired: bool = False


def loop_of(solved: Solved, channel: MeasuringChain) -> Loop:
    """Wires and ground offset of a channel's sender as they stand in a solved state."""
    job = solved.network.job
    sender, display, stage = job.heard(channel), job.display(channel.display), job.input_of(channel)
    ground = display.pin_for("ground") if display else None
    leaves, returns = comes_from(job, channel), returns_at(job, channel)
    if sender is None or display is None or stage is None or stage.pin is None or ground is None:
        return Loop()
    if leaves is None:
        return Loop()
    pin, rail = addresses.pin_node(display, stage.pin), addresses.pin_node(display, ground.id)
    signal = addresses.end_node(job, leaves, "")
    seen, drop = solved.across(pin, rail), solved.across(pin, signal)
    if seen is None or drop is None:
        return Loop()
    if sender.curve.x_unit not in ("ohm", "volt"):
        # A current, a frequency and a couple's millivolts are not shifted by the drop along a wire as volts are.
        return Loop(0.0, 0.0, True)
    back = addresses.end_node(job, returns, "") if returns else rail
    lift = solved.across(back, rail)
    if lift is None:
        return Loop()
    if stage.kind != "pull_up" or stage.circuit.pull_up_ohm is None or stage.circuit.reference_v is None:
        inside = (
            addresses.output(channel.box, channel.output or "")
            if channel.box
            else addresses.sender_node(sender.id, "element")
        )
        element = solved.across(inside, back)
        return Loop(0.0, lift if element is None else seen - element, True)
    current = (stage.circuit.reference_v - seen) / stage.circuit.pull_up_ohm
    if current < 1e-9:
        return Loop()
    if _returns_to_display(solved, channel):
        return Loop(max((drop + lift) / current, 0.0), 0.0, True)
    return Loop(max(drop / current, 0.0), lift, True)


def _returns_to_display(solved: Solved, channel: MeasuringChain) -> bool:
    """Whether the sender's current comes back on a wire of its own to the display."""
    wiring, back = topology_of(solved.network.job), returns_at(solved.network.job, channel)
    leads = wiring.wires_at(back)[:1] if back else ()
    return any(end.kind == "display" and end.id == channel.display for w in leads for end in (w.a, w.b))


@once_per_circuit
def _mid_range(network: Network, on: State) -> Solved:
    """The displays awake and every channel at the middle of its range: the loops are nearly the same everywhere."""
    job = network.job
    middles: dict[str, float] = {}
    for channel in job.measured:
        sender = job.heard(channel)
        if sender is None or not is_monotonic(sender.curve):
            continue
        with suppress(BadInput):  # no range in common
            middles.setdefault(channel.channel, float(np.mean(shared_span(channel, sender))))
    return solve(network, on, true=true_values(job, on) | middles)


@once_per_circuit
def channel_budget(
    network: Network, state: State, channel: MeasuringChain, at: float | None = None
) -> tuple[Budget, Loop] | None:
    """Every part's error over the range of the face (61 readings, in the channel's unit), or at one reading, with the key on.

    None while sender, display or table is missing, the curve turns back, or face and sender do not meet.
    """
    job = network.job
    sender, stage = job.heard(channel), job.input_of(channel)
    if (
        sender is None
        or stage is None
        or not (channel.scaling.table or stage.thermocouple_type)
        or not is_monotonic(sender.curve)
    ):
        return None
    try:
        span = shared_span(channel, sender)
    except BadInput:
        return None
    if at is not None and not span[0] <= at <= span[1]:
        return None
    true = np.array([at]) if at is not None else np.linspace(*span, SAMPLES)
    zero, one = (in_unit(v, channel.unit, sender.curve.y_unit) for v in (0.0, 1.0))
    per_unit = one - zero
    # The sender stands where the place puts it: all else is worked out there.
    port = job.port(channel.port)
    bias = port.bias if port else 0.0
    inner = np.clip(zero + (true + bias) * per_unit, *y_range(sender.curve))
    loop = loop_of(_mid_range(network, replace(state, key="run")), channel)
    chain = chain_of(channel, sender, stage, loop.wire_ohm, loop.ground_offset_v, cancels(job, channel))
    parts = Tolerances(
        sender.tolerance.x_pct,
        sender.tolerance.y,
        stage.circuit.pull_up_tolerance_pct,
        stage.circuit.reference_tolerance_pct,
        channel.scaling.decimals,
        per_unit * bias,
        stage.converter.adc_offset_lsb,
        stage.cold_junction_k,
    )
    found = budget(chain, parts, inner)
    terms = {name: term / per_unit for name, term in found.terms.items()}
    # Rounding is half the last digit of the face, in the channel's own unit.
    terms["rounding"] = np.full_like(true, 0.5 * 10.0**-channel.scaling.decimals)
    spreads = (*(spread / abs(per_unit) for spread in found.spreads[:-1]), terms["rounding"])
    return Budget(true, terms, spreads, found.converter_sign * np.sign(per_unit)), loop
