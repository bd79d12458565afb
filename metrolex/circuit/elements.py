"""The elements of a network. Names and nodes are plain words ('wire W4', 'gauge 2 pin 5 signal')."""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.errors import BadInput

__all__ = ["CurrentSource", "Element", "Resistor", "VoltageFollower", "VoltageSource"]


@dataclass(frozen=True, slots=True)
class Resistor:
    """``ohm`` between nodes ``a`` and ``b``; its current counts positive from a to b."""

    name: str
    a: str
    b: str
    ohm: float
    remark: str = ""

    def __post_init__(self) -> None:
        if not self.ohm > 0:
            raise BadInput(self.name, self.ohm, "a resistance above 0 ohm")


@dataclass(frozen=True, slots=True)
class VoltageSource:
    """``volt`` from ``minus`` up to ``plus``; its current counts positive out of ``plus``."""

    name: str
    plus: str
    minus: str
    volt: float


@dataclass(frozen=True, slots=True)
class CurrentSource:
    """``ampere`` drawn out of ``a`` and put into ``b`` (a load at constant current)."""

    name: str
    a: str
    b: str
    ampere: float


@dataclass(frozen=True, slots=True)
class VoltageFollower:
    """``plus`` stands ``ratio`` times the voltage (``sense_plus`` - ``sense_minus``) above ``minus``.

    A ratiometric sender or a dimmer: no current is drawn from the sensed nodes.
    """

    name: str
    plus: str
    minus: str
    sense_plus: str
    sense_minus: str
    ratio: float


Element = Resistor | VoltageSource | CurrentSource | VoltageFollower
