"""Fields of a record by their name, wherever inside it they stand.

A page shows what belongs together for the hand; a record keeps together what belongs together by nature. Names of fields are given once in
a record and all it holds, so a page need not know where each stands.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator, Mapping
from typing import Any, TypeVar

from metrolex.errors import BadInput

__all__ = ["field_names", "placed", "replaced_within", "value_within"]

T = TypeVar("T", bound=Any)


def value_within(record: object, name: str) -> Any:
    """The value of a field of the record or of one it holds. Raises KeyError where there is none of that name."""
    for owner, field in _fields(record):
        if field == name:
            return getattr(owner, field)
    raise KeyError(name)


def replaced_within(record: T, fields: Mapping[str, Any]) -> T:
    """The record with the named fields changed, each where it stands, and all others as they are. Raises BadInput for an unknown name."""
    known = set(field_names(record))
    for name in fields:
        if name not in known:
            raise BadInput(name, name, ", ".join(sorted(known)))
    return _replaced(record, fields)


def placed(kind: type, flat: Mapping[str, Any], over: Mapping[str, Any] | None = None) -> dict[str, Any]:
    """Plain data of a record with values given by the name of their field, each put where that stands, over data that is there.

    A name the record does not know stays at the top, for the gate to refuse.
    """
    whole = dict(over or {})
    for name, value in flat.items():
        *records, field = _way_to(kind, name) or [name]
        inner = whole
        for record in records:
            inner[record] = dict(inner.get(record, {}))
            inner = inner[record]
        inner[field] = value
    return whole


def _way_to(kind: type, name: str) -> list[str]:
    """The names from a record down to one of its fields; empty where there is none."""
    for field in dataclasses.fields(kind):
        if field.name == name:
            return [name]
    for field in dataclasses.fields(kind):
        if dataclasses.is_dataclass(field.default) and (way := _way_to(type(field.default), name)):
            return [field.name, *way]
    return []


def field_names(record: object) -> tuple[str, ...]:
    """The names of all fields of a record and of those it holds; what holds others is not named."""
    return tuple(name for _, name in _fields(record))


def _replaced(record: T, fields: Mapping[str, Any]) -> T:
    changed: dict[str, Any] = {}
    for field in dataclasses.fields(record):
        value = getattr(record, field.name)
        if dataclasses.is_dataclass(value):
            inner = _replaced(value, fields)
            if inner is not value:
                changed[field.name] = inner
        elif field.name in fields and value != fields[field.name]:
            changed[field.name] = fields[field.name]
    return dataclasses.replace(record, **changed) if changed else record


def _fields(record: Any) -> Iterator[tuple[object, str]]:
    for field in dataclasses.fields(record):
        value = getattr(record, field.name)
        if dataclasses.is_dataclass(value):
            yield from _fields(value)
        else:
            yield record, field.name
