"""A state as one says it, the job's own switches by their names."""

from __future__ import annotations

from dataclasses import replace

from metrolex.job.whole import Job
from metrolex.job.words import State

__all__ = ["state_in_words"]


def state_in_words(job: Job, state: State) -> str:
    """'key run, lamps park, Engine or gearbox oil at gearbox oil'; a switch that is there no more by its id."""
    known = {switch.id: switch for switch in job.switches}
    thrown = (
        f"{known[key].name} at {known[key].position(thrown=True)}" if key in known else f"{key} thrown"
        for key in state.thrown
    )
    return ", ".join((replace(state, thrown=()).words(), *thrown))
