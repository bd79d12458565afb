"""Disjoint sets: things joined two by two, and whether two of them are one piece by now."""

from __future__ import annotations

from collections.abc import Hashable
from typing import Generic, TypeVar

__all__ = ["DisjointSets"]

T = TypeVar("T", bound=Hashable)


class DisjointSets(Generic[T]):
    """Sets of things, each a set of its own until it is joined to another (Galler and Fischer 1964, with halved paths)."""

    def __init__(self) -> None:
        self._above: dict[T, T] = {}

    def of(self, thing: T) -> T:
        """The thing that stands for its set."""
        above = self._above
        while (parent := above.get(thing, thing)) != thing:
            above[thing] = above.get(parent, parent)
            thing = above[thing]
        return thing

    def join(self, a: T, b: T) -> bool:
        """Join two sets; False when they were one already."""
        first, second = self.of(a), self.of(b)
        self._above[first] = second
        return first != second
