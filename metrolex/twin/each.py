"""Hundreds of faults of one job in one state, each alone or a few at once.

The healthy network is taken apart once, and each fault is a small change of it. All faults that leave the same displays awake and the same
relays pulled share one more network, taken apart once too. What cannot be told so is solved by itself.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit import Element, Fault, Replaced, apply_faults, as_changes, solve_together
from metrolex.circuit import solve as solve_circuit
from metrolex.circuit.changes import Change, One
from metrolex.circuit.elements import Name, value_of
from metrolex.circuit.solve import Solutions
from metrolex.job import Job, State
from metrolex.senders import PULSED
from metrolex.twin.boxes import outputs_of_boxes, same_outputs
from metrolex.twin.build import Network, elements_for
from metrolex.twin.run import Solved, have_power, pull, solve
from metrolex.twin.touched import touched

__all__ = ["Together", "change_each", "follows_elements", "solve_each"]

MOST_BASES = 24  # networks made for the faults that put displays to sleep
MOST_ANSWERS = 3  # of boxes to one fault: what a box gives does not come back to its own input

Faults = Sequence[Fault | Replaced]  # at once; none: the job as it is
Alive = tuple[frozenset[str], frozenset[str]]  # the displays awake, the relays pulled


@dataclass(frozen=True, slots=True)
class Together:
    """Faults that are small changes of one network: which of those asked for, and what changes for each; no ``changes`` where one was solved by itself."""

    base: Solved
    which: tuple[int, ...]
    faults: tuple[Faults, ...]
    changes: tuple[tuple[One, ...], ...]
    solutions: Solutions

    @property
    def unknowns(self) -> NDArray[np.float64]:
        """Volts of the nodes and amperes of the sources, in the order of the base's equations: a column for each fault."""
        written = self.base.solution.written
        assert written is not None
        if any(self.changes):
            return self.solutions.answers.whole()
        answer = np.asarray(np.linalg.solve(written.matrix(), written.right), dtype=np.float64)
        return np.tile(answer[:, None], len(self.which))

    def solved(self, i: int) -> Solved:
        """The state with the fault at one place, as a whole."""
        if not self.faults[i] or not self.changes[i]:
            return self.base
        elements = (
            tuple(apply_faults(self.base.elements, self.faults[i]))
            if follows_elements(self.base.network.job)
            else self.base.elements
        )
        return replace(self.base, elements=elements, solution=self.solutions[i])


def solve_each(
    network: Network, state: State, faults: Sequence[Faults], besides: Faults = ()
) -> list[Solved]:
    """Each of ``faults`` in one state, with what is ``besides``, solved. Currents are left out. Raises as ``change_each`` does."""
    found: dict[int, Solved] = {}
    for one in change_each(network, state, faults, besides):
        found |= {place: one.solved(i) for i, place in enumerate(one.which)}
    return [found[i] for i in range(len(faults))]


def change_each(
    network: Network,
    state: State,
    faults: Sequence[Faults],
    besides: Faults = (),
    hung: Sequence[Element] = (),
) -> list[Together]:
    """Each of ``faults`` in one state, with what is done to the vehicle ``besides`` and elements ``hung`` on it. Currents are left out.

    Raises CircuitError in words, BadInput for a fault at a part that is not there.
    """
    healthy = solve(network, state, besides, extra=hung)
    first: Alive = (healthy.powered, healthy.pulled)
    sound = [i for i, group in enumerate(faults) if not group]
    found = [_alone(healthy, sound)] if sound else []
    waiting: dict[Alive, list[int]] = {first: [i for i in range(len(faults)) if faults[i]]}
    left, from_the_top = set(waiting[first]), set[int]()
    every = frozenset(display.id for display in network.job.displays)
    boxes = _Boxes(healthy)
    bases = 0
    while waiting and bases < MOST_BASES:
        alive = next(iter(waiting))
        group, bases = waiting.pop(alive), bases + 1
        base = healthy if alive == first else _standing(healthy, besides, hung, *alive)
        one = _changed(base, [(*faults[i], *boxes.besides.get(i, ())) for i in group], group)
        stand = list[int]()
        for i, (awake, pulled) in enumerate(_alive(base, one.solutions) if one.which else ()):
            # As ``solve`` has it: all are awake at first, relays come before displays, and one that would wake again stays asleep.
            place, now = one.which[i], (alive[0] if pulled != alive[1] else awake & alive[0], pulled)
            if not awake <= alive[0] and place not in from_the_top:
                from_the_top.add(place)
                waiting.setdefault((every, first[1]), []).append(place)
            elif now == alive:
                stand.append(i)
            else:
                waiting.setdefault(now, []).append(place)
        for i in boxes.answer(one, stand):
            stand.remove(i)
            if boxes.rounds[one.which[i]] < MOST_ANSWERS:
                waiting.setdefault(alive, []).append(one.which[i])
        left -= {one.which[i] for i in stand}
        if stand:
            found.append(_of(one, stand))
    return [*found, *(_by_itself(healthy, i, faults[i], besides, hung) for i in sorted(left))]


class _Boxes:
    """What the boxes of a job give with each fault: where it is another than they were taken to give, they answer it with sources of other values."""

    def __init__(self, healthy: Solved) -> None:
        self.healthy, self.job = healthy, healthy.network.job
        self.chains = [chain for chain in self.job.chains if chain.box]
        self.besides: dict[int, tuple[Replaced, ...]] = {}
        self.rounds: dict[int, int] = {}
        self._taken: dict[int, Mapping[str, float]] = {}
        self._plain = self._given(healthy) if self.chains else {}
        self._written: tuple[Solved, Sequence[Element]] | None = None

    def _given(self, solved: Solved) -> dict[str, float]:
        across = solved.solution.across
        return outputs_of_boxes(self.job, solved.elements, across, solved.powered, self.healthy.true)

    def answer(self, one: Together, stand: Sequence[int]) -> list[int]:
        """The places of ``stand`` whose boxes give something else than they were taken to; what they give is noted for the next time."""
        if not self.chains or not stand:
            return []
        other = np.zeros(len(one.which), dtype=bool)
        for chain in self.chains:
            other |= touched(one.base, one.faults, one.solutions, chain)
        found = []
        for i in stand:
            place = one.which[i]
            if not other[i] and place not in self._taken:
                continue
            now = self._given(one.solved(i))
            if not same_outputs(self.job, now, self._taken.get(place, self._plain)):
                self._taken[place] = now
                self.rounds[place] = self.rounds.get(place, 0) + 1
                self.besides[place] = self._sources(one.base, now)
                found.append(i)
        return found

    def _sources(self, base: Solved, given: Mapping[str, float]) -> tuple[Replaced, ...]:
        """The sources of a network that give something else than without the fault."""
        if self._written is None or self._written[0] is not base:
            self._written = base, self._elements(base, self._plain)
        fresh = self._elements(base, given)
        return tuple(
            Replaced(new.name, value_of(new))
            for old, new in zip(self._written[1], fresh, strict=True)
            if old != new
        )

    def _elements(self, base: Solved, given: Mapping[str, float]) -> Sequence[Element]:
        return elements_for(base.network, base.state, base.true, base.powered, dict(given), base.pulled)


def _alone(solved: Solved, which: Sequence[int], faults: Faults = ()) -> Together:
    count = len(which)
    solutions = solved.solution.alone().some([0] * count)
    return Together(solved, tuple(which), (faults,) * count, ((),) * count, solutions)


def _by_itself(healthy: Solved, i: int, faults: Faults, besides: Faults, hung: Sequence[Element]) -> Together:
    return _alone(solve(healthy.network, healthy.state, [*besides, *faults], extra=hung), [i], faults)


def _of(one: Together, some: Sequence[int]) -> Together:
    if len(some) == len(one.which):
        return one
    return Together(
        one.base,
        tuple(one.which[i] for i in some),
        tuple(one.faults[i] for i in some),
        tuple(one.changes[i] for i in some),
        one.solutions.some(some),
    )


def _standing(
    healthy: Solved,
    besides: Faults,
    hung: Sequence[Element],
    awake: frozenset[str],
    pulled: frozenset[str],
) -> Solved:
    """The network with other displays awake and other relays pulled."""
    given = outputs_of_boxes(
        healthy.network.job, healthy.elements, healthy.solution.across, awake, healthy.true
    )
    plain = elements_for(healthy.network, healthy.state, healthy.true, awake, given, pulled)
    elements = (*apply_faults(plain, besides), *hung)
    return replace(healthy, elements=elements, solution=solve_circuit(elements), powered=awake, pulled=pulled)


def _changed(base: Solved, faults: Sequence[Faults], which: Sequence[int]) -> Together:
    """The faults of a group that are changes of one network; those that need it written anew are left out."""
    by_name: Mapping[Name, Element] = {element.name: element for element in base.elements}
    changes: dict[int, tuple[One, ...]] = {}
    for i, group in enumerate(faults):
        parts = [(one,) if isinstance(one, Replaced) else as_changes(by_name, one) for one in group]
        made = tuple(change for part in parts for change in part or ())
        broken = [one.element for one in group if isinstance(one, Fault)]
        if None not in parts and len(set(broken)) == len(broken) and not _joins_what_floats(base, made):
            changes[i] = made
    solutions = solve_together(base.elements, list(changes.values()), base.solution.written)
    return Together(
        base,
        tuple(which[i] for i in changes),
        tuple(faults[i] for i in changes),
        tuple(changes.values()),
        solutions,
    )


def follows_elements(job: Job) -> bool:
    """Whether what a display or box makes of it hangs on the elements too: pulses along wires that conduct."""
    return any(
        chain.box or ((heard := job.heard(chain)) is not None and heard.curve.x_unit in PULSED)
        for chain in job.chains
    )


def _joins_what_floats(base: Solved, changes: Sequence[One]) -> bool:
    floating = base.solution.floating
    return any(isinstance(one, Change) and (one.a in floating or one.b in floating) for one in changes)


def _alive(base: Solved, solutions: Solutions) -> Iterator[Alive]:
    """For each answer the displays that have power and the relays that pull."""
    job = base.network.job
    awake = {display.id: have_power(job, display.id, solutions) for display in job.displays}
    pulled = pull(job, solutions)
    for i in range(len(solutions)):
        yield (
            frozenset(key for key, has in awake.items() if has[i]),
            frozenset(key for key, pulls in pulled.items() if pulls[i]),
        )
