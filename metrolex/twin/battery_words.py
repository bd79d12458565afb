"""Why the battery does not read here what it reads at rest, in a sentence."""

from __future__ import annotations

from metrolex.circuit import GROUND
from metrolex.twin import addresses
from metrolex.twin.run import Solved

__all__ = ["battery_said"]

SAME_V = 0.02  # what a meter hardly shows is not explained


def battery_said(solved: Solved) -> str:
    """At rest, charged or cranked: the volts of the brief beside those of this state and what takes the difference; '' where there is none."""
    electrics = solved.network.job.vehicle.electrics
    volts = solved.across(addresses.BATTERY_POSITIVE, GROUND)
    if volts is None:
        return ""
    if solved.state.running:
        gap = electrics.charging_v - volts
        if abs(gap) < SAME_V:
            return ""
        return (
            f"{volts:.2f} V from post to post: the alternator holds {electrics.charging_v:.1f} V, "
            f"and {abs(gap):.2f} V {'stays in the charge lead' if gap > 0 else 'come on top of what was read'}."
        )
    gap = electrics.rest_v - volts
    if gap < SAME_V:
        return ""
    amps = gap / electrics.battery.battery_ohm
    what = "the starter and all that is on" if solved.state.key == "crank" else "what is on"
    return (
        f"{volts:.2f} V from post to post, {electrics.rest_v:.1f} V at rest: {what} draws {amps:.0f} A, "
        f"and inside the battery that takes {gap:.2f} V."
    )
