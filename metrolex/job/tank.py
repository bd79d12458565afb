"""The fuel tank behind a level channel."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from metrolex.errors import BadInput
from metrolex.fuel.tank import Shape
from metrolex.intake import Limits, NonNegative, Positive

__all__ = ["Filling", "Tank"]

Metres = Annotated[float, Limits(above=0, high=10)]


@dataclass(frozen=True, slots=True)
class Filling:
    """What the sender read with known litres in the tank."""

    litres: NonNegative
    ohm: NonNegative


@dataclass(frozen=True, slots=True)
class Tank:
    """What the tank holds, its shape, what its sender reads empty and full, and how it was dipped.

    ``reserve_l`` is what is left when the lamp comes on. ``float_ahead_m`` is the float ahead of the tank's middle,
    ``length_m`` and ``height_m`` its inner sizes, for the slope.
    """

    capacity_l: Positive
    shape: Shape = "box"
    empty_ohm: NonNegative | None = None
    full_ohm: NonNegative | None = None
    fillings: tuple[Filling, ...] = ()
    reserve_l: NonNegative = 0.0
    damping_s: Annotated[float, Limits(low=0, high=120)] = 0.0
    float_ahead_m: Annotated[float, Limits(low=-5, high=5)] = 0.0
    length_m: Metres | None = None
    height_m: Metres | None = None

    def __post_init__(self) -> None:
        if self.reserve_l >= self.capacity_l:
            raise BadInput("reserve_l", self.reserve_l, f"less than the tank holds, {self.capacity_l:g} l")
        if self.empty_ohm is not None and self.empty_ohm == self.full_ohm:
            raise BadInput(
                "full_ohm", self.full_ohm, f"ohms other than the {self.empty_ohm:g} of an empty tank"
            )
        for i, filling in enumerate(self.fillings):
            if filling.litres > self.capacity_l * 1.0001:
                raise BadInput(
                    f"fillings[{i}].litres",
                    filling.litres,
                    f"no more than the tank holds, {self.capacity_l:g} l",
                )
