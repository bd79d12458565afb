"""Where senders go in: flow paths of the vehicle with what lies along them, and places on them.

Distances are metres along the path in the direction of flow, from its start.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.fittings.fitting import Fitting
from metrolex.intake import AnyNumber, Key, Limits, NonNegative, Note, Positive, Title
from metrolex.job.words import Word

__all__ = [
    "Entry",
    "FlowPath",
    "Material",
    "PathKind",
    "PathPart",
    "Port",
    "PortGround",
    "Spot",
    "Stretch",
    "Tread",
    "Wall",
    "check_paths",
    "downstream",
]

LONGEST_PATH_M = 200.0  # longer is a slip of the pen, and cannot be drawn
PathKind = Literal["exhaust", "intake", "coolant", "engine_oil", "gearbox_oil", "fuel", "water"]
Material = Literal["", "cast_iron", "steel", "aluminium", "sheet", "brass", "plastic", "rubber"]
PartKind = Literal[
    "head_port",
    "collector",
    "divider",
    "turbine",
    "catalyst",
    "silencer",
    "open_end",
    "filter",
    "compressor",
    "cooler",
    "throttle",
    "plenum",
    "sensor",
    "thermostat",
    "radiator",
    "pump",
    "high_point",
    "head",
    "gallery",
    "sump",
    "pan",
    "test_port",
    "converter",
    "tank",
    "lift_pump",
    "high_pressure_pump",
    "rail",
    "regulator",
    "carburettor",
    "outlet",
    "other",
]
#: How a place is opened, from leaving no trace to cutting metal.
Entry = Literal["existing", "replaces", "held_on", "cut_hose", "cut_line", "drilled", "welded"]


@dataclass(frozen=True, slots=True)
class PathPart:
    """A thing on a path: where it begins, how long it is (0: a point)."""

    kind: PartKind
    at_m: NonNegative
    length_m: NonNegative = 0.0
    name: Word = ""

    @property
    def end_m(self) -> float:
        return self.at_m + self.length_m


@dataclass(frozen=True, slots=True)
class Stretch:
    """What the path is made of from one distance to another."""

    from_m: NonNegative
    to_m: Positive
    name: Word = ""
    material: Material = ""
    wall_mm: Positive | None = None
    bore_mm: Positive | None = None
    straight: bool = True
    peak_degc: Annotated[float, Limits(low=-60, high=1200)] | None = None

    def __post_init__(self) -> None:
        if self.to_m <= self.from_m:
            raise BadInput("to_m", self.to_m, f"further along than its start, {self.from_m:g} m")


@dataclass(frozen=True, slots=True)
class FlowPath:
    """A way of gas, air, coolant, oil or fuel through the vehicle.

    ``length_m`` None: no scale set yet. ``into`` is the path it goes on in (two banks into one pipe).
    ``measured`` is False as long as distances are a template's.
    """

    id: Key
    name: Title
    kind: PathKind
    length_m: Annotated[float, Limits(above=0, high=LONGEST_PATH_M)] | None = None
    parts: tuple[PathPart, ...] = ()
    stretches: tuple[Stretch, ...] = ()
    into: Key | None = None
    measured: bool = False

    def __post_init__(self) -> None:
        if self.length_m is None:
            return
        ends = [(f"parts[{i}]", part.end_m) for i, part in enumerate(self.parts)]
        ends += [(f"stretches[{i}]", stretch.to_m) for i, stretch in enumerate(self.stretches)]
        for place, end in ends:
            if end > self.length_m + 1e-9:
                raise BadInput(
                    place,
                    end,
                    f"within the path, 0 to {self.length_m:g} m",
                    f"{end:g} m is beyond the end of {self.name}, {self.length_m:g} m.",
                )

    def first(self, kind: str) -> PathPart | None:
        """The first part of a kind along the flow, None where there is none."""
        return min((p for p in self.parts if p.kind == kind), key=lambda p: p.at_m, default=None)

    def last(self, kind: str) -> PathPart | None:
        """The last part of a kind along the flow, None where there is none."""
        return max((p for p in self.parts if p.kind == kind), key=lambda p: p.at_m, default=None)

    def stretch_at(self, at_m: float) -> Stretch | None:
        """The stretch under a distance, None where nothing is known of it."""
        return next((s for s in self.stretches if s.from_m <= at_m <= s.to_m), None)


@dataclass(frozen=True, slots=True)
class PortGround:
    """How a sender's body finds ground there. ``grounded``: metal all the way to the engine or body."""

    grounded: bool = True
    ground_at: Literal["engine", "body"] = "engine"
    thread_ohm: Positive = 0.05


@dataclass(frozen=True, slots=True)
class Wall:
    """What is drilled, cut or screwed into; what is left open is taken from the stretch of path under it."""

    material: Material = ""
    wall_mm: Positive | None = None
    bore_mm: Positive | None = None
    straight_mm: Positive | None = None
    peak_degc: Annotated[float, Limits(low=-60, high=1200)] | None = None


@dataclass(frozen=True, slots=True)
class Spot:
    """Where a place lies and how one gets at it: distance along a path, the way it is opened, the room about it.

    ``room_mm`` is what is free above the mouth, up to hose, bonnet or shield.
    """

    path: Key | None = None
    at_m: NonNegative | None = None
    entry: Entry | None = None
    wall: Wall = field(default=Wall())
    access: Annotated[int, Limits(low=0, high=4)] | None = None
    tip_angle_deg: Annotated[float, Limits(low=-90, high=90)] | None = None
    room_mm: Positive | None = None
    hangs_lowest: bool = False
    moving_near: bool = False


@dataclass(frozen=True, slots=True)
class Tread:
    """What a sensor that looks from a distance looks at: a tread this wide, this far away."""

    distance_mm: Positive | None = None
    target_mm: Positive | None = None


@dataclass(frozen=True, slots=True)
class Port:
    """A place where a sender goes in, chosen or only considered.

    ``channel`` is the channel it is considered for, ``kind`` a usual place of ports.toml or 'own'. ``stack`` is the chain
    of fittings chosen, port outward. ``bias`` is what the reading differs from what one wants to know, in the channel's unit.
    """

    id: Key
    name: Title
    kind: Key
    channel: Key | None = None
    thread: Word = ""
    way_in: Word = ""
    stack: tuple[Fitting, ...] = ()
    spot: Spot = field(default=Spot())
    ground: PortGround = field(default=PortGround())
    tread: Tread = field(default=Tread())
    bias: AnyNumber = 0.0
    why: Note = ""


def downstream(paths: Sequence[FlowPath], path: FlowPath) -> list[FlowPath]:
    """The paths a path goes on in, nearest first. Raises BadInput for a path that comes back to itself."""
    by_id = {p.id: p for p in paths}
    found: list[FlowPath] = []
    here = path
    while here.into is not None:
        nxt = by_id.get(here.into)
        if nxt is None:
            raise BadInput("into", here.into, ", ".join(by_id))
        if nxt.id == path.id or nxt in found:
            raise BadInput(
                "into",
                here.into,
                "a path further down",
                f"{path.name} would come back to itself through {nxt.name}.",
            )
        found.append(nxt)
        here = nxt
    return found


def check_paths(paths: Iterable[FlowPath]) -> None:
    """Raises BadInput (``paths[i].into``) for a loop or an unknown path."""
    known = list(paths)
    for i, path in enumerate(known):
        try:
            downstream(known, path)
        except BadInput as fault:
            raise BadInput(f"paths[{i}].into", path.into, fault.allowed, fault.message) from None
