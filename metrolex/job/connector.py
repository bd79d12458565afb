"""Connectors as they lie in the hand: cavities by row and column, seen from one side."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.errors import BadInput
from metrolex.intake import Key, Limits, Title
from metrolex.job.words import Word

__all__ = ["Cavity", "Connector"]

Count = Annotated[int, Limits(low=1, high=40)]


@dataclass(frozen=True, slots=True)
class Cavity:
    """One place in a connector: its number, where it stands, the wire in it.

    ``function`` is a key of functions.toml or a word; ``switched`` what the wire is joined to when it acts; a wire may have two stripes.
    """

    pin: Key
    row: Count
    column: Count
    colour: Word = ""
    stripe: Word = ""
    stripe_2: Word = ""
    function: Word = ""
    switched: Literal["", "12 V", "ground"] = ""

    @property
    def code(self) -> str:
        """Its colour as it is written, with its stripes: 'BU/WH/RD'; '' while none is said."""
        return "/".join(part for part in (self.colour, self.stripe, self.stripe_2) if part)


@dataclass(frozen=True, slots=True)
class Connector:
    """A plug of the vehicle, or of one display of the job, drawn as seen from ``view``."""

    id: Key
    name: Title
    display: Key | None = None
    view: Literal["wire side", "mating side"] = "wire side"
    cavities: tuple[Cavity, ...] = ()
    source: Word = ""
    proved: bool = False

    def __post_init__(self) -> None:
        seen: set[str] = set()
        places: set[tuple[int, int]] = set()
        for i, cavity in enumerate(self.cavities):
            if cavity.pin in seen:
                raise BadInput(
                    f"cavities[{i}].pin",
                    cavity.pin,
                    "each number once",
                    f"Pin {cavity.pin} stands twice in {self.name}.",
                )
            if (cavity.row, cavity.column) in places:
                raise BadInput(
                    f"cavities[{i}].column",
                    cavity.column,
                    "a free place",
                    f"Pin {cavity.pin} would lie on another one: row {cavity.row}, column {cavity.column}.",
                )
            seen.add(cavity.pin)
            places.add((cavity.row, cavity.column))
