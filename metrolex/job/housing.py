"""What a display is like in the hand: its body, what holds it, what the driver looks at."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.intake import Limits, NonNegative

__all__ = ["FACES", "FaceKind", "Grip", "Housing", "Millimetres", "Screen"]

Millimetres = Annotated[float, Limits(above=0, high=2000)]
FaceKind = Literal["round", "bar", "figure", "lamp", "trend"]
#: Kinds of face as one says them.
FACES: dict[FaceKind, str] = {
    "round": "round, with a needle",
    "bar": "bar",
    "figure": "figures",
    "lamp": "lamp",
    "trend": "trend over the last minute",
}
Count = Annotated[int, Limits(low=0, high=64)]


@dataclass(frozen=True, slots=True)
class Housing:
    """The body of a display, mm. ``shape`` is '' while nobody has measured it; a round one is as high as it is wide.

    ``body_mm`` is what goes into the hole, ``bezel_mm`` what lies before it, ``depth_mm`` from the panel's face backwards.
    """

    shape: Literal["", "round", "square"] = ""
    body_mm: Millimetres | None = None
    body_high_mm: Millimetres | None = None
    bezel_mm: Millimetres | None = None
    bezel_high_mm: Millimetres | None = None
    depth_mm: Millimetres | None = None
    mass_g: Annotated[float, Limits(above=0, high=20000)] | None = None

    @property
    def body(self) -> tuple[float, float] | None:
        """Width and height of what goes into the hole; None while not known."""
        return _both(self.shape, self.body_mm, self.body_high_mm)

    @property
    def bezel(self) -> tuple[float, float] | None:
        """Width and height of what is seen; None while not known."""
        return _both(self.shape, self.bezel_mm, self.bezel_high_mm)


@dataclass(frozen=True, slots=True)
class Grip:
    """What holds it and what comes out behind: panels its clamp takes, the plug that is moulded on, the room plug and wires take."""

    grip_from_mm: NonNegative | None = None
    grip_to_mm: NonNegative | None = None
    plug_wide_mm: Millimetres | None = None
    plug_high_mm: Millimetres | None = None
    bend_mm: NonNegative = 0.0


@dataclass(frozen=True, slots=True)
class Screen:
    """What the driver looks at: its size, how many faces it takes on how many pages, which kinds, how large its largest figures are.

    ``lens``: 'clear' mirrors like glass, 'matt' scatters. ``light`` is the colour it glows in by night. ``warning_lamps`` are lamps in it that can be
    given a meaning, ``shift_lamps`` those over the engine speed. ``sweep_deg`` is how far a needle goes from its low to its high end.
    """

    screen_mm: Millimetres | None = None
    screen_high_mm: Millimetres | None = None
    columns: Annotated[int, Limits(low=1, high=12)] = 1
    rows: Annotated[int, Limits(low=1, high=12)] = 1
    holds_pages: Annotated[int, Limits(low=1, high=40)] = 1
    faces: tuple[FaceKind, ...] = ()
    figure_mm: Millimetres | None = None
    sweep_deg: Annotated[float, Limits(low=30, high=350)] = 240.0
    lens: Literal["", "clear", "matt"] = ""
    light: Literal["", "white", "amber", "green", "blue", "red"] = ""
    warning_lamps: Count = 0
    shift_lamps: Count = 0


def _both(shape: str, wide: float | None, high: float | None) -> tuple[float, float] | None:
    if not shape or wide is None:
        return None
    return (wide, wide if shape == "round" or high is None else high)
