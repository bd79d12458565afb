"""Nodes, elements and faults called by name: what comes from the command line or an address bar, and the place it means."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from metrolex.circuit import Fault
from metrolex.circuit.elements import Name
from metrolex.errors import BadInput
from metrolex.intake import Key, Positive
from metrolex.twin.addresses import address_called
from metrolex.twin.run import Solved

__all__ = ["FaultSaid", "element_called", "faults_meant", "node_called"]


@dataclass(frozen=True, slots=True)
class FaultSaid:
    """A fault in words: the element's name, what happened to it; see ``metrolex.circuit.Fault``."""

    element: Key
    kind: Literal["open", "short", "resistance", "swap"]
    ohm: Positive | None = None
    to: Key | None = None
    with_: Key | None = None
    ends: Literal["bb", "ba", "ab", "aa"] = "bb"

    def __post_init__(self) -> None:
        Fault(
            self.element, self.kind, self.ohm, self.to, self.with_, self.ends
        )  # the same must be said of it


def node_called(solved: Solved, words: str, field: str) -> Name:
    """A node by its name. Raises BadInput at ``field`` with the nearest one."""
    return address_called(words, solved.solution.potentials, field, "a node")


def element_called(solved: Solved, words: str, field: str) -> Name:
    """An element by its name. Raises BadInput at ``field`` with the nearest one."""
    return address_called(words, [element.name for element in solved.elements], field, "an element")


def faults_meant(solved: Solved, said: Sequence[FaultSaid]) -> list[Fault]:
    """The faults on the elements they name. Raises BadInput at ``faults[i]``."""
    return [_meant(solved, one, f"faults[{i}]") for i, one in enumerate(said)]


def _meant(solved: Solved, said: FaultSaid, path: str) -> Fault:
    try:
        return Fault(
            element_called(solved, said.element, "element"),
            said.kind,
            said.ohm,
            node_called(solved, said.to, "to") if said.to is not None else None,
            element_called(solved, said.with_, "with") if said.with_ is not None else None,
            said.ends,
        )
    except BadInput as fault:
        raise fault.within(path) from None
