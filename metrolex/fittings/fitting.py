"""A fitting: two ends, a length, and what else must be known to order it and screw it in."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from metrolex.errors import BadInput
from metrolex.fittings.connections import Connection, connection_called
from metrolex.fittings.joints import Gender
from metrolex.intake import Key, Limits, NonNegative, Text, Title

__all__ = ["End", "Fitting"]

Name = Annotated[str, Text(60)]


@dataclass(frozen=True, slots=True)
class End:
    """A connection with its gender, as it stands open."""

    connection: Connection
    gender: Gender

    def words(self) -> str:
        return f"{self.connection.name} {self.gender}"


@dataclass(frozen=True, slots=True)
class Fitting:
    """Two ends and the length it adds between them, in millimetres.

    Most have one male and one female end; a nipple has ``other_male``, a coupler ``other_female`` instead.
    ``spare_ports`` are mouths left over that want a plug. A fitting the stream runs through while the next one screws
    into its side (a sandwich plate) has ``rim_mm`` there, and ``stream_mm`` of free width behind the rim. ``cut_mm`` is what is cut out
    of a line for it.
    """

    name: Title
    male: Name = ""
    female: Name = ""
    length_mm: NonNegative = 0.0
    other_male: Name = ""
    other_female: Name = ""
    sort: Key = "adapter"
    spanner_mm: Annotated[float, Limits(low=3, high=80)] | None = None
    spare_ports: Annotated[int, Limits(low=0, high=6)] = 0
    insulates: bool = False
    rim_mm: Annotated[float, Limits(low=0.5, high=100)] | None = None
    stream_mm: Annotated[float, Limits(low=0.5, high=300)] | None = None
    cut_mm: Annotated[float, Limits(low=1, high=300)] | None = None

    def __post_init__(self) -> None:
        ends = [getattr(self, field) for field in _FIELDS if getattr(self, field)]
        if len(ends) != 2:
            missing = "female" if self.male else "male"
            raise BadInput(
                missing,
                None,
                "two ends: a male and a female, or two of one kind",
                f"'{self.name}' has {len(ends)} end{'s' if len(ends) != 1 else ''}; a fitting has two.",
            )
        for field in _FIELDS:
            if getattr(self, field):
                connection_called(getattr(self, field), field)

    @property
    def stream_inside(self) -> bool:
        """Whether the stream runs through it, past what screws into its side."""
        return self.sort == "sandwich plate" or self.stream_mm is not None

    @property
    def ends(self) -> tuple[End, End]:
        found = [
            End(connection_called(name), gender)
            for field, gender in _FIELDS.items()
            if (name := getattr(self, field))
        ]
        return found[0], found[1]


_FIELDS: dict[str, Gender] = {
    "male": "male",
    "other_male": "male",
    "female": "female",
    "other_female": "female",
}
