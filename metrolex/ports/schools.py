"""Schools where good practitioners disagree, with the default and why. Data of ``data/schools.toml``."""

from __future__ import annotations

import functools
from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.job import Job
from metrolex.ports.paths import layout_of
from metrolex.tables import load_table

__all__ = ["School", "Topic", "school_of", "topic_called", "topics", "topics_for"]


@dataclass(frozen=True, slots=True)
class School:
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
    schools: tuple[School, ...]

    def school(self, key: str) -> School:
        """Raises BadInput (``school``) for a school that is not of this topic."""
        for school in self.schools:
            if school.key == key:
                return school
        raise BadInput("school", key, " | ".join(school.key for school in self.schools))


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
                School(name, s["name"], s["why"], tuple(s.get("favours", ())))
                for name, s in row["schools"].items()
            ),
        )
        for key, row in load_table("schools").items()
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


def school_of(job: Job, topic: str) -> School:
    """The school chosen on a job, the default where none was. Raises BadInput for an unknown topic."""
    found = topic_called(topic)
    chosen = next((choice.school for choice in job.brief.schools if choice.topic == topic), found.default)
    return found.school(chosen if any(s.key == chosen for s in found.schools) else found.default)
