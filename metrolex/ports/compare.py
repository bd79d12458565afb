"""The usual places for a sender, weighed against one another, with the reasons.

Marks and words stand in ``data/ports.toml`` (common practice, no source). They rank; they do not measure:
the vehicle at hand decides.
"""

from __future__ import annotations

import functools
from collections.abc import Mapping
from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.job import Port, Sender
from metrolex.tables import load_table

__all__ = ["CRITERIA", "WEIGHTS", "Place", "Ranked", "places_for", "port_at", "rank_places", "why_first"]

#: What places are compared on, and the words for good and bad.
CRITERIA = {
    "new_hole": "New hole",
    "reading": "Truth of the reading",
    "access": "Access",
    "undo": "Can be undone",
    "tidy": "Bleeding and leaks",
    "factory": "Factory system",
}
#: What counts how much unless the fitter shifts it (common practice, no source).
WEIGHTS = {"new_hole": 3.0, "reading": 3.0, "access": 2.0, "undo": 2.0, "tidy": 1.0, "factory": 3.0}
_WORDS = {
    "new_hole": ("drilled", "drilled", "cut hose or line", "small", "none"),
    "reading": ("poor", "late", "fair", "close", "true"),
    "access": ("parts off", "hard", "from below", "fair", "by hand"),
    "undo": ("no", "hardly", "with new parts", "mostly", "fully"),
    "tidy": ("drain down", "some loss", "fair", "little loss", "clean"),
    "factory": ("loses its reading", "disturbed", "shared", "hardly touched", "untouched"),
}


@dataclass(frozen=True, slots=True)
class Place:
    """A usual place: its facts, its marks of 0 to 4 by criterion, what speaks for and against it."""

    kind: str
    name: str
    thread: str
    way_in: str
    grounded: bool
    ground_at: str
    bias: float
    marks: dict[str, int]
    pro: str
    con: str
    caution: str

    def word(self, criterion: str) -> str:
        """The mark of a criterion in words."""
        return _WORDS[criterion][self.marks[criterion]]


@dataclass(frozen=True, slots=True)
class Ranked:
    """A place with its share of the best possible score, 0 to 1, and what is wrong with it for this sender."""

    place: Place
    score: float
    objection: str = ""


@functools.cache
def places_for(measurand: str) -> tuple[Place, ...]:
    """The usual places for a measurand; empty where it needs none."""
    return tuple(
        Place(
            row["kind"], row["name"], row["thread"], row["way_in"], row["grounded"], row["ground_at"],
            row["bias"], dict(row["marks"]), row["for"], row["against"], row["caution"],
        )
        for row in load_table("ports").get(measurand, ())
    )  # fmt: skip


def rank_places(
    measurand: str, sender: Sender | None, weights: Mapping[str, float] | None = None
) -> list[Ranked]:
    """The places best first. A place the chosen sender cannot use as it is comes with the objection."""
    by = dict(weights or WEIGHTS)
    best = 4 * sum(by.values())
    found = []
    for place in places_for(measurand):
        score = sum(by[name] * place.marks[name] for name in CRITERIA) / best
        objection = ""
        if sender is not None and sender.wires == 1 and not place.grounded:
            objection = "One-wire sender: needs a ground lead to the adapter."
        found.append(Ranked(place, score - (0.15 if objection else 0.0), objection))
    return sorted(found, key=lambda ranked: -ranked.score)


def why_first(ranked: list[Ranked]) -> str:
    """In a sentence why the first place is first: where it beats the second, and where it does not."""
    if not ranked:
        return ""
    if len(ranked) == 1:
        return f"{ranked[0].place.name} is the only usual place."
    first, second = ranked[0].place, ranked[1].place
    better = [CRITERIA[c].lower() for c in CRITERIA if first.marks[c] > second.marks[c]]
    worse = [CRITERIA[c].lower() for c in CRITERIA if first.marks[c] < second.marks[c]]
    text = f"{first.name} comes before {second.name}"
    text += f" on {_listed(better)}" if better else f" by {ranked[0].score - ranked[1].score:.0%} only"
    text += f"; it is behind on {_listed(worse)}." if worse else "."
    if ranked[1].objection:
        text += f" {second.name}: {ranked[1].objection}"
    return text


def port_at(measurand: str, kind: str, key: str) -> Port:
    """The port of a job at a usual place, with the id ``key``. Raises BadInput for an unknown place."""
    for place in places_for(measurand):
        if place.kind == kind:
            return Port(
                key, place.name, place.kind, place.thread, place.way_in, place.grounded,
                "body" if place.ground_at == "body" else "engine", bias=place.bias, why=place.pro,
            )  # fmt: skip
    known = " | ".join(place.kind for place in places_for(measurand))
    raise BadInput("kind", kind, known or "nothing: this needs no port")


def _listed(words: list[str]) -> str:
    return words[0] if len(words) == 1 else ", ".join(words[:-1]) + " and " + words[-1]
