"""One thing that is measured."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from metrolex.errors import BadInput
from metrolex.intake import AnyNumber, Key, Text, Title
from metrolex.job.points import TruePoint, said_at, value_at
from metrolex.job.tank import Tank
from metrolex.job.words import EnginePoint, Measurand
from metrolex.quantities import in_unit
from metrolex.tables import load_table

__all__ = ["Channel"]


@dataclass(frozen=True, slots=True)
class Channel:
    """What is measured, in which unit, where its signal comes from (the id of a source), and what is really there.

    ``true_at`` holds what was said of operating points beside the cold engine that stands and the warm one that idles. Where it is shown are its readouts; ``tank`` belongs to a fuel level.
    """

    id: Key
    name: Title
    measurand: Measurand
    unit: Annotated[str, Text(20, blank=False)]
    source: Key | None = None
    true_stopped: AnyNumber | None = None
    true_running: AnyNumber | None = None
    true_at: tuple[TruePoint, ...] = ()
    tank: Tank | None = None

    def __post_init__(self) -> None:
        seen: set[str] = set()
        for i, one in enumerate(self.true_at):
            if one.point in seen or one.point in ("stopped", "running"):
                raise BadInput(
                    f"true_at[{i}].point",
                    one.point,
                    "each point once; stopped and running have fields of their own",
                )
            seen.add(one.point)
        usual = str(load_table("measurands")[self.measurand]["unit"])
        in_unit(1.0, usual, self.unit)  # what is usual there must be said in it

    def true(self, point: EnginePoint) -> float | None:
        """What is really there at an operating point: as said, else as is usual."""
        return value_at(self.measurand, self.unit, point, self.true_stopped, self.true_running, self.true_at)

    def said(self, point: EnginePoint) -> float | None:
        """What somebody said is there at an operating point; None where it is only usual."""
        return said_at(point, self.true_stopped, self.true_running, self.true_at)
