"""The first dip of a start: how low a display's supply falls when the starter bites, by a published profile."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from metrolex.findings import Finding
from metrolex.job import Display, Electrics, State
from metrolex.tables import load_table
from metrolex.twin import addresses
from metrolex.twin.build import Network
from metrolex.twin.run import solve

__all__ = ["StartProfile", "dip_at", "start_findings", "start_profile"]


@dataclass(frozen=True, slots=True)
class StartProfile:
    """Volts at the battery: the first dip and how long it lasts, then where it stands while the engine turns."""

    level: str
    dip_v: float
    dip_ms: float
    turns_v: float
    words: str


def start_profile(supply: Electrics) -> StartProfile | None:
    """The profile a vehicle's starts are held against (ISO 16750-2, starting profile), scaled to its nominal volts; None while nobody has said."""
    if not supply.starting.start_level:
        return None
    row, scale = load_table("starts")["levels"][supply.starting.start_level], supply.nominal_v / 12.0
    return StartProfile(
        supply.starting.start_level,
        row["dip_v"] * scale,
        float(row["dip_ms"]),
        row["turns_v"] * scale,
        row["words"],
    )


def dip_at(network: Network, display: Display) -> float | None:
    """Volts at a display's supply in the first dip: the battery's, less what is lost on the way while cranking. None where it has no feed then, or the start is not described."""
    supply, ground = display.pin_for("ignition"), display.pin_for("ground")
    if supply is None or ground is None:
        return None
    profile = start_profile(network.job.vehicle.electrics)
    if profile is None:
        return None
    crank = solve(network, State("crank"))
    at_pins = crank.across(addresses.pin_node(display, supply.id), addresses.pin_node(display, ground.id))
    battery = crank.volts(addresses.BATTERY_POSITIVE)
    if at_pins is None or not battery or at_pins < 0.5 * battery:
        return None  # its feed drops while cranking: said by itself
    return profile.dip_v * at_pins / battery


def start_findings(network: Network) -> Iterator[Finding]:
    """Displays that the first dip of a start switches off, though they are to live through it."""
    profile = start_profile(network.job.vehicle.electrics)
    if profile is None:
        return
    for display in network.job.displays:
        dip = dip_at(network, display)
        if (
            not display.supply.needs_crank
            or display.supply.own_battery
            or dip is None
            or dip >= display.supply.min_v
            or display.supply.rides_through_ms >= profile.dip_ms
        ):
            continue
        yield Finding(
            "caution",
            "dips_in_crank",
            display.id,
            f"When the starter bites the battery falls to {profile.dip_v:g} V for {profile.dip_ms:g} ms ({profile.words}): {display.name} restarts unless it rides through that.",
            f"{dip:.1f} V, needs {display.supply.min_v:g} V",
            "Ask its maker how long it rides through, or measure the dip; a small buffer in its supply helps.",
            "feeds",
        )
