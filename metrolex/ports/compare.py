"""Candidate places for a channel, weighed against one another on evidence, with the reasons.

A candidate is a port of the job that is considered for the channel, or a usual place the vehicle's paths have. Marks of 0
to 4 come from its facts and from the usual place behind it; findings take from them. They rank; they do not measure: the
vehicle at hand decides.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from metrolex.errors import BadInput
from metrolex.findings import Finding, worst_first
from metrolex.fittings.fitting import Fitting
from metrolex.fittings.stack import solve_stack
from metrolex.fuel.systems import system_of
from metrolex.job import Job, MeasuringChain, Port
from metrolex.job.place import Entry
from metrolex.ports.facts import facts_of, mouth_of, mouths_of, sender_end, senders_in
from metrolex.ports.fuel import side_of
from metrolex.ports.places import Place, place_of, places_for, port_at, spots_of, usual_spots
from metrolex.ports.practices import practice_of, topics_for
from metrolex.ports.rules import port_findings

__all__ = [
    "CRITERIA",
    "PRESETS",
    "WEIGHTS",
    "Candidate",
    "candidates_for",
    "weights_of",
    "why_first",
]

#: What places are compared on.
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
#: Sets of weights by what matters most.
PRESETS = {
    "balanced": WEIGHTS,
    "truest reading": WEIGHTS | {"reading": 5.0, "new_hole": 1.0, "access": 1.0, "undo": 0.5},
    "no new hole": WEIGHTS | {"new_hole": 5.0, "undo": 3.0, "reading": 2.0},
    "quickest": WEIGHTS | {"access": 5.0, "tidy": 3.0, "new_hole": 2.0, "reading": 2.0},
    "can be undone": WEIGHTS | {"undo": 5.0, "new_hole": 3.0, "reading": 2.0},
}
_WORDS = {
    "new_hole": ("drilled", "drilled", "cut hose or line", "small", "none"),
    "reading": ("poor", "late", "fair", "close", "true"),
    "access": ("parts off", "hard", "from below", "fair", "by hand"),
    "undo": ("no", "hardly", "with new parts", "mostly", "fully"),
    "tidy": ("drain down", "some loss", "fair", "little loss", "clean"),
    "factory": ("loses its reading", "disturbed", "shared", "hardly touched", "untouched"),
}
_BY_ENTRY: dict[Entry, tuple[int, int]] = {
    "existing": (4, 4),
    "replaces": (4, 3),
    "held_on": (4, 4),
    "cut_hose": (2, 2),
    "cut_line": (2, 1),
    "drilled": (0, 0),
    "welded": (0, 0),
}
#: Findings about what is read: they take from the truth of the reading.
_READING = {
    "after_turbine",
    "after_catalyst",
    "on_divider",
    "near_open_end",
    "cold_side",
    "after_cooler",
    "before_cooler",
    "before_compressor",
    "before_throttle",
    "tip_in_adapter",
    "tip_at_far_wall",
    "lambda_too_far",
    "return_side",
    "suction_side",
    "before_turbine",
    "before_boost",
    "before_pump",
    "tank_side",
    "in_turbine",
}
_STOP_COSTS, _CAUTION_COSTS, _SCHOOL_GIVES, _JOINT_COSTS = 0.5, 0.04, 0.10, 0.01


@dataclass(frozen=True, slots=True)
class Candidate:
    """A place weighed: its marks by criterion, its share of the best possible score, what is wrong with it.

    ``letter`` names its pin. ``stored`` is False for a usual place nobody has touched yet. ``fittings`` is the chain to its
    sender (the one chosen, else the best of the library), None where none is known.
    """

    letter: str
    port: Port
    place: Place | None
    marks: dict[str, int]
    score: float
    findings: tuple[Finding, ...]
    stored: bool
    chosen: bool
    favoured: str = ""
    beside: str = ""
    """whose sender sits in the same plate, block or tee, which has a mouth free"""
    fittings: tuple[Fitting, ...] | None = None

    def word(self, criterion: str) -> str:
        """The mark of a criterion in words."""
        return _WORDS[criterion][self.marks[criterion]]

    @property
    def grade(self) -> str:
        """The gravest of its findings, 'good' without stop and caution."""
        grades = {finding.grade for finding in self.findings}
        return "stop" if "stop" in grades else ("caution" if "caution" in grades else "good")


def weights_of(job: Job) -> dict[str, float]:
    """What counts how much on a job."""
    return WEIGHTS | {
        weight.criterion: weight.counts for weight in job.brief.weights if weight.criterion in CRITERIA
    }


def candidates_for(
    job: Job, channel: MeasuringChain, library: Sequence[Fitting] = ()
) -> tuple[Candidate, ...]:
    """The places for one channel, best first, lettered in that order."""
    found = [_weigh(job, channel, port, stored, library) for port, stored in _ports(job, channel)]
    found.sort(key=lambda c: (not (c.beside and c.grade != "stop"), -c.score))
    return tuple(replace(c, letter=chr(ord("A") + i) if i < 26 else str(i + 1)) for i, c in enumerate(found))


def _ports(job: Job, channel: MeasuringChain) -> list[tuple[Port, bool]]:
    stored = [port for port in job.ports if port.channel == channel.channel or port.id == channel.port]
    stored += [port for port in _with_room(job, channel) if port not in stored]
    kinds = {port.kind for port in stored}
    fresh = [
        _on_vehicle(job, channel, place) for place in places_for(channel.measurand) if place.kind not in kinds
    ]
    return [(port, True) for port in stored] + [(port, False) for port in fresh if port is not None]


def _with_room(job: Job, channel: MeasuringChain) -> list[Port]:
    """Places of other channels with a mouth free, of a kind this one can be read at."""
    kinds = {place.kind for place in places_for(channel.measurand)}
    return [port for port in job.ports if port.kind in kinds and _beside(job, channel, port)]


def _beside(job: Job, channel: MeasuringChain, port: Port) -> str:
    """Whose senders sit at a place that has a mouth free for one more; '' for a place of its own."""
    others = [one for one in senders_in(job, port) if one.channel != channel.channel]
    return _listed([one.name for one in others]) if others and len(others) < mouths_of(port) else ""


def _on_vehicle(job: Job, channel: MeasuringChain, place: Place) -> Port | None:
    """A usual place where this vehicle has it; None where its paths show that it has not."""
    port = replace(
        port_at(channel.measurand, place.kind, f"{channel.channel} {place.kind}"[:60]),
        channel=channel.channel,
    )
    paths = [path for path in job.paths if path.kind == place.path]
    taken = {
        p.spot.path
        for c in job.measured
        if c.channel != channel.channel
        and c.measurand == channel.measurand
        and (p := job.port(c.port)) is not None
    }
    # The other bank first, where a channel of this kind reads one already.
    for path, at in sorted(spots_of(place, job.paths), key=lambda spot: spot[0].id in taken):
        if path.kind == "fuel" and side_of(job.vehicle, path, at, place) == "high":
            return None  # never offered: hundreds of bar
        return replace(port, spot=replace(port.spot, path=path.id, at_m=at))
    if place.path == "fuel" and not paths:
        told = job.vehicle.fuel.burns == "diesel" or system_of(job.vehicle.fuel.fuel_feed) is not None
        if side_of(job.vehicle, None, None, place) == "high" or (told and not usual_spots(job, place)):
            return None  # a carburettor's hose is nowhere on a vehicle with a rail
    return None if place.anchors and any(path.length_m for path in paths) else port


def _weigh(
    job: Job, channel: MeasuringChain, port: Port, stored: bool, library: Sequence[Fitting]
) -> Candidate:
    place, sender = place_of(channel.measurand, port), job.sender(channel.sender)
    fittings: tuple[Fitting, ...] | None = port.stack or None
    if not port.stack and sender is not None and library and port.thread and sender.body.thread:
        try:
            stack = solve_stack(
                mouth_of(port), sender_end(sender), library, must=place.keeps if place else ()
            )
        except BadInput:
            stack = None
        fittings = stack.chain if stack is not None and stack.found else None
    looked_at = replace(port, stack=fittings) if fittings and not port.stack else port
    findings = worst_first(port_findings(job, channel, looked_at, sender))
    facts = facts_of(job, channel, port)
    base = dict(place.marks) if place else {"reading": 3, "tidy": 2, "factory": 4}
    marks = {
        **base,
        "access": facts.access,
        "new_hole": _BY_ENTRY[facts.entry][0],
        "undo": _BY_ENTRY[facts.entry][1],
    }
    spoilt = [f for f in findings if f.code in _READING and f.grade != "note"]
    # The usual mark of a place already knows where it usually stands; what the path shows can only lower it.
    ceiling = 0 if any(f.grade == "stop" for f in spoilt) else 4 - 2 * len(spoilt)
    marks["reading"] = max(0, min(marks["reading"], ceiling))
    weights = weights_of(job)
    score = sum(weights[name] * marks[name] for name in CRITERIA) / (4 * sum(weights.values()))
    score -= _STOP_COSTS * any(f.grade == "stop" for f in findings) + _CAUTION_COSTS * sum(
        f.grade == "caution" for f in findings
    )
    favoured = next(
        (
            s.name
            for t in topics_for(job, channel.measurand)
            if port.kind in (s := practice_of(job, t.key)).favours
        ),
        "",
    )
    score += (_SCHOOL_GIVES if favoured else 0.0) - _JOINT_COSTS * len(fittings or ())
    return Candidate(
        "",
        port,
        place,
        marks,
        max(0.0, min(1.0, score)),
        findings,
        stored,
        channel.port == port.id,
        favoured,
        _beside(job, channel, port),
        fittings,
    )


def why_first(candidates: Sequence[Candidate]) -> str:
    """In a sentence why the first place is first: where it beats the second, and where it does not."""
    if not candidates:
        return ""
    if len(candidates) == 1:
        return f"{candidates[0].port.name} is the only place known."
    first, second = candidates[0], candidates[1]
    if first.beside and not second.beside:
        return f"{first.port.name} has a mouth free beside {first.beside}: nothing more is opened for it."
    better = [CRITERIA[c].lower() for c in CRITERIA if first.marks[c] > second.marks[c]]
    worse = [CRITERIA[c].lower() for c in CRITERIA if first.marks[c] < second.marks[c]]
    text = f"{first.port.name} comes before {second.port.name}"
    text += f" on {_listed(better)}" if better else f" by {first.score - second.score:.0%} only"
    text += f"; it is behind on {_listed(worse)}." if worse else "."
    if first.favoured and not second.favoured:
        text += f" The practice chosen, {first.favoured}, favours it."
    worst = second.findings[0] if second.findings and second.findings[0].grade != "note" else None
    if worst is not None:
        text += f" {second.port.name}: {worst.reason}"
    return text


def _listed(words: list[str]) -> str:
    return words[0] if len(words) == 1 else ", ".join(words[:-1]) + " and " + words[-1]
