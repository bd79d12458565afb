"""What runs out when ports are opened, what to have ready, what to do in the same go. Estimates, until measured."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from metrolex.findings import Finding
from metrolex.job import FluidRecord, Job
from metrolex.ports.places import place_of
from metrolex.tables import load_table

__all__ = ["FluidPlan", "fluid_findings", "fluids_of"]


_LITTLE_L = 0.5


@dataclass(frozen=True, slots=True)
class FluidPlan:
    """One fluid of a job: litres that will come out (an estimate), litres to have at hand, and what was measured."""

    key: str
    name: str
    lost_l: float
    have_ready_l: float
    ready: tuple[str, ...]
    back: str
    with_it: tuple[str, ...]
    places: tuple[str, ...]
    record: FluidRecord | None

    @property
    def missing_l(self) -> float | None:
        """Litres that went out and did not come back; None until both are measured."""
        if self.record is None or self.record.lost_l is None or self.record.returned_l is None:
            return None
        return self.record.lost_l - self.record.returned_l


def fluids_of(job: Job) -> tuple[FluidPlan, ...]:
    """The fluids the chosen ports of a job let out. Two senders in one opening count once."""
    openings: dict[str, dict[tuple[str, str], tuple[float, str]]] = {}
    for channel in job.measured:
        port = job.port(channel.port)
        place = place_of(channel.measurand, port) if port else None
        if port is None or place is None or not place.fluid:
            continue
        where = (port.spot.path or place.path, place.card if place.card == "plate" else port.id)
        openings.setdefault(place.fluid, {})[where] = (place.loss_l, port.name)
    return tuple(_plan(job, key, found) for key, found in openings.items())


def _plan(job: Job, key: str, openings: dict[tuple[str, str], tuple[float, str]]) -> FluidPlan:
    facts = load_table("fluids")[key]
    # One draining serves every opening below its level: the largest loss, not the sum, for systems that are drained down.
    losses = [loss for loss, _ in openings.values()]
    lost = max(losses) if max(losses) >= 1.0 else sum(losses)
    leaks = tuple(f"Leak found in the survey: {leak}" for leak in job.survey.leaks)
    return FluidPlan(
        key,
        facts["name"],
        round(lost, 3),
        _ready(lost * facts["spare_ratio"]),
        tuple(facts["ready"]),
        facts["back"],
        (*facts["with_it"], *leaks),
        tuple(dict.fromkeys(name for _, name in openings.values())),
        next((r for r in job.fluids if r.id == key), None),
    )


def _ready(litres: float) -> float:
    """Rounded up to what one sets out: tenths of a litre of a little, half litres of more."""
    steps = 10 if litres < _LITTLE_L else 2
    return math.ceil(steps * litres - 1e-9) / steps


def fluid_findings(job: Job) -> Iterator[Finding]:
    """A fluid that went out and did not all come back."""
    for plan in fluids_of(job):
        missing = plan.missing_l
        if missing is not None and missing > max(
            0.02, 0.05 * (plan.record.lost_l or 0.0) if plan.record else 0.02
        ):
            yield Finding(
                "caution",
                "fluid_short",
                plan.name,
                "Less came back than went out.",
                f"{missing:.2f} L short",
                f"Top up with the maker's fluid and check the level. {plan.back}",
                "ports",
            )
