"""How large a fault may be: its sizes over decades, each with its share, as ``faults.toml`` says."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from metrolex.faults.kinds import LikelyFault

__all__ = ["WHOLE", "Cell", "Sizing", "cells_of", "size_words", "sized"]

WHOLE = 0.0  # the size of a fault that is the whole thing: open, or a short of next to nothing


@dataclass(frozen=True, slots=True)
class Cell:
    """One size that stands for those around it: its share of the fault, and whether the cell before it is its neighbour."""

    size: float
    share: float
    goes_on: bool = False


@dataclass(frozen=True, slots=True)
class Sizing:
    """A fault at one size."""

    cell: Cell
    fault: LikelyFault


def cells_of(row: Mapping[str, Any]) -> Iterator[Cell]:
    """The cells of a kind's sizes; none for a kind that comes in one size. ``WHOLE`` stands for the whole thing."""
    sizes = row.get("sizes")
    if sizes is None:
        return
    whole, count = float(sizes.get("whole", 0.0)), int(sizes["cells"])
    if whole:
        yield Cell(WHOLE, whole)
    ways = (1, -1) if sizes.get("both_ways") else (1,)
    step = (sizes["to"] / sizes["from"]) ** (1 / count)
    for way in ways:
        for i in range(count):
            size = sizes["from"] * step ** (i + 0.5)
            yield Cell(size**way, (1 - whole) / count / len(ways), i > 0)


def sized(
    fault: LikelyFault, row: Mapping[str, Any], at: Callable[[float], Mapping[str, Any]]
) -> LikelyFault:
    """The fault with all its sizes; ``at`` gives what is other at a size: what it does, what is entered, what faces show."""
    return replace(
        fault, sizes=tuple(Sizing(cell, replace(fault, **at(cell.size))) for cell in cells_of(row))
    )


def size_words(row: Mapping[str, Any], size: float) -> str:
    """How large a fault seems to be, as one says it: 'about 2.1 Ω'."""
    return f"about {float(f'{size:.2g}'):g} {row['sizes']['unit']}"
