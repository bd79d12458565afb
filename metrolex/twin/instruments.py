"""A meter and a test lamp, hung on any two points of the twin.

Meter: 10 Mohm, as common digital meters (common practice, no source). Lamp: current of a tungsten filament
goes with the voltage to the power 0.55, light with the power 3.5 (textbook rerating exponents, from memory);
a cold filament has about a tenth of its hot resistance (common practice).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from metrolex.circuit import GROUND, Fault, Resistor
from metrolex.circuit.elements import Name
from metrolex.errors import BadInput
from metrolex.job import State
from metrolex.twin import addresses
from metrolex.twin.build import Network
from metrolex.twin.run import Solved, solve

__all__ = ["METER_OHM", "LampReading", "filament_ohm", "read_meter", "read_test_lamp"]

METER_OHM = 10e6
LAMP_NOMINAL_V = 12.0
CURRENT_EXPONENT = 0.55
LIGHT_EXPONENT = 3.5
COLD_RATIO = 0.1


#: Beside the same lamp straight at the battery.
Looks = Literal["bright", "weaker", "dim", "glows", "dark"]
_FROM: tuple[tuple[float, Looks], ...] = ((0.8, "bright"), (0.35, "weaker"), (0.08, "dim"), (0.002, "glows"))


@dataclass(frozen=True, slots=True)
class LampReading:
    """A test lamp between two points: the volts left across it, its current, its light beside the same lamp straight at the battery, how it looks."""

    volts: float
    current_a: float
    light_ratio: float
    looks: Looks
    solved: Solved


def read_meter(network: Network, state: State, red: Name, black: Name, faults: Sequence[Fault] = ()) -> float:
    """Volts a meter shows with red and black on two nodes. Raises BadInput for a node that is not there."""
    plain = solve(network, state, faults)
    _require(plain, red, "red")
    _require(plain, black, "black")
    meter = Resistor(addresses.instrument("meter"), red, black, METER_OHM)
    return solve(network, state, faults, extra=[meter]).solution.across(red, black)


def read_test_lamp(
    network: Network, state: State, a: Name, b: Name, watts: float, faults: Sequence[Fault] = ()
) -> LampReading:
    """A filament lamp of ``watts`` at 12 V between two nodes: it loads the leads, so a poor leg shows.

    Raises BadInput for a node that is not there.
    """
    plain = solve(network, state, faults)
    _require(plain, a, "red")
    _require(plain, b, "black")
    open_v, ohm = abs(plain.solution.across(a, b)), filament_ohm(LAMP_NOMINAL_V, watts)
    for _ in range(20):
        lamp = Resistor(
            addresses.instrument("test lamp"), a, b, ohm, f"a {watts:g} W filament at its solution"
        )
        solved = solve(network, state, faults, extra=[lamp])
        wanted = _ohm_behind(open_v, abs(solved.solution.across(a, b)), ohm, watts)
        if abs(wanted - ohm) <= 1e-9 * ohm:
            break
        ohm = wanted
    volts = abs(solved.solution.across(a, b))
    posts = abs(plain.across(addresses.BATTERY_POSITIVE, GROUND) or LAMP_NOMINAL_V)
    light = (volts / posts) ** LIGHT_EXPONENT
    looks: Looks = next((word for least, word in _FROM if light >= least), "dark")
    return LampReading(volts, volts / ohm, light, looks, solved)


def filament_ohm(volts: float, watts: float) -> float:
    """Resistance of a 12 V filament lamp at ``volts``, never below that of the cold filament, in ohm.

    >>> filament_ohm(12.0, 12.0)
    12.0
    """
    hot = LAMP_NOMINAL_V**2 / watts
    return float(max(hot * (volts / LAMP_NOMINAL_V) ** (1 - CURRENT_EXPONENT), hot * COLD_RATIO))


def _ohm_behind(open_v: float, loaded_v: float, ohm: float, watts: float) -> float:
    """Where the filament settles behind a source of ``open_v`` that ``ohm`` pulls down to ``loaded_v``.

    The circuit is linear as long as no display falls asleep, so this one step is nearly always the last.
    """
    inner = ohm * max(open_v / loaded_v - 1, 0.0) if loaded_v > 0 else 0.0
    for _ in range(200):
        wanted = filament_ohm(open_v * ohm / (ohm + inner), watts)
        if abs(wanted - ohm) <= 1e-12 * ohm:
            break
        ohm = (ohm * wanted) ** 0.5
    return ohm


def _require(solved: Solved, node: Name, field: str) -> None:
    if node not in solved.solution.potentials:
        raise BadInput(field, node, "the name of a node of the job", f"There is no node '{node!s:.60}'.")
