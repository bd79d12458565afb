"""What every act is made of: a part put in place of its namesake, its named fields changed, an id that is free."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any, TypeVar

from metrolex.errors import BadInput
from metrolex.intake import dump, read
from metrolex.job import Display, Job, MeasuringChain
from metrolex.job.within import placed, value_within

__all__ = ["channel_called", "display_called", "free_id", "in_old_order", "replaced", "with_fields"]

T = TypeVar("T", bound=Any)


def channel_called(job: Job, key: str) -> MeasuringChain:
    """A channel of the job. Raises BadInput naming those it has."""
    found = job.chain(key)
    if found is None:
        raise BadInput("channel", key, ", ".join(c.id for c in job.chains))
    return found


def display_called(job: Job, key: str) -> Display:
    """A display of the job. Raises BadInput naming those it has."""
    found = job.display(key)
    if found is None:
        raise BadInput("display", key, ", ".join(d.id for d in job.displays))
    return found


def with_fields(parts: tuple[T, ...], kind: type[T], key: str, data: dict[str, Any]) -> tuple[T, ...]:
    """The parts with the named fields of one changed and all others as they stand; one more where there is none of that key.

    Lists of words keep the order they stood in. Raises BadInput.
    """
    old = next((part for part in parts if part.id == key), None)
    fresh: dict[str, Any] = {}
    for name, value in data.items():
        listed = old is not None and isinstance(value, list) and all(isinstance(word, str) for word in value)
        fresh[name] = in_old_order(value_within(old, name), value) if listed else value
    plain = placed(kind, fresh, dump(old) if old is not None else None)
    return replaced(parts, read(kind, plain | {"id": key}))


def in_old_order(before: Iterable[str], chosen: Iterable[str]) -> list[str]:
    """The words chosen, those that stood there already in the order they stood in."""
    wanted = list(chosen)
    kept = [word for word in before if word in wanted]
    return [*kept, *(word for word in wanted if word not in kept)]


def replaced(parts: tuple[T, ...], part: T) -> tuple[T, ...]:
    """The parts with one in place of its namesake, or added at the end."""
    if any(other.id == part.id for other in parts):
        return tuple(part if other.id == part.id else other for other in parts)
    return (*parts, part)


def free_id(wanted: str, taken: Iterable[str]) -> str:
    """``wanted``, or the next number after it that is free ('gauge 1', 'gauge 2'...)."""
    used = set(taken)
    if wanted not in used:
        return wanted
    match = re.fullmatch(r"(.*?)([0-9]{1,9})", wanted)
    stem, number = (match[1], int(match[2])) if match else (f"{wanted} ", 1)
    while f"{stem}{number}" in used:
        number += 1
    return f"{stem}{number}"
