"""From what the owner fears or wants to the least set of channels, each with the reason; where each signal can come from.

Data of ``data/aims.toml``, ``sources.toml`` and ``prerequisites.toml`` (common practice, no source).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, cast

from metrolex.findings import Finding
from metrolex.job import Job, SourceKind, Vehicle
from metrolex.job.once import once_per_job
from metrolex.kit import measurand_facts
from metrolex.tables import load_table

__all__ = [
    "Aim",
    "Need",
    "Proposal",
    "SourceChoice",
    "aims",
    "has_word",
    "needs_of",
    "planner_findings",
    "propose",
    "sources_for",
]


@dataclass(frozen=True, slots=True)
class Aim:
    """What an owner may fear or want."""

    key: str
    words: str


@dataclass(frozen=True, slots=True)
class Proposal:
    """A channel proposed, by which aims and why; ``there`` when the job has it."""

    measurand: str
    name: str
    reasons: tuple[tuple[str, str], ...]
    there: bool


@dataclass(frozen=True, slots=True)
class SourceChoice:
    """One way to get a signal. ``cost`` 0 to 4; ``loses`` what the factory system gives up; ``why_not`` bars it here."""

    key: SourceKind
    name: str
    cost: int
    hours: float
    holes: int
    accuracy: str
    rate_hz: float
    delay_s: float
    loses: str
    why_not: str = ""


@dataclass(frozen=True, slots=True)
class Need:
    """What a channel needs of the vehicle: the question, and whether it is there (None: not known)."""

    word: str
    question: str
    there: bool | None
    without: str
    remedy: str


def aims() -> tuple[Aim, ...]:
    """Everything an owner may fear or want."""
    return tuple(Aim(key, row["words"]) for key, row in load_table("aims").items())


def has_word(vehicle: Vehicle, word: str) -> bool | None:
    """Whether a vehicle has a thing: said, or known from what it is; None where nobody said.

    'no <word>' among what it has says that it has not.
    """
    if word in vehicle.has:
        return True
    if f"no {word}" in vehicle.has:
        return False
    known: dict[str, tuple[str, str]] = {
        "turbo": (vehicle.engine.induction, "turbo"),
        "automatic": (vehicle.driveline.gearbox, "automatic"),
        "petrol": (vehicle.fuel.burns, "petrol"),
    }
    if word in known:
        said, wanted = known[word]
        return None if not said else said == wanted or (word == "petrol" and said == "blend")
    if word == "turbo or compressor":
        return None if not vehicle.engine.induction else vehicle.engine.induction != "none"
    if word == "water cooling":
        return vehicle.engine.cooling != "air"
    if word == "automatic gearbox or cooler":
        return None if not vehicle.driveline.gearbox else vehicle.driveline.gearbox == "automatic"
    if word == "pressurised fuel supply" and vehicle.fuel.fuel_feed not in ("", "carburettor"):
        return True
    return None


@once_per_job
def propose(job: Job) -> tuple[Proposal, ...]:
    """The least set of channels for the aims of a job; what the vehicle cannot have is left out."""
    reasons: dict[str, list[tuple[str, str]]] = {}
    for key in job.brief.aims:
        row = load_table("aims").get(key)
        for item in row["channels"] if row else ():
            if "only" not in item or has_word(job.vehicle, item["only"]) is not False:
                reasons.setdefault(item["measurand"], []).append((row["words"] if row else key, item["why"]))
    there = {channel.measurand for channel in job.measured}
    return tuple(Proposal(m, measurand_facts(m).name, tuple(why), m in there) for m, why in reasons.items())


def sources_for(job: Job, measurand: str) -> tuple[SourceChoice, ...]:
    """Where a signal can come from on this vehicle: what is there already before new holes; barred ones last."""
    table: dict[str, Any] = load_table("sources")
    found = []
    for key, row in table.get(measurand, {}).items():
        why_not = _barred(job, measurand, key)
        found.append(SourceChoice(cast(SourceKind, key), table["kinds"][key]["name"], why_not=why_not, **row))
    return tuple(sorted(found, key=lambda s: (bool(s.why_not), s.holes, s.cost + s.hours)))


def _barred(job: Job, measurand: str, key: str) -> str:
    vehicle = job.vehicle
    if key == "ecu" and has_word(vehicle, "data bus") is False:
        return "The vehicle sends no data."
    if key == "ecu" and vehicle.fuel.fuel_feed == "carburettor":
        return "A carburettor engine has no engine control to ask."
    if (
        key == "worked_out"
        and measurand == "gear"
        and not {"engine_speed", "road_speed"} <= {c.measurand for c in job.measured}
    ):
        return "Wants engine speed and road speed as channels."
    if key == "shared" and measurand == "fuel_level" and has_word(vehicle, "wired tank sender") is False:
        return "There is no sender in the tank."
    return ""


def needs_of(job: Job, measurand: str) -> tuple[Need, ...]:
    """What a channel needs of the vehicle, and whether it is there."""
    return tuple(
        Need(row["word"], row["question"], has_word(job.vehicle, row["word"]), row["without"], row["remedy"])
        for row in load_table("prerequisites")["needs"]
        if row["measurand"] == measurand
    )


def planner_findings(job: Job) -> Iterator[Finding]:
    """Prerequisites that are missing or not known, channels an aim wants that are not there."""
    for channel in job.measured:
        for need in needs_of(job, channel.measurand):
            if need.there is False:
                yield Finding(
                    "stop",
                    "prerequisite_missing",
                    channel.name,
                    need.without,
                    f"no {need.word}",
                    need.remedy,
                    "brief",
                    channel.id,
                    about=f"channel {channel.id}",
                )
            elif need.there is None:
                yield Finding(
                    "note",
                    "prerequisite_not_known",
                    channel.name,
                    need.question,
                    need.word,
                    need.remedy,
                    "brief",
                    channel.id,
                    about=f"channel {channel.id}",
                )
    for proposal in propose(job):
        if not proposal.there:
            yield Finding(
                "note",
                "channel_proposed",
                proposal.name,
                proposal.reasons[0][1],
                proposal.reasons[0][0],
                "Add it, or leave it out on purpose.",
                "brief",
            )
