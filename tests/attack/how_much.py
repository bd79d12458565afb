"""How much of an attack a run makes: a small seeded part of it every time, all of it on demand (bin/test attack)."""

from __future__ import annotations

import os

__all__ = ["ALL", "several"]

#: Whether the whole attack was asked for.
ALL = bool(os.environ.get("METROLEX_ATTACK"))


def several(usually: int, attacked: int) -> range:
    """Seeds: so many in every run, so many when the whole attack was asked for."""
    return range(attacked if ALL else usually)
