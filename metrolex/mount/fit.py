"""Whether a display fits its hole: body, bezel, depth with plug and bend, panel, grip of its clamp (plain geometry; margins are common practice, no source)."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.intake import Limits, NonNegative

__all__ = ["Fit", "Hole", "Moulded", "PlugSize", "fit_of"]

Size = Annotated[float, Limits(above=0, high=2000)]
#: Play up to here is taken up by the bezel's ring; more is packed, half of it on each side.
LOOSE_MM = 1.0
#: A bezel covers the edge of its hole by at least this all round.
COVER_MM = 1.0


@dataclass(frozen=True, slots=True)
class PlugSize:
    """A plug that is moulded on and must go through the hole, width and height across."""

    w_mm: Size
    h_mm: Size

    @property
    def diagonal_mm(self) -> float:
        """What a round hole must let through."""
        return math.hypot(self.w_mm, self.h_mm)


@dataclass(frozen=True, slots=True)
class Moulded:
    """A display as it lies in the hand: body behind the panel, its depth, bezel before it, the panels its clamp grips (None: it has none), plug and bend.

    ``bend_mm`` is what plug and wires take behind it.
    """

    body_mm: Size
    depth_mm: Size
    bezel_mm: Size
    grip_mm: tuple[float, float] | None = None
    plug: PlugSize | None = None
    bend_mm: NonNegative = 0.0

    def __post_init__(self) -> None:
        if self.grip_mm is not None and not 0 <= self.grip_mm[0] <= self.grip_mm[1]:
            raise BadInput("grip_mm", list(self.grip_mm), "the thinnest panel it grips, then the thickest")


@dataclass(frozen=True, slots=True)
class Hole:
    """Where it goes: the hole, the room behind it to the first thing in the way, the panel's thickness."""

    hole_mm: Size
    room_mm: NonNegative
    panel_mm: NonNegative


@dataclass(frozen=True, slots=True)
class Fit:
    """How a display sits: ``play_mm`` negative where the hole is too small; ``packing_mm`` each side; ``plug_passes`` None where there is no plug."""

    play_mm: float
    packing_mm: float
    depth_left_mm: float
    plug_passes: bool | None
    findings: tuple[Finding, ...]

    @property
    def fits(self) -> bool:
        """Whether nothing stops it."""
        return not any(finding.grade == "stop" for finding in self.findings)


def fit_of(display: Moulded, hole: Hole, subject: str = "display") -> Fit:
    """The fit of a display in a hole, with what is in the way."""
    play = hole.hole_mm - display.body_mm
    packing = play / 2 if play > LOOSE_MM else 0.0
    left = hole.room_mm - display.depth_mm - display.bend_mm
    passes = None if display.plug is None else display.plug.diagonal_mm <= hole.hole_mm
    return Fit(play, packing, left, passes, tuple(_findings(display, hole, play, left, subject)))


def _findings(display: Moulded, hole: Hole, play: float, left: float, subject: str) -> Iterator[Finding]:
    if play < 0:
        yield Finding(
            "stop",
            "hole_small",
            subject,
            f"The body is {-play:g} mm wider than the hole.",
            f"{display.body_mm:g} mm in {hole.hole_mm:g} mm",
            "Open the hole, or choose a smaller one.",
        )
    if display.bezel_mm <= hole.hole_mm:
        yield Finding(
            "stop",
            "bezel_small",
            subject,
            "The bezel falls through the hole.",
            f"{display.bezel_mm:g} mm over {hole.hole_mm:g} mm",
            "A ring or a plate between them.",
        )
    elif display.bezel_mm < hole.hole_mm + 2 * COVER_MM:
        yield Finding(
            "caution",
            "bezel_narrow",
            subject,
            "The bezel hardly covers the edge of the hole.",
            f"{(display.bezel_mm - hole.hole_mm) / 2:.1f} mm each side",
            "Centre it by packing; deburr and paint the edge.",
        )
    if left < 0:
        yield Finding(
            "stop",
            "no_depth",
            subject,
            "Body, plug and bend of the wires are deeper than the room behind.",
            f"{-left:g} mm too deep",
            "A cup or a spacer ring that brings it forward, or a plug with a side outlet.",
        )
    if display.grip_mm is not None and not display.grip_mm[0] <= hole.panel_mm <= display.grip_mm[1]:
        low, high = display.grip_mm
        thin = hole.panel_mm < low
        yield Finding(
            "stop",
            "grip",
            subject,
            f"The clamp does not hold a panel so {'thin' if thin else 'thick'}.",
            f"{hole.panel_mm:g} mm, it grips {low:g} to {high:g} mm",
            "A ring behind the panel." if thin else "Relieve the panel from behind, or bond it.",
        )
    if display.plug is not None and display.plug.diagonal_mm > hole.hole_mm:
        yield Finding(
            "caution",
            "plug",
            subject,
            "The plug does not pass the hole: its lead cannot be drawn through from the front.",
            f"{display.plug.diagonal_mm:.1f} mm across in {hole.hole_mm:g} mm",
            "Plug it in behind the panel, or take its pins out, a photo of their order first.",
        )
    if play > LOOSE_MM:
        yield Finding(
            "note",
            "loose",
            subject,
            "It sits loose in its hole.",
            f"{play:g} mm of play",
            f"Pack it with {play / 2:.1f} mm of tape or foam all round.",
        )
