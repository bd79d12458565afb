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
from metrolex.circuit.elements import Name
from metrolex.circuit.solve import Column
from metrolex.job import Job, State
from metrolex.senders import PULSED
from metrolex.twin.boxes import outputs_of_boxes, same_outputs
from metrolex.twin.build import Network, elements_for
from metrolex.twin.run import Solved, has_power, pulling, solve

__all__ = ["Changed", "change_each", "solve_each"]

MOST_BASES = 24  # networks made for the faults that put displays to sleep

Faults = Sequence[Fault | Replaced]  # at once; none: the job as it is
Alive = tuple[frozenset[str], frozenset[str]]  # the displays awake, the relays pulled


@dataclass(frozen=True, slots=True)
class Changed:
    """What came of a fault: the state as solved, and the network it is a small change of, with the changes; none where it was solved by itself."""

    solved: Solved
    base: Solved
    changes: tuple[One, ...] = ()

    @property
    def unknowns(self) -> NDArray[np.float64]:
        """Volts of the nodes and amperes of the sources, in the order of the base's equations."""
        volts, written = self.solved.solution.potentials, self.base.solution.written
        if isinstance(volts, Column):
            return volts.whole
        assert written is not None
        return np.asarray(np.linalg.solve(written.matrix(), written.right), dtype=np.float64)


def solve_each(
    network: Network, state: State, faults: Sequence[Faults], besides: Sequence[Fault] = ()
) -> list[Solved]:
    """Each of ``faults`` in one state, solved; see ``change_each``."""
    return [one.solved for one in change_each(network, state, faults, besides)]


def change_each(
    network: Network,
    state: State,
    faults: Sequence[Faults],
    besides: Sequence[Fault] = (),
    hung: Sequence[Element] = (),
) -> list[Changed]:
    """Each of ``faults`` in one state, with what is done to the vehicle ``besides`` and elements ``hung`` on it. Currents are left out.

    Raises CircuitError in words, BadInput for a fault at a part that is not there.
    """
    healthy = solve(network, state, besides, extra=hung)
    first: Alive = (healthy.powered, healthy.pulled)
    found = {i: Changed(healthy, healthy) for i, group in enumerate(faults) if not group}
    waiting: dict[Alive, list[int]] = {first: [i for i in range(len(faults)) if i not in found]}
    bases = 0
    while waiting and bases < MOST_BASES:
        alive = next(iter(waiting))
        group, bases = waiting.pop(alive), bases + 1
        base = healthy if alive == first else _standing(healthy, besides, hung, *alive)
        for i, one in _changed(base, faults, group):
            now = _alive(base, one.solved)
            if now == alive:
                found[i] = one
            elif now[0] <= alive[0]:  # a display that wakes again is not followed here
                waiting.setdefault(now, []).append(i)
    return [
        found[i]
        if i in found and _stands(healthy, found[i].solved)
        else _by_itself(healthy, [*besides, *group], hung)
        for i, group in enumerate(faults)
    ]


def _by_itself(healthy: Solved, faults: Faults, hung: Sequence[Element]) -> Changed:
    solved = solve(healthy.network, healthy.state, faults, extra=hung)
    return Changed(solved, solved)


def _standing(
    healthy: Solved,
    besides: Sequence[Fault],
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


def _changed(base: Solved, faults: Sequence[Faults], group: Sequence[int]) -> Iterator[tuple[int, Changed]]:
    """Each fault of a group as a change of one network, with the elements as they are then; those that need it written anew are left out."""
    by_name: Mapping[Name, Element] = {element.name: element for element in base.elements}
    changes: dict[int, tuple[One, ...]] = {}
    for i in group:
        parts = [(one,) if isinstance(one, Replaced) else as_changes(by_name, one) for one in faults[i]]
        made = tuple(change for part in parts for change in part or ())
        alike = len({one.element for one in faults[i] if isinstance(one, Fault)}) < len(faults[i]) > 1
        if None not in parts and not alike and not _joins_what_floats(base, made):
            changes[i] = made
    solutions = solve_together(base.elements, list(changes.values()), base.solution.written)
    followed = _follows_elements(base.network.job)
    for i, solution in zip(changes, solutions, strict=True):
        elements = tuple(apply_faults(base.elements, faults[i])) if followed else base.elements
        yield i, Changed(replace(base, elements=elements, solution=solution), base, changes[i])


def _follows_elements(job: Job) -> bool:
    """Whether what a display or box makes of it hangs on the elements too: pulses along wires that conduct."""
    return any(
        chain.box or ((heard := job.heard(chain)) is not None and heard.curve.x_unit in PULSED)
        for chain in job.chains
    )


def _joins_what_floats(base: Solved, changes: Sequence[One]) -> bool:
    floating = base.solution.floating
    return any(isinstance(one, Change) and (one.a in floating or one.b in floating) for one in changes)


def _stands(healthy: Solved, one: Solved) -> bool:
    """Whether the boxes give with a fault what they were taken to give."""
    job = healthy.network.job
    if not any(chain.box for chain in job.chains):
        return True
    given, now = (
        outputs_of_boxes(job, each.elements, each.solution.across, one.powered, healthy.true)
        for each in (healthy, one)
    )
    return same_outputs(job, now, given)


def _alive(base: Solved, one: Solved) -> Alive:
    job = base.network.job
    awake = frozenset(d.id for d in job.displays if has_power(job, d.id, one.solution))
    return awake, pulling(job, one.solution)
