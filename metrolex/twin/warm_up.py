"""A cold start, minute by minute: what should stand on the faces when, and when each is warm.

Each temperature goes from its cold to its warm value as a body of one time constant does (first-order lag); the constants stand in
points.toml (common practice, no source). What has none stands at its warm value.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from metrolex.job import Channel, State
from metrolex.scaling.reading import Shown
from metrolex.tables import load_table
from metrolex.twin.build import Network
from metrolex.twin.kept import once_per_circuit
from metrolex.twin.run import readings, solve

__all__ = ["MINUTES", "WarmUp", "warm_up"]

MINUTES = (0.0, 1.0, 2.0, 4.0, 7.0, 10.0, 15.0, 20.0, 30.0)
WARM_SHARE = 0.9  # of the way: then a fitter calls it warm
_RUNNING = State("run", "off", "running")


@dataclass(frozen=True, slots=True)
class WarmUp:
    """One channel through a cold start: its faces at MINUTES, and the minute it is warm (None: it does not warm up)."""

    channel: str
    shown: tuple[Shown, ...]
    true: tuple[float | None, ...]
    warm_min: float | None


@once_per_circuit
def warm_up(network: Network) -> tuple[WarmUp, ...]:
    """Every channel that warms up, by chain id, the quickest first."""
    job = network.job
    lag = {channel.id: tau for channel in job.channels if (tau := _tau_min(channel)) is not None}
    if not lag:
        return ()
    true = {minute: _true(job.channels, lag, minute) for minute in MINUTES}
    faces = {minute: readings(solve(network, _RUNNING, true=true[minute])) for minute in MINUTES}
    return tuple(
        WarmUp(
            chain.id,
            tuple(faces[minute][chain.id] for minute in MINUTES),
            tuple(true[minute].get(chain.channel) for minute in MINUTES),
            -lag[chain.channel] * math.log(1 - WARM_SHARE),
        )
        for chain in sorted(job.chains, key=lambda chain: lag.get(chain.channel, math.inf))
        if chain.channel in lag
    )


def _tau_min(channel: Channel) -> float | None:
    row = load_table("points")["warms"].get(channel.measurand)
    known = channel.true("cold start") is not None and channel.true("running") is not None
    return float(row["tau_min"]) if row and known else None


def _true(channels: tuple[Channel, ...], lag: dict[str, float], minute: float) -> dict[str, float]:
    found = {}
    for channel in channels:
        cold, warm = channel.true("cold start"), channel.true("running")
        if channel.id in lag and cold is not None and warm is not None:
            found[channel.id] = warm + (cold - warm) * math.exp(-minute / lag[channel.id])
    return found
