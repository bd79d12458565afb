"""The order of the steps: fewest entries into states, then the least time; by constraint programming (CP-SAT), proved or with the gap said.

Minutes are taken in twelfths (five seconds), so that the solver works with whole numbers. How long it searches is counted in work done, by
the solver's own count, and not in seconds: the same steps give the same order on any machine, however busy. A unit of it took 3 to 4 s where it was measured.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from metrolex.workorder.greedy import greedy_order
from metrolex.workorder.needs import Needs, needs_of
from metrolex.workorder.step import Step
from metrolex.workorder.tidy import Work, entries_by_state, entries_of, shortened, tidied, timed

__all__ = ["Ordered", "Placed", "order_steps"]

PER_MINUTE = 12
MOST_WORK = 3.0


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
    steps: Sequence[Step],
    most_work: float = MOST_WORK,
    before: Sequence[Placed] = (),
    holds: frozenset[str] = frozenset(),
    *,
    bunch: bool = True,
) -> Ordered:
    """The best order. ``before`` is an order known already, from which the search begins; ``holds`` are states that hold at the beginning.

    ``bunch``: among orders as good, one in which the steps for two people lie close together. Raises BadInput, see ``needs_of``.
    """
    needs = needs_of(steps)
    if not steps:
        return Ordered((), {}, 0.0, 0.0, True)
    return _Search(steps, needs, most_work, before, holds, bunch=bunch).run()


class _Search:
    """First among orders that enter no state more often than any order must: the best of them is the best of all. Only where there is none, among all."""

    def __init__(
        self,
        steps: Sequence[Step],
        needs: Needs,
        most_work: float,
        before: Sequence[Placed],
        holds: frozenset[str],
        *,
        bunch: bool,
    ) -> None:
        self.steps, self.needs, self.most_work, self.holds = steps, needs, most_work, holds
        self.takes = [math.ceil(round(PER_MINUTE * step.minutes, 6)) for step in steps]
        self.waits = [math.ceil(round(PER_MINUTE * step.wait_minutes, 6)) for step in steps]
        self.hands = [bool(step.hands) for step in steps]
        self.horizon = sum(self.takes) + sum(self.waits)
        pairs = tuple(i for i, step in enumerate(steps) if step.hands > 1) if bunch else ()
        self.work = Work(needs, self.hands, self.takes, self.waits, holds, pairs)
        self.least = sum(takes for takes, hand in zip(self.takes, self.hands, strict=True) if hand)
        self.steady = self._at_once()
        self.first = self._known(before) or self.steady

    def run(self) -> Ordered:
        found, bound, proved = self.steady, float(self.least), True
        if not self._cannot_be_better(found):
            found, bound, proved = self._best()
        found = tidied(self.work, found)
        entries = entries_by_state(self.work, self._by_hand(found))
        placed = self._placed(found)
        return Ordered(
            placed,
            entries | dict.fromkeys(self.needs.made, 1),
            max(one.end_min for one in placed),
            max(bound, self.least) / PER_MINUTE,
            proved,
        )

    def _cannot_be_better(self, found: list[int]) -> bool:
        """Whether no hand rests and no state is entered that must not be: then nobody need search."""
        entered = entries_by_state(self.work, self._by_hand(found))
        must = sum(bool(setup.wanted) and setup.name not in self.holds for setup in self.needs.setups)
        return self._end(found) <= self.least and sum(entered.values()) <= must

    def _best(self) -> tuple[list[int], float, bool]:
        """The best order found, the least the minutes may be, whether that was proved; the steady order where it is as good."""
        from ortools.sat.python.cp_model import INFEASIBLE, OPTIMAL  # heavy to load

        status, found, bound = self._searched(self._least_entries)
        if status == INFEASIBLE:  # told almost at once
            status, found, bound = self._searched(self._fewest_entries)
        as_good = self._end(self.steady) <= self._end(found) and entries_of(
            self.work, self._by_hand(self.steady)
        ) <= entries_of(self.work, self._by_hand(found))
        return self.steady if as_good else found, bound, status == OPTIMAL

    def _end(self, found: list[int]) -> int:
        return max(at + takes for at, takes in zip(found, self.takes, strict=True))

    def _by_hand(self, found: list[int]) -> list[int]:
        rank = self._rank(found)
        return sorted((i for i, hand in enumerate(self.hands) if hand), key=lambda i: (found[i], rank[i]))

    def _searched(self, entering: Callable[[Any, list[Any]], list[Any]]) -> tuple[Any, list[int], float]:
        """How the search ended, the beginnings of the best order it knows, and the least its minutes may be."""
        from ortools.sat.python import cp_model as cp  # heavy to load

        model = cp.CpModel()
        starts = [model.new_int_var(0, self.horizon, f"start {i}") for i in range(len(self.steps))]
        end = model.new_int_var(0, self.horizon, "end")
        for start, takes in zip(starts, self.takes, strict=True):
            model.add(end >= start + takes)
        for one in self.needs.before:
            wait = self.waits[one.first] if one.waits else 0
            model.add(starts[one.then] >= starts[one.first] + self.takes[one.first] + wait)
        model.add_no_overlap(
            model.new_fixed_size_interval_var(starts[i], self.takes[i], f"at work {i}")
            for i, hand in enumerate(self.hands)
            if hand
        )
        counted = entering(model, starts)
        weight = self.horizon + 1
        model.minimize(weight * sum(counted) + end if counted else end)
        for start, at in zip(starts, self.first, strict=True):
            model.add_hint(start, at)
        solver = cp.CpSolver()
        solver.parameters.max_deterministic_time = self.most_work
        solver.parameters.num_workers = 1
        solver.parameters.random_seed = 1
        status = solver.solve(model)
        if status not in (cp.OPTIMAL, cp.FEASIBLE):
            return status, self.first, 0.0
        spent = weight * sum(int(solver.value(one)) for one in counted)
        found = [int(solver.value(start)) for start in starts]
        return status, found, solver.best_objective_bound - spent

    def _least_entries(self, model: Any, starts: list[Any]) -> list[Any]:
        """Each state entered once, or not at all where it holds: whatever ends it lies before all that want it, or after."""
        for setup in self.needs.setups:
            if not setup.wanted or not setup.ended:
                continue
            begins, ends = (
                model.new_int_var(0, self.horizon, f"{setup.name} {word}") for word in ("from", "to")
            )
            for i in setup.wanted:
                model.add(begins <= starts[i])
                model.add(ends >= starts[i] + self.takes[i])
            for i in setup.ended:
                if setup.name in self.holds:
                    model.add(starts[i] >= ends)
                    continue
                before = model.new_bool_var(f"{setup.name} {i}")
                model.add(starts[i] + self.takes[i] <= begins).only_enforce_if(before)
                model.add(starts[i] >= ends).only_enforce_if(~before)
        return []

    def _fewest_entries(self, model: Any, starts: list[Any]) -> list[Any]:
        """Any order: the entries into each state whose count the order can change."""
        counted = []
        for setup in self.needs.setups:
            if not setup.ended or not setup.wanted:
                continue
            # One round through the steps that want the state or want it ended, in their order: node 0 is the beginning and the end.
            stops = [*setup.wanted, *setup.ended]
            arcs, into = [], []
            for a, first in enumerate((None, *stops)):
                for b, then in enumerate((None, *stops)):
                    if a == b:
                        continue
                    taken = model.new_bool_var(f"{setup.name} {a} {b}")
                    arcs.append((a, b, taken))
                    if first is not None and then is not None:
                        model.add(starts[then] >= starts[first] + self.takes[first]).only_enforce_if(taken)
                    fresh = setup.name not in self.holds if first is None else first in setup.ended
                    if then in setup.wanted and fresh:
                        into.append(taken)
            model.add_circuit(arcs)
            least = 0 if setup.name in self.holds else 1
            entered = model.new_int_var(least, len(setup.wanted), f"entered {setup.name}")
            model.add(entered == sum(into))
            counted.append(entered)
        return counted

    def _known(self, before: Sequence[Placed]) -> list[int] | None:
        """The beginnings of an order known already, where it has every step and keeps the needs."""
        at = {one.step.name: place for place, one in enumerate(before)}
        if any(step.name not in at for step in self.steps):
            return None
        by_hand = (i for i, hand in enumerate(self.hands) if hand)
        return timed(self.work, sorted(by_hand, key=lambda i: at[self.steps[i].name]))

    def _at_once(self) -> list[int]:
        """By an order that follows from the list, so that little moves when little changes."""
        found = timed(self.work, shortened(self.work, greedy_order(self.work)))
        assert found is not None, "an order that keeps the needs"
        return found

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
