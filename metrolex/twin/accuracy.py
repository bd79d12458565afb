"""How true a reading is, in one figure: at the reading that matters, all parts together. Board, book and Error page say this one."""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.job import MeasuringChain, State
from metrolex.twin.build import Network
from metrolex.twin.error_budget import channel_budget
from metrolex.twin.kept import once_per_circuit

__all__ = ["Accuracy", "accuracy", "matters_at"]

_KEY_ON = State("run")


@dataclass(frozen=True, slots=True)
class Accuracy:
    """A reading ``at`` is within ``half`` of it, 95 times in 100; in the channel's unit."""

    at: float
    half: float


def matters_at(channel: MeasuringChain) -> float | None:
    """The reading that matters: where the driver must act, else the warm one."""
    levels = (channel.warn_high, channel.warn_low, channel.true_running)
    return next((level for level in levels if level is not None), None)


@once_per_circuit
def accuracy(network: Network, channel: MeasuringChain) -> Accuracy | None:
    """The figure for one channel; None while its table is assumed, not known, or does not reach so far, and for a gear, which is right or wrong."""
    at = matters_at(channel)
    if channel.scaling.assumed or channel.gears or at is None:
        return None
    found = channel_budget(network, _KEY_ON, channel, at)
    return Accuracy(at, float(abs(found[0].shift[0]) + found[0].half_95[0])) if found else None
