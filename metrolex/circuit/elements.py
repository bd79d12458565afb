"""The elements of a network, between nodes; the twin gives both their addresses."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass

from metrolex.errors import BadInput

#: What an element or a node is called: anything that can be a key and prints itself.
Name = Hashable

__all__ = ["CurrentSource", "Element", "Name", "Resistor", "VoltageFollower", "VoltageSource"]


@dataclass(frozen=True, slots=True)
class Resistor:
    """``ohm`` between nodes ``a`` and ``b``; its current counts positive from a to b."""

    name: Name
    a: Name
    b: Name
    ohm: float
    remark: str = ""

    def __post_init__(self) -> None:
        if not self.ohm > 0:
            raise BadInput(str(self.name), self.ohm, "a resistance above 0 ohm")


@dataclass(frozen=True, slots=True)
class VoltageSource:
    """``volt`` from ``minus`` up to ``plus``; its current counts positive out of ``plus``."""

    name: Name
    plus: Name
    minus: Name
    volt: float


@dataclass(frozen=True, slots=True)
class CurrentSource:
    """``ampere`` drawn out of ``a`` and put into ``b`` (a load at constant current)."""

    name: Name
    a: Name
    b: Name
    ampere: float


@dataclass(frozen=True, slots=True)
class VoltageFollower:
    """``plus`` stands ``ratio`` times the voltage (``sense_plus`` - ``sense_minus``) above ``minus``.

    A ratiometric sender or a dimmer: no current is drawn from the sensed nodes.
    """

    name: Name
    plus: Name
    minus: Name
    sense_plus: Name
    sense_minus: Name
    ratio: float


Element = Resistor | VoltageSource | CurrentSource | VoltageFollower


def value_of(element: Element) -> float:
    """The ohms, volts, amperes or ratio of an element."""
    if isinstance(element, Resistor):
        return element.ohm
    if isinstance(element, VoltageSource):
        return element.volt
    return element.ampere if isinstance(element, CurrentSource) else element.ratio
