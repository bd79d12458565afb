"""The order of the steps: fewest entries into states, then the least time; by constraint programming (CP-SAT), proved or with the gap said.

Minutes are taken in twelfths (five seconds), so that the solver works with whole numbers.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from metrolex.workorder.needs import Needs, needs_of
from metrolex.workorder.step import Step
from metrolex.workorder.tidy import tidied

__all__ = ["Ordered", "Placed", "order_steps"]

PER_MINUTE = 12
LONGEST_S = 10.0


@dataclass(frozen=True, slots=True)
class Placed:
    """A step with its beginning and its end, minutes from the beginning of the work; its wait not counted."""

    step: Step
    start_min: float
    end_min: float


@dataclass(frozen=True, slots=True)
class Ordered:
    """The steps by their beginning, how often each state is entered, the end of the last; ``at_least`` no order takes less, with so few entries.

    ``proved``: no order has fewer entries, and none with as few is shorter.
    """

    sequence: tuple[Placed, ...]
    setups: dict[str, int]
    total_min: float
    at_least: float
    proved: bool


def order_steps(
    steps: Sequence[Step], longest_s: float = LONGEST_S, before: Sequence[Placed] = ()
) -> Ordered:
    """The best order. ``before`` is an order known already, from which the search begins. Raises BadInput, see ``needs_of``."""
    needs = needs_of(steps)
    if not steps:
        return Ordered((), {}, 0.0, 0.0, True)
    return _Search(steps, needs, longest_s, before).run()


class _Search:
    def __init__(
        self, steps: Sequence[Step], needs: Needs, longest_s: float, before: Sequence[Placed]
    ) -> None:
        from ortools.sat.python import cp_model  # heavy to load

        self.cp, self.model = cp_model, cp_model.CpModel()
        self.steps, self.needs, self.longest_s, self.before = steps, needs, longest_s, before
        self.takes = [math.ceil(round(PER_MINUTE * step.minutes, 6)) for step in steps]
        self.waits = [math.ceil(round(PER_MINUTE * step.wait_minutes, 6)) for step in steps]
        self.hands = [bool(step.hands) for step in steps]
        self.horizon = sum(self.takes) + sum(self.waits)
        self.starts = [self.model.new_int_var(0, self.horizon, f"start {i}") for i in range(len(steps))]

    def run(self) -> Ordered:
        model, cp = self.model, self.cp
        self._precedences()
        self._one_pair_of_hands()
        entries = [self._entries(setup) for setup in self.needs.setups]
        end = model.new_int_var(0, self.horizon, "end")
        for start, takes in zip(self.starts, self.takes, strict=True):
            model.add(end >= start + takes)
        free = [one for one in entries if not isinstance(one, int)]
        weight = self.horizon + 1
        model.minimize(weight * sum(free) + end if free else end)
        self._hint({one.step.name: round(PER_MINUTE * one.start_min) for one in self.before})
        solver, status = self._solved(self.longest_s)
        bound = solver.best_objective_bound
        counted = sum(solver.value(one) for one in free)
        found = [int(solver.value(start)) for start in self.starts]
        placed = self._placed(tidied(self.needs, self.hands, self.takes, self.waits, found))
        setups = {
            setup.name: one if isinstance(one, int) else int(solver.value(one))
            for setup, one in zip(self.needs.setups, entries, strict=True)
        }
        return Ordered(
            placed,
            setups | dict.fromkeys(self.needs.made, 1),
            max(one.end_min for one in placed),
            max(0.0, bound - weight * counted) / PER_MINUTE,
            status == cp.OPTIMAL,
        )

    def _solved(self, longest_s: float) -> tuple[Any, Any]:
        solver = self.cp.CpSolver()
        solver.parameters.max_time_in_seconds = longest_s
        solver.parameters.num_workers = 1
        solver.parameters.random_seed = 1
        status = solver.solve(self.model)
        assert status in (self.cp.OPTIMAL, self.cp.FEASIBLE), solver.status_name(status)
        return solver, status

    def _precedences(self) -> None:
        for one in self.needs.before:
            wait = self.waits[one.first] if one.waits else 0
            self.model.add(self.starts[one.then] >= self.starts[one.first] + self.takes[one.first] + wait)

    def _one_pair_of_hands(self) -> None:
        self.model.add_no_overlap(
            self.model.new_fixed_size_interval_var(self.starts[i], self.takes[i], f"at work {i}")
            for i, step in enumerate(self.steps)
            if step.hands
        )

    def _entries(self, setup: Any) -> Any:
        """How often a state is entered: a number where the order cannot change it, else the sum of the ways into it."""
        if not setup.ended or not setup.wanted:
            return 1 if setup.wanted else 0
        # One round through the steps that want the state or want it ended, in their order: node 0 is the beginning and the end.
        model, stops = self.model, [*setup.wanted, *setup.ended]
        arcs, into = [], []
        for a, first in enumerate((None, *stops)):
            for b, then in enumerate((None, *stops)):
                if a == b:
                    continue
                taken = model.new_bool_var(f"{setup.name} {a} {b}")
                arcs.append((a, b, taken))
                if first is not None and then is not None:
                    model.add(self.starts[then] >= self.starts[first] + self.takes[first]).only_enforce_if(
                        taken
                    )
                if then in setup.wanted and (first is None or first in setup.ended):
                    into.append(taken)
        model.add_circuit(arcs)
        entered = model.new_int_var(1, len(setup.wanted), f"entered {setup.name}")
        model.add(entered == sum(into))
        return entered

    def _hint(self, starts: Mapping[str, int]) -> None:
        for step, start in zip(self.steps, self.starts, strict=True):
            if step.name in starts:
                self.model.add_hint(start, starts[step.name])

    def _placed(self, starts: Sequence[int]) -> tuple[Placed, ...]:
        """By beginning; what takes no time before what begins with it, as the needs have it."""
        rank = self._rank(starts)
        found = sorted(range(len(self.steps)), key=lambda i: (starts[i], rank[i]))
        return tuple(
            Placed(self.steps[i], starts[i] / PER_MINUTE, starts[i] / PER_MINUTE + self.steps[i].minutes)
            for i in found
        )

    def _rank(self, starts: Sequence[int]) -> list[int]:
        """Places in an order that keeps the needs, among steps that begin together."""
        rank = [0] * len(self.steps)
        for _ in self.steps:
            for one in self.needs.before:
                if starts[one.first] == starts[one.then]:
                    rank[one.then] = max(rank[one.then], rank[one.first] + 1)
        return rank
