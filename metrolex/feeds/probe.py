"""What is typed into a probe sheet, volts or what a test lamp said, and in which columns."""

from __future__ import annotations

from typing import Literal

from metrolex.errors import BadInput
from metrolex.job import Job
from metrolex.job.feed import PROBED
from metrolex.quantities import VOLTAGE, parse

__all__ = ["HIGHEST_V", "columns_of", "read_probe"]

HIGHEST_V = 60.0
_LIVE = {"live", "l", "on", "lit", "bright"}
_DEAD = {"dead", "d", "off", "out", "dark"}


def read_probe(text: str) -> float | Literal["live", "dead"] | None:
    """A reading as typed; None for a blank. Raises BadInput (field ``reading``).

    >>> read_probe('12,4'), read_probe('Live'), read_probe(' ')
    (12.4, 'live', None)
    """
    plain = text.strip()
    if not plain:
        return None
    if plain.lower() in _LIVE:
        return "live"
    if plain.lower() in _DEAD:
        return "dead"
    allowed = f"volts from {-HIGHEST_V:g} to {HIGHEST_V:g}, or live or dead"
    try:
        volts = parse(plain, VOLTAGE, "V")
    except BadInput:
        raise BadInput("reading", text[:40], allowed) from None
    if abs(volts) > HIGHEST_V:
        raise BadInput("reading", text[:40], allowed, f"Expected {allowed}, but got {volts:g} V.")
    return volts


def columns_of(job: Job) -> tuple[str, ...]:
    """The columns of the probe sheet: those every sheet has, then the fitter's own, those somebody read in among them."""
    read_in = (one.column for circuit in job.circuits for one in circuit.readings.also)
    return (*PROBED, *dict.fromkeys((*job.survey.probed_also, *read_in)))
