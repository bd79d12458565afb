"""One thing that is measured."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from metrolex.intake import AnyNumber, Key, Text, Title
from metrolex.job.tank import Tank
from metrolex.job.words import Measurand

__all__ = ["Channel"]


@dataclass(frozen=True, slots=True)
class Channel:
    """What is measured, in which unit, where its signal comes from (the id of a source), and what is really there.

    Where it is shown are its readouts; ``tank`` belongs to a fuel level.
    """

    id: Key
    name: Title
    measurand: Measurand
    unit: Annotated[str, Text(20, blank=False)]
    source: Key | None = None
    true_stopped: AnyNumber | None = None
    true_running: AnyNumber | None = None
    tank: Tank | None = None
