"""Where displays go: the dash as it is seen from the seat, what is in it already, each display in its place there.

All points are millimetres in the plane of the panel: x to the driver's right, y up, from the point the fitter measures from.
What stands before the panel is measured with a tape from that same point: back towards the driver, up, to the right.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.intake import Key, Limits, NonNegative, Title
from metrolex.job.housing import Millimetres
from metrolex.job.words import Word

__all__ = [
    "RANKS",
    "Eye",
    "Fixture",
    "Glass",
    "Mounting",
    "PanelHole",
    "Rank",
    "Site",
    "SiteKind",
    "Steering",
]

SiteKind = Literal["dash", "binnacle", "pillar", "column", "console", "handlebar"]
Coordinate = Annotated[float, Limits(low=-3000, high=3000)]
Spot = tuple[Coordinate, Coordinate]
Rank = Literal["seen", "reached", "free", "covered"]
#: How a part of the dash counts, in words.
RANKS: dict[Rank, str] = {
    "seen": "must be seen",
    "reached": "must be reached",
    "free": "must stay free",
    "covered": "may be covered",
}


@dataclass(frozen=True, slots=True)
class Eye:
    """The driver's eyes, between both: back from the point, up and to the right of it.

    ``driver`` 'one': measured with the driver in the seat; 'any': whoever drives, so all of the ellipse counts.
    """

    eye_back_mm: Annotated[float, Limits(low=50, high=3000)] = 680.0
    eye_up_mm: Coordinate = 330.0
    eye_right_mm: Coordinate = 0.0
    driver: Literal["one", "any"] = "any"


@dataclass(frozen=True, slots=True)
class Steering:
    """The wheel or the bar between eye and panel; '' where nothing is.

    ``hub_…`` is its middle; ``across_mm`` its outer diameter, or the width of the bar; ``thick_mm`` of rim or bar; ``rake_deg`` how far the wheel leans
    from upright, top forward; ``spokes_deg`` where its spokes stand straight ahead (0 right, 90 up); ``turned_deg`` how far it is turned while one reads.
    """

    between: Literal["", "wheel", "bar"] = ""
    hub_back_mm: Coordinate = 330.0
    hub_up_mm: Coordinate = 40.0
    hub_right_mm: Coordinate = 0.0
    across_mm: Annotated[float, Limits(low=100, high=1500)] = 380.0
    thick_mm: Annotated[float, Limits(low=5, high=120)] = 30.0
    rake_deg: Annotated[float, Limits(low=-10, high=90)] = 25.0
    spokes_deg: tuple[Annotated[float, Limits(low=-360, high=360)], ...] = ()
    spoke_mm: Annotated[float, Limits(low=5, high=200)] = 40.0
    turned_deg: Annotated[float, Limits(low=0, high=180)] = 15.0


@dataclass(frozen=True, slots=True)
class Glass:
    """What lets light in: the windscreen's rake from level and how far before the panel it stands at the height of the point (None: none there).

    ``body`` 'open': sky all round. ``hood``: a hood keeps the panel's light off the windscreen. ``latitude_deg``: where the vehicle is used.
    """

    body: Literal["closed", "open"] = "closed"
    screen_rake_deg: Annotated[float, Limits(low=10, high=90)] | None = None
    screen_ahead_mm: Annotated[float, Limits(low=0, high=3000)] | None = None
    hood: bool = False
    latitude_deg: Annotated[float, Limits(low=-90, high=90)] | None = None


@dataclass(frozen=True, slots=True)
class Site:
    """A dash, pillar, column, console, handlebar or binnacle as the driver sees it.

    ``outline`` goes round it. ``tilt_deg``: its top leans away from the driver; ``turned_right_deg``: it faces that far to the right of straight back.
    ``made_of`` is a material of holds.toml. ``measured``: its figures are of this vehicle, not those one begins with.
    """

    id: Key
    name: Title
    kind: SiteKind
    outline: tuple[Spot, ...]
    tilt_deg: Annotated[float, Limits(low=-30, high=90)] = 0.0
    turned_right_deg: Annotated[float, Limits(low=-80, high=80)] = 0.0
    made_of: Word = ""
    measured: bool = False
    airbag: Literal["", "none", "there"] = ""
    eye: Eye = field(default=Eye())
    steering: Steering = field(default=Steering())
    glass: Glass = field(default=Glass())

    def __post_init__(self) -> None:
        crossing = _crossing(self.outline)
        if len(self.outline) < 3:
            raise BadInput("outline", len(self.outline), "three points or more")
        if crossing is not None:
            raise BadInput(
                "outline",
                list(map(list, self.outline)),
                "points once round it",
                f"The outline crosses itself: its side after point {crossing[0]} meets the one after point {crossing[1]}.",
            )


@dataclass(frozen=True, slots=True)
class Fixture:
    """Something that is in the dash already, by its middle and its size; ``disc`` where it is round.

    ``function`` is a key of cluster.toml where the old cluster's inventory lists it too.
    """

    id: Key
    site: Key
    name: Title
    kind: Literal["instrument", "tell-tale", "switch", "vent", "airbag", "seam", "other"]
    rank: Rank
    x: Coordinate
    y: Coordinate
    wide_mm: Millimetres
    high_mm: Millimetres
    disc: bool = False
    function: Word = ""


@dataclass(frozen=True, slots=True)
class PanelHole:
    """The hole, the panel and the room behind it, as measured; None while nobody has. A hole not given is made to measure.

    ``packed_mm``: what is wound or laid round the body.
    """

    hole_mm: Millimetres | None = None
    hole_high_mm: Millimetres | None = None
    room_mm: NonNegative | None = None
    panel_mm: NonNegative | None = None
    packed_mm: NonNegative = 0.0


@dataclass(frozen=True, slots=True)
class Mounting:
    """A display in its place: the middle of its bezel, how far that stands before the panel, what it looks to.

    ``turn_deg``: turned clockwise in its hole; ``up_deg`` and ``right_deg``: its face aimed up and to the right of the panel's own direction.
    ``pod`` is the pod it shares with others; ``held_by`` ways of holding of holds.toml.
    """

    id: Key
    display: Key
    site: Key
    x: Coordinate = 0.0
    y: Coordinate = 0.0
    stands_mm: Annotated[float, Limits(low=0, high=300)] = 8.0
    turn_deg: Annotated[float, Limits(low=-180, high=180)] = 0.0
    up_deg: Annotated[float, Limits(low=-60, high=60)] = 0.0
    right_deg: Annotated[float, Limits(low=-60, high=60)] = 0.0
    pod: Word = ""
    hole: PanelHole = field(default=PanelHole())
    held_by: tuple[Word, ...] = ()


def _crossing(outline: tuple[Spot, ...]) -> tuple[int, int] | None:
    """The first two sides of a closed outline that cross or lie on one another, by the number of the point they begin at."""
    sides = [(outline[i], outline[(i + 1) % len(outline)]) for i in range(len(outline))]
    for i, (a, b) in enumerate(sides):
        if a == b:
            return i + 1, i + 2
        for j in range(i + 1, len(sides)):
            beside = j == i + 1 or (i == 0 and j == len(sides) - 1)
            if not beside and _meet(a, b, *sides[j]):
                return i + 1, j + 1
    return None


def _meet(a: Spot, b: Spot, c: Spot, d: Spot) -> bool:
    turns = (_turn(a, b, c), _turn(a, b, d), _turn(c, d, a), _turn(c, d, b))
    if turns[0] * turns[1] < 0 and turns[2] * turns[3] < 0:
        return True
    ends = ((a, b, c), (a, b, d), (c, d, a), (c, d, b))
    return any(turn == 0 and _within(*end) for turn, end in zip(turns, ends, strict=True))


def _turn(a: Spot, b: Spot, c: Spot) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])


def _within(a: Spot, b: Spot, c: Spot) -> bool:
    return min(a[0], b[0]) <= c[0] <= max(a[0], b[0]) and min(a[1], b[1]) <= c[1] <= max(a[1], b[1])
