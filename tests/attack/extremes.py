"""Jobs with values at the ends of what their fields admit, a few fields at a time."""

from __future__ import annotations

import copy
import dataclasses
import random
import types
import typing
from collections.abc import Iterator
from typing import Annotated, Any, Literal, get_args, get_origin

from metrolex.errors import BadInput
from metrolex.intake import Limits, Text, dump
from metrolex.job import Job
from metrolex.jobfile import SCHEMA_VERSION, job_from_data

__all__ = ["extreme_jobs", "leaves"]

Place = tuple[str | int, ...]


def leaves(record: Any, at: Place = ()) -> Iterator[tuple[Place, Any]]:
    """The place of every plain value of a record, with its annotation."""
    hints = typing.get_type_hints(type(record), include_extras=True)
    for field in dataclasses.fields(record):
        if field.init:
            yield from _below(getattr(record, field.name), hints[field.name], (*at, field.name.rstrip("_")))


def _below(value: Any, hint: Any, at: Place) -> Iterator[tuple[Place, Any]]:
    if dataclasses.is_dataclass(value):
        yield from leaves(value, at)
    elif isinstance(value, tuple):
        args = get_args(_bare(hint))
        for i, item in enumerate(value):
            yield from _below(item, args[0] if args[-1] is Ellipsis else args[i], (*at, i))
    else:
        yield at, hint


def _bare(hint: Any) -> Any:
    """The tuple in an annotation that may also be None."""
    if get_origin(hint) in (typing.Union, types.UnionType):
        return next(_bare(part) for part in get_args(hint) if get_origin(_bare(part)) is tuple)
    return hint


def ends_of(hint: Any) -> list[Any]:
    """Values at the ends of what an annotation admits."""
    if get_origin(hint) in (typing.Union, types.UnionType):
        return [end for part in get_args(hint) for end in ends_of(part)]
    if get_origin(hint) is Annotated:
        base, rule = get_args(hint)[:2]
        if isinstance(rule, Limits):
            low = rule.low if rule.above is None else rule.above + 1e-12
            ends = [low, rule.high, 0.0, 1e-9]
            return [int(e) if base is int else float(e) for e in ends if e is not None and rule.admit(e)]
        if isinstance(rule, Text):
            return [
                "\U0001f527<&\"'" * (rule.longest // 6) or "x",
                "x" * rule.longest,
                "" if rule.blank else "-",
            ]
    if get_origin(hint) is Literal:
        return list(get_args(hint))
    if hint is bool:
        return [True, False]
    if hint is type(None):
        return [None]
    return []


def extreme_jobs(job: Job, seed: int, at_once: int) -> Iterator[tuple[Job, list[tuple[Place, Any]]]]:
    """A job with values of some fields at the ends of what they admit, and which; fields whose end is refused stay as they were."""
    draw = random.Random(seed)
    places = list(leaves(job))
    data = {"schema_version": SCHEMA_VERSION, **dump(job, whole=True)}
    changed: list[tuple[Place, Any]] = []
    for place, hint in draw.sample(places, min(at_once, len(places))):
        ends = ends_of(hint)
        if not ends:
            continue
        end = draw.choice(ends)
        tried = _put(data, place, end)
        try:
            job_from_data(tried)
        except BadInput:
            continue
        data = tried
        changed.append((place, end))
    yield job_from_data(data), changed


def _put(data: dict[str, Any], place: Place, value: Any) -> dict[str, Any]:
    whole = copy.deepcopy(data)
    inner: Any = whole
    for step in place[:-1]:
        inner = inner[step]
    inner[place[-1]] = value
    return whole
