"""How much of a thing there may be: stated in data, checked before room is made for it."""

from __future__ import annotations

from metrolex.errors import BadInput
from metrolex.tables import load_table

__all__ = ["limit", "most_of", "no_more_than"]


def limit(kind: str, name: str) -> float:
    """One limit of limits.toml."""
    return float(load_table("limits")[kind][name])


def most_of(name: str) -> int | None:
    """How many items a list of that name may hold; None where none is stated."""
    found: int | None = load_table("limits")["lists"].get(name)
    return found


def no_more_than(name: str, count: int, path: str = "") -> None:
    """Raises BadInput at the list's place where it holds more than it may."""
    most = most_of(name)
    if most is not None and count > most:
        words = name.replace("_", " ")
        raise BadInput(
            path or name,
            count,
            f"at most {most} {words}",
            f"There can be at most {most} {words} here; these would be {count}.",
        )
