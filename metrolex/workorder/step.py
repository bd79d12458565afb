"""One step of the work, as the order of it is found from: what it needs, what it makes, how long it takes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from metrolex.intake import Limits, NonNegative, Text, Title

__all__ = ["NOT", "Step", "ended_by"]

NOT = "not "  # before a state: the step wants it ended
Need = Annotated[str, Text(160, blank=False)]


@dataclass(frozen=True, slots=True)
class Step:
    """``needs`` names steps that come before it and states that hold during it, 'not STATE' one that must not hold.

    ``makes`` are states that hold from its end on. ``wait_minutes`` pass before anything that needs it, or what it makes, may begin: to cure,
    to cool, to drain. ``hands`` 0: it goes on by itself.
    """

    name: Title
    minutes: NonNegative
    needs: tuple[Need, ...] = ()
    makes: tuple[Need, ...] = ()
    wait_minutes: NonNegative = 0.0
    hands: Annotated[int, Limits(low=0, high=2)] = 1


def ended_by(need: str) -> str | None:
    """The state a need wants ended; None for any other need.

    >>> ended_by('not battery off'), ended_by('battery off')
    ('battery off', None)
    """
    return need.removeprefix(NOT).strip() if need.startswith(NOT) else None
