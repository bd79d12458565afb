"""Why the battery does not read here what it reads at rest, in a sentence."""

from __future__ import annotations

from metrolex.circuit import GROUND
from metrolex.twin import addresses
from metrolex.twin.run import Solved

__all__ = ["battery_said"]

SAME_V = 0.02  # what a meter hardly shows is not explained


def battery_said(solved: Solved) -> str:
    """The volts of the brief beside those of this state, and what takes the difference; '' where there is none, and while it charges."""
    electrics = solved.network.job.vehicle.electrics
    volts = solved.across(addresses.BATTERY_POSITIVE, GROUND)
    if volts is None:
        return ""
    if solved.state.running:  # the alternator holds the posts at what was read
        return ""
    gap = electrics.rest_v - volts
    if gap < SAME_V:
        return ""
    amps = gap / electrics.battery.battery_ohm
    what = "the starter and all that is on" if solved.state.key == "crank" else "what is on"
    return (
        f"{volts:.2f} V from post to post, {electrics.rest_v:.1f} V at rest: {what} draws {amps:.0f} A, "
        f"and inside the battery that takes {gap:.2f} V."
    )
