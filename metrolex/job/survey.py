"""What the vehicle was like before anyone touched it, and what its factory cluster told the driver."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from metrolex.intake import Key, Note, Text, Title
from metrolex.job.words import Word

__all__ = ["ClusterItem", "FactoryReading", "Survey"]


@dataclass(frozen=True, slots=True)
class FactoryReading:
    """A reading the factory display gave before the work, and the same after it, as they were read."""

    name: Title
    before: Word = ""
    after: Word = ""


@dataclass(frozen=True, slots=True)
class Survey:
    """The state of the vehicle before work. Lists hold one thing a line, in the fitter's words.

    ``probed_also`` are the columns the probe sheet has beside key and lamps.
    """

    day: Word = ""
    lamps_lit: tuple[Word, ...] = ()
    stored_faults: tuple[Word, ...] = ()
    old_wiring: tuple[Word, ...] = ()
    leaks: tuple[Word, ...] = ()
    brittle: tuple[Word, ...] = ()
    readings: tuple[FactoryReading, ...] = ()
    notes: Note = ""
    lamps_after: tuple[Word, ...] | None = None
    probed_also: tuple[Annotated[str, Text(30, blank=False)], ...] = ()


@dataclass(frozen=True, slots=True)
class ClusterItem:
    """A lamp or reading of the factory cluster that comes out, and where it will come from.

    ``function`` is a key of cluster.toml or 'other'. ``comes_from`` is open (''), 'display' (the new one shows it),
    'lamp' (a lamp of its own), 'kept' (the old one stays), 'lost', or 'never'
    (the vehicle never had it).
    """

    id: Key
    name: Title
    function: Key = "other"
    comes_from: Literal["", "display", "lamp", "kept", "lost", "never"] = ""
    how: Word = ""
