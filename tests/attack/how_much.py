"""How much of an attack a run makes: a small seeded part of it every time, all of it on demand (bin/test attack)."""

from __future__ import annotations

import itertools
import os
from collections.abc import Iterable
from typing import TypeVar

__all__ = ["ALL", "several", "some_of"]

T = TypeVar("T")
#: Whether the whole attack was asked for.
ALL = bool(os.environ.get("METROLEX_ATTACK"))


def several(usually: int, attacked: int) -> range:
    """Seeds: so many in every run, so many when the whole attack was asked for."""
    return range(attacked if ALL else usually)


def some_of(rows: Iterable[T], usually: int) -> Iterable[T]:
    """The first so many in every run, all when the whole attack was asked for."""
    return rows if ALL else itertools.islice(rows, usually)
