"""What a work card is written from, and one step of it."""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.job import Job, MeasuringChain, Port, Sender
from metrolex.ports.facts import Facts
from metrolex.ports.places import Place
from metrolex.ports.section import Section

__all__ = ["Bench", "Step"]


@dataclass(frozen=True, slots=True)
class Step:
    """One thing to do; ``figure`` is the number to have in hand."""

    words: str
    figure: str = ""


@dataclass(frozen=True, slots=True)
class Bench:
    """Everything a card is written from."""

    job: Job
    channel: MeasuringChain
    port: Port
    sender: Sender | None
    facts: Facts
    place: Place | None
    section: Section | None
