"""Practices where good practitioners disagree, with the default and why. Data of ``data/practices.toml``."""

from __future__ import annotations

import functools
from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.job import Job
from metrolex.ports.paths import layout_of
from metrolex.tables import load_table

__all__ = ["Practice", "Topic", "practice_of", "topic_called", "topics", "topics_for"]


@dataclass(frozen=True, slots=True)
class Practice:
    """One way of doing it, why, and the usual places it favours."""

    key: str
    name: str
    why: str
    favours: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Topic:
    """A question practitioners answer differently; ``banks`` limits it to engines with that many ('two'), empty for any."""

    key: str
    name: str
    measurands: tuple[str, ...]
    default: str
    why: str
    banks: str
    practices: tuple[Practice, ...]

    def practice(self, key: str) -> Practice:
        """Raises BadInput (``practice``) for a practice that is not of this topic."""
        for practice in self.practices:
            if practice.key == key:
                return practice
        raise BadInput("practice", key, " | ".join(practice.key for practice in self.practices))


@functools.cache
def topics() -> tuple[Topic, ...]:
    """All topics."""
    return tuple(
        Topic(
            key,
            row["name"],
            tuple(row["measurands"]),
            row["default"],
            row["why"],
            row.get("banks", ""),
            tuple(
                Practice(name, s["name"], s["why"], tuple(s.get("favours", ())))
                for name, s in row["practices"].items()
            ),
        )
        for key, row in load_table("practices").items()
    )


def topic_called(key: str) -> Topic:
    """A topic by its key. Raises BadInput (``topic``)."""
    for topic in topics():
        if topic.key == key:
            return topic
    raise BadInput("topic", key, " | ".join(topic.key for topic in topics()))


def topics_for(job: Job, measurand: str) -> tuple[Topic, ...]:
    """The topics that bear on a measurand on this vehicle."""
    banks = layout_of(job.vehicle)["banks"]
    return tuple(t for t in topics() if measurand in t.measurands and t.banks in ("", banks))


def practice_of(job: Job, topic: str) -> Practice:
    """The practice chosen on a job, the default where none was. Raises BadInput for an unknown topic."""
    found = topic_called(topic)
    chosen = next((choice.practice for choice in job.brief.practices if choice.topic == topic), found.default)
    return found.practice(chosen if any(s.key == chosen for s in found.practices) else found.default)
