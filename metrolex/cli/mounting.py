"""Command line: mount, sight."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any

from metrolex.cli.calculation import Calculation, findings_out
from metrolex.errors import BadInput
from metrolex.intake import Limits, NonNegative
from metrolex.mount.fit import Hole, Moulded, PlugSize, fit_of
from metrolex.mount.sight import GOOD, arcmin_of, character_for, grade_of, hidden_mm

__all__ = ["CALCULATIONS", "MountInput", "SightInput"]

Size = Annotated[float, Limits(above=0, high=2000)]
Millimetre = Annotated[float, Limits(low=-10_000, high=10_000)]
Pair = tuple[Millimetre, Millimetre]


@dataclass(frozen=True, slots=True)
class MountInput:
    """A display and the hole it goes into, mm."""

    body_mm: Size
    depth_mm: Size
    bezel_mm: Size
    hole_mm: Size
    room_mm: NonNegative
    panel_mm: NonNegative
    grip_mm: tuple[NonNegative, NonNegative] | None = None
    plug: PlugSize | None = None
    bend_mm: NonNegative = 0.0


def run_mount(asked: MountInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Whether it fits, its play, its packing, the depth left."""
    display = Moulded(asked.body_mm, asked.depth_mm, asked.bezel_mm, asked.grip_mm, asked.plug, asked.bend_mm)
    found = fit_of(display, Hole(asked.hole_mm, asked.room_mm, asked.panel_mm))
    return {
        "fits": found.fits,
        "play_mm": found.play_mm,
        "packing_mm": found.packing_mm,
        "depth_left_mm": found.depth_left_mm,
        "plug_passes": found.plug_passes,
        "findings": findings_out(found.findings),
    }


@dataclass(frozen=True, slots=True)
class SightInput:
    """A character at a distance, and the eye, the rim and the display from the side: x forward, y up, mm."""

    distance_mm: Annotated[float, Limits(above=0, high=20_000)]
    character_mm: Annotated[float, Limits(above=0, high=1000)] | None = None
    arcmin: Annotated[float, Limits(above=0, high=600)] | None = None
    eye: Pair | None = None
    rim: tuple[Pair, Pair] | None = None
    display: tuple[Pair, Pair] | None = None

    def __post_init__(self) -> None:
        if (self.character_mm is None) == (self.arcmin is None):
            raise BadInput("character_mm", None, "a character's height or an angle, one of them")
        given = [self.eye, self.rim, self.display]
        if any(one is not None for one in given) and any(one is None for one in given):
            raise BadInput("rim", None, "eye, rim and display together, or none of them")


def run_sight(asked: SightInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """The angle, the height it takes, the grade, what the rim hides."""
    wanted = GOOD if asked.arcmin is None else asked.arcmin
    needed = character_for(wanted, asked.distance_mm)
    seen = wanted if asked.character_mm is None else arcmin_of(asked.character_mm, asked.distance_mm)
    hidden = None
    if asked.eye is not None and asked.rim is not None and asked.display is not None:
        hidden = hidden_mm(asked.eye, asked.rim, asked.display)
    return {
        "arcmin": seen,
        "character_mm_needed": needed,
        "grade": grade_of(seen),
        "hidden_mm": hidden,
        "findings": [],
    }


CALCULATIONS = {
    "mount": Calculation(
        MountInput,
        run_mount,
        {
            "body_mm": 51.5,
            "depth_mm": 42,
            "bezel_mm": 58,
            "hole_mm": 53,
            "room_mm": 80,
            "panel_mm": 3,
            "grip_mm": [1, 12],
            "plug": {"w_mm": 18, "h_mm": 11},
            "bend_mm": 25,
        },
    ),
    "sight": Calculation(
        SightInput,
        run_sight,
        {
            "distance_mm": 720,
            "character_mm": 4.5,
            "eye": [0, 0],
            "rim": [[420, -120], [430, -95]],
            "display": [[700, -230], [715, -140]],
        },
    ),
}
