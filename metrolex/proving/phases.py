"""The phases of proving, in the order they can be met: which state of the key belongs to which."""

from __future__ import annotations

import functools
from dataclasses import dataclass
from typing import get_args

from metrolex.job import Job, State
from metrolex.job.record import PhaseKey
from metrolex.tables import load_table
from metrolex.twin.backlight import lights
from metrolex.twin.expectations import TestPoint

__all__ = ["Phase", "phase_of", "phases"]


@dataclass(frozen=True, slots=True)
class Phase:
    """One phase: how the vehicle stands in it, and the caution that belongs to it ('' for none)."""

    key: PhaseKey
    name: str
    stands: str
    caution: str


@functools.cache
def phases() -> tuple[Phase, ...]:
    """All phases, in their order."""
    table = load_table("phases")
    return tuple(
        Phase(key, table[key]["name"], table[key]["stands"], table[key]["caution"])
        for key in get_args(PhaseKey)
    )


def phase_of(job: Job, state: State, point: TestPoint | None = None) -> PhaseKey:
    """Where a state of the key belongs, and a test in it: ohms are taken with the battery off."""
    if point is not None and point.kind == "ohms" and state == State("off"):
        return "battery_off"
    if state.lamps != "off" or any(lights(job, one) for one in job.switches if one.id in state.thrown):
        return "lamps"
    if state.running:
        return "engine_running"
    return _BY_KEY[state.key]


_BY_KEY: dict[str, PhaseKey] = {"off": "first_power", "acc": "accessory", "run": "run", "crank": "crank"}
