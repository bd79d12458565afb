"""How good an order is: beside the way most would go, gauge after gauge, and beside what no order can beat."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from graphlib import TopologicalSorter

from metrolex.twin.build import Network
from metrolex.workorder.needs import Before, needs_of
from metrolex.workorder.order import PER_MINUTE
from metrolex.workorder.plan import Plan
from metrolex.workorder.planned import states_at_work
from metrolex.workorder.step import Step, ended_by
from metrolex.workorder.tidy import Work, entries_by_state, timed

__all__ = ["Compared", "compared", "critical_path_min", "gauge_after_gauge", "hands_on_min"]


@dataclass(frozen=True, slots=True)
class Compared:
    """Entries into states and minutes, their entering counted, of an order; ``entering_min`` is the part that goes into states."""

    entries: int
    total_min: float
    entering_min: float


def compared(steps: Sequence[Step], order: Sequence[int]) -> Compared:
    """An order of the hands-on steps, each begun as early as it may be."""
    needs = needs_of(steps)
    work = Work(
        needs,
        [bool(step.hands) for step in steps],
        [round(PER_MINUTE * step.minutes) for step in steps],
        [round(PER_MINUTE * step.wait_minutes) for step in steps],
    )
    times = timed(work, list(order))
    if times is None:
        raise ValueError("an order that breaks a need")
    known, entered = states_at_work(), entries_by_state(work, list(order))
    entering = sum(known[name].minutes * count for name, count in entered.items() if name in known)
    end = max((at + takes for at, takes in zip(times, work.takes, strict=True)), default=0) / PER_MINUTE
    return Compared(sum(entered.values()), end + entering, entering)


def gauge_after_gauge(network: Network, plan: Plan) -> Compared:
    """The way one falls into without a plan: each display with its readings wired, switched on and set up before the next is begun.

    Only the states count, what a step needs of others is taken as done: the least that way can take.
    """
    known, job = states_at_work(), network.job
    rank: dict[str, int] = {}
    for at, display in enumerate(job.displays):
        chains = [chain for chain in job.chains if chain.display == display.id]
        own = [key for chain in chains for key in (chain.channel, chain.run) if key]
        rank |= {part: at for part in (*own, display.id) if part not in rank}
    last = len(job.displays)
    steps = [
        replace(one.step, needs=tuple(need for need in one.step.needs if (ended_by(need) or need) in known))
        for one in plan.planned
    ]

    def turn(i: int) -> tuple[int, int, int]:
        one = plan.planned[i]
        first = one.kind in ("find_feeds", "try_in", "hole")
        late = one.kind in ("refill", "fuses", "trim_back") or one.kind.startswith("prove")
        return (last + 1 if late else -1 if first else rank.get(one.part, 0), _TURN.get(one.kind, 5), i)

    return compared(steps, sorted((i for i, step in enumerate(steps) if step.hands), key=turn))


_TURN = {"open": 0, "fit": 1, "lay": 2, "ground": 3, "tap": 3, "other_feed": 3, "mount": 4, "set_up": 9}


def critical_path_min(steps: Sequence[Step]) -> float:
    """The longest way through the needs, minutes with their waits: no order is shorter (Kelley and Walker 1959)."""
    into: dict[int, list[Before]] = {i: [] for i in range(len(steps))}
    for one in needs_of(steps).before:
        into[one.then].append(one)
    reach: dict[int, float] = {}
    for i in TopologicalSorter(
        {i: [one.first for one in before] for i, before in into.items()}
    ).static_order():
        reach[i] = max((reach[one.first] + _with_wait(steps[one.first], one) for one in into[i]), default=0.0)
    return max((reach[i] + step.minutes for i, step in enumerate(steps)), default=0.0)


def _with_wait(step: Step, before: Before) -> float:
    return step.minutes + (step.wait_minutes if before.waits else 0.0)


def hands_on_min(steps: Sequence[Step]) -> float:
    """Minutes of all that one pair of hands does: no order is shorter."""
    return sum(step.minutes for step in steps if step.hands)
