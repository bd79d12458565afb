"""How the fuel is fed, and what pressure stands where. Data of ``data/fuel_systems.toml`` (common practice, no source)."""

from __future__ import annotations

import functools
from dataclasses import dataclass

from metrolex.tables import load_table

__all__ = ["FuelSystem", "fuel_systems", "may_be_high_pressure", "system_of"]


@dataclass(frozen=True, slots=True)
class FuelSystem:
    """One way to feed fuel. Pressures in bar over the air: ``supply_bar`` low to high in the low-pressure line, its usual
    value and the level to warn at; ``high_bar`` behind the high-pressure pump, None without one."""

    key: str
    name: str
    words: str
    supply_bar: tuple[float, float]
    usual_bar: float
    warn_low_bar: float
    high_bar: tuple[float, float] | None = None


@functools.cache
def fuel_systems() -> dict[str, FuelSystem]:
    """Every system by its key, the gentlest first."""
    return {
        key: FuelSystem(
            key,
            row["name"],
            row["words"],
            (row["supply"][0], row["supply"][1]),
            row["usual"],
            row["warn_low"],
            (row["high"][0], row["high"][1]) if "high" in row else None,
        )
        for key, row in load_table("fuel_systems").items()
    }


def system_of(fuel_feed: str) -> FuelSystem | None:
    """The system a vehicle's ``fuel_feed`` names; None while it is not said, or says only 'injection'.

    >>> system_of('carburettor').supply_bar, system_of('injection') is None
    ((0.2, 0.5), True)
    """
    return fuel_systems().get(fuel_feed)


def may_be_high_pressure(fuel: str, fuel_feed: str) -> bool:
    """Whether a line of this vehicle may carry hundreds of bar for all that is known: the unknown counts as yes.

    >>> may_be_high_pressure('petrol', 'port_injection'), may_be_high_pressure('diesel', ''), may_be_high_pressure('petrol', 'injection')
    (False, True, True)
    """
    system = system_of(fuel_feed)
    return system.high_bar is not None if system else fuel not in ("gas", "propane", "electric")
