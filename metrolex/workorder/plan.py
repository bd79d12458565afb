"""The whole plan of a job: its steps as recipes, schools and the fitter have them, in their best order."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache

from metrolex.job import AlteredStep, Job, OwnStep
from metrolex.twin.build import Network
from metrolex.twin.kept import once_per_circuit
from metrolex.workorder.hazards import with_hazards
from metrolex.workorder.needs import Needs, needs_of
from metrolex.workorder.order import Ordered, order_steps
from metrolex.workorder.own import altered, with_own, with_refills
from metrolex.workorder.planned import Planned, recipes_by
from metrolex.workorder.recipes import steps_of
from metrolex.workorder.schools import Ways, ways_chosen
from metrolex.workorder.step import Step

__all__ = ["MANY", "Factors", "Plan", "plan_of_work", "planned_steps", "whole_steps"]

#: How much longer or shorter than usual a workshop takes, by kind of step.
Factors = tuple[tuple[str, float], ...]
Beside = tuple[object, ...]
#: A page looks no further for the proof that no order is better; for a job of very many steps it hardly looks.
PAGE_WORK, MANY, MANY_WORK = 1.8, 150, 0.3


@dataclass(frozen=True, slots=True, eq=False)
class Plan:
    """The steps and their order from the first to the last, nothing done yet."""

    planned: tuple[Planned, ...]
    ordered: Ordered

    @property
    def by_name(self) -> Mapping[str, Planned]:
        """The steps by their names."""
        return {one.step.name: one for one in self.planned}

    @property
    def needs(self) -> Needs:
        """What binds them."""
        return needs_of([one.step for one in self.planned])


def plan_of_work(network: Network, factors: Factors = (), ways: Ways | None = None) -> Plan:
    """The plan of a job, by the ways chosen or others. Raises CircuitError and BadInput (needs in a circle) in words."""
    job = network.job
    return _plan(
        network,
        _beside(job),
        ways_chosen(job.work_hours) if ways is None else ways,
        job.altered_steps,
        job.own_steps,
        factors,
        job.work_hours.helper,
    )


def _beside(job: Job) -> Beside:
    """What steps are made of beside the circuit: a plan is handed on with the circuit, but not past a change of these."""
    return job.brief.practices, job.sites, job.mountings, job.fluids


def planned_steps(network: Network, factors: Factors = (), ways: Ways | None = None) -> tuple[Planned, ...]:
    """The steps alone, in no order."""
    job = network.job
    chosen = ways_chosen(job.work_hours) if ways is None else ways
    return _planned(network, _beside(job), chosen, job.altered_steps, job.own_steps, factors)


def whole_steps(network: Network) -> tuple[Planned, ...]:
    """The steps with none split, as one changes them."""
    job = network.job
    whole = tuple(replace(change, first_minutes=None) for change in job.altered_steps)
    return _planned(network, _beside(job), ways_chosen(job.work_hours), whole, job.own_steps, ())


@once_per_circuit
def _plan(
    network: Network,
    beside: Beside,
    ways: Ways,
    changes: tuple[AlteredStep, ...],
    own: tuple[OwnStep, ...],
    factors: Factors,
    helper: bool,
) -> Plan:
    planned = _planned(network, beside, ways, changes, own, factors)
    return Plan(planned, _ordered(tuple(one.step for one in planned), helper))


@lru_cache(maxsize=128)  # most changes of a job leave the steps as they are
def _ordered(steps: tuple[Step, ...], helper: bool) -> Ordered:
    return order_steps(steps, MANY_WORK if len(steps) > MANY else PAGE_WORK, bunch=helper)


@once_per_circuit
def _planned(
    network: Network,
    beside: Beside,
    ways: Ways,
    changes: tuple[AlteredStep, ...],
    own: tuple[OwnStep, ...],
    factors: Factors,
) -> tuple[Planned, ...]:
    found = with_own(altered(_scaled(steps_of(network, ways), dict(factors)), changes), own)
    found = with_hazards(with_refills(found, recipes_by(ways)), recipes_by(ways), network.job)
    needs_of([one.step for one in found])  # a circle is told before anything is ordered
    return found


def _scaled(planned: tuple[Planned, ...], factors: Mapping[str, float]) -> tuple[Planned, ...]:
    return tuple(
        replace(one, step=replace(one.step, minutes=round(one.step.minutes * factors[one.kind], 1)))
        if one.kind in factors
        else one
        for one in planned
    )
