"""The rest of the work from any moment: what is done falls out, what cannot be done now comes last, and what that costs is said."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from metrolex.twin.build import Network
from metrolex.twin.kept import once_per_circuit
from metrolex.workorder.needs import needs_of
from metrolex.workorder.order import PER_MINUTE, Ordered, Placed, order_steps
from metrolex.workorder.plan import Plan
from metrolex.workorder.planned import states_at_work
from metrolex.workorder.step import Step, ended_by
from metrolex.workorder.tidy import Work, entries_by_state, timed

__all__ = ["Rest", "held_up", "rest_of", "states_after"]

#: Asked while somebody stands at the vehicle: no more than this. What is found by then was as good as after six times as much in twenty jobs drawn at random, and is hardly ever proved.
REPLAN_WORK = 0.15


@dataclass(frozen=True, slots=True)
class Rest:
    """What is left: the steps that can be done, then those held up, minutes from now; states still to be entered; ``lost_min`` by what is held up.

    ``lost_min`` are states entered once more and waits that nothing fills any more, beside an order in which nothing was in the way.
    """

    free: tuple[Placed, ...]
    held: tuple[Placed, ...]
    setups: dict[str, int]
    lost_min: float


def held_up(plan: Plan, stuck: frozenset[str]) -> frozenset[str]:
    """The names of the steps that wait for one of those, directly or not; not those themselves."""
    held = set(stuck)
    for _ in plan.planned:
        more = {
            one.step.name
            for one in plan.planned
            if one.step.name not in held and any(need in held for need in one.step.needs)
        }
        if not more:
            break
        held |= more
    return frozenset(held - stuck)


def states_after(steps: Sequence[Step], before: frozenset[str] = frozenset()) -> frozenset[str]:
    """The states a vehicle is in after some steps in this order."""
    known, holds = states_at_work(), set(before)
    for step in steps:
        for need in step.needs:
            gone = ended_by(need)
            if gone is not None:
                holds.discard(gone)
        holds |= {need for need in step.needs if need in known}
    return frozenset(holds)


@once_per_circuit
def rest_of(
    network: Network, plan: Plan, gone: frozenset[str], stuck: frozenset[str], holds: frozenset[str]
) -> Rest:
    """The rest of a plan (of this very network) by names of steps: those ``gone``, those ``stuck``, the states the vehicle is in."""
    left = _without([one.step for one in plan.ordered.sequence], gone)
    held = stuck | held_up(plan, stuck)
    free = [step for step in left if step.name not in held]
    late = _without([step for step in left if step.name in held], frozenset(step.name for step in free))
    if not late:
        tail = _best(left, holds)
        return Rest(tail.sequence, (), tail.setups, 0.0)
    undisturbed, first = _best(left, holds), _best(free, holds)
    then = _best(late, states_after([one.step for one in first.sequence], holds))
    known = states_at_work()
    entered = {
        name: first.setups.get(name, 0) + then.setups.get(name, 0) for name in {**first.setups, **then.setups}
    }
    more = sum(
        known[name].minutes * (count - undisturbed.setups.get(name, 0))
        for name, count in entered.items()
        if name in known
    )
    waited = first.total_min + then.total_min - undisturbed.total_min
    shifted = tuple(
        replace(one, start_min=one.start_min + first.total_min, end_min=one.end_min + first.total_min)
        for one in then.sequence
    )
    return Rest(first.sequence, shifted, entered, max(0.0, more + waited))


def _without(steps: Sequence[Step], gone: frozenset[str]) -> list[Step]:
    return [
        replace(step, needs=tuple(need for need in step.needs if need not in gone))
        for step in steps
        if step.name not in gone
    ]


def _best(steps: list[Step], holds: frozenset[str]) -> Ordered:
    """The order as it stands where it enters no state it need not, so that nothing moves without need; else the best one."""
    if not steps:
        return Ordered((), {}, 0.0, 0.0, True)
    needs = needs_of(steps)
    work = Work(
        needs,
        [bool(step.hands) for step in steps],
        [round(PER_MINUTE * step.minutes) for step in steps],
        [round(PER_MINUTE * step.wait_minutes) for step in steps],
        holds,
    )
    order = [i for i, step in enumerate(steps) if step.hands]
    entered = entries_by_state(work, order)
    needless = any(
        count > (setup.name not in holds and bool(setup.wanted))
        for setup in needs.setups
        if (count := entered[setup.name])
    )
    times = timed(work, order)
    if needless or times is None:
        return order_steps(steps, REPLAN_WORK, holds=holds)
    placed = tuple(
        Placed(steps[i], times[i] / PER_MINUTE, times[i] / PER_MINUTE + steps[i].minutes)
        for i in sorted(range(len(steps)), key=lambda i: (times[i], i))
    )
    total = max(one.end_min for one in placed)
    return Ordered(placed, entered, total, total, False)
