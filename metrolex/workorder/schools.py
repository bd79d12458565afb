"""Where fitters do a thing differently: the schools, their ways, and those chosen for a job."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from metrolex.job import WorkHours
from metrolex.tables import load_table

__all__ = ["School", "Way", "Ways", "schools", "ways_chosen"]

Ways = tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class Way:
    """One way of a school, and what speaks for it."""

    key: str
    words: str
    why: str


@dataclass(frozen=True, slots=True)
class School:
    """A question fitters answer differently; the first way is the usual one."""

    key: str
    words: str
    ways: tuple[Way, ...]


def schools() -> tuple[School, ...]:
    """All of them."""
    return tuple(
        School(
            key,
            row["words"],
            tuple(Way(way, of["words"], of["why"]) for way, of in row.items() if way != "words"),
        )
        for key, row in load_table("recipes")["schools"].items()
    )


def ways_chosen(hours: WorkHours) -> Ways:
    """(school, way) of every school: the one chosen, else the usual one; a way nobody knows is passed over."""
    said = dict(_pairs(hours.schools))
    return tuple(
        (
            school.key,
            next((way.key for way in school.ways if way.key == said.get(school.key)), school.ways[0].key),
        )
        for school in schools()
    )


def _pairs(words: Iterable[str]) -> Iterable[tuple[str, str]]:
    for word in words:
        school, _, way = word.partition("=")
        yield school, way
