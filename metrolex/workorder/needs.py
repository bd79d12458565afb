"""What stands before what: steps, states that steps make, and states that are entered by whoever works."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from graphlib import CycleError, TopologicalSorter

from metrolex.errors import BadInput
from metrolex.workorder.step import Step, ended_by

__all__ = ["Before", "Needs", "Setup", "needs_of"]

MOST_STEPS = 800  # a job at the limits of its lists makes some 550


@dataclass(frozen=True, slots=True)
class Before:
    """Step ``first`` ends, and its wait passes where it ``waits``, before step ``then`` begins; places in the list."""

    first: int
    then: int
    waits: bool


@dataclass(frozen=True, slots=True)
class Setup:
    """A state nobody makes: entered where a hands-on step wants it and it does not hold, ended where one wants it not."""

    name: str
    wanted: tuple[int, ...]
    ended: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class Needs:
    """All that binds an order."""

    before: tuple[Before, ...]
    setups: tuple[Setup, ...]
    made: tuple[str, ...]


def needs_of(steps: Sequence[Step]) -> Needs:
    """The needs of some steps. Raises BadInput: two of one name, more than can be ordered, needs in a circle (named)."""
    if len(steps) > MOST_STEPS:
        raise BadInput("steps", len(steps), f"at most {MOST_STEPS} steps")
    places = {step.name: i for i, step in enumerate(steps)}
    for i, step in enumerate(steps):
        if places[step.name] != i:
            raise BadInput(f"steps[{i}].name", step.name, "each name once")
    makers: dict[str, list[int]] = {}
    for i, step in enumerate(steps):
        for state in step.makes:
            makers.setdefault(state, []).append(i)
    before, wanted, ended = list[Before](), dict[str, list[int]](), dict[str, list[int]]()
    for i, step in enumerate(steps):
        for need in step.needs:
            gone = ended_by(need)
            state = need if gone is None else gone
            if state in makers:
                before += [
                    Before(maker, i, True) if gone is None else Before(i, maker, False)
                    for maker in makers[state]
                    if maker != i
                ]
            elif gone is None and need in places:
                before.append(Before(places[need], i, True))
            else:
                (wanted if gone is None else ended).setdefault(state, []).append(i)
    _not_both(steps, wanted, ended)
    _no_circle(steps, before)
    by_hand = {i for i, step in enumerate(steps) if step.hands}
    setups = tuple(
        Setup(
            name,
            tuple(i for i in wanted.get(name, ()) if i in by_hand),
            tuple(i for i in ended.get(name, ()) if i in by_hand),
        )
        for name in dict.fromkeys((*wanted, *ended))
    )
    return Needs(tuple(dict.fromkeys(before)), setups, tuple(makers))


def _not_both(steps: Sequence[Step], wanted: Mapping[str, list[int]], ended: Mapping[str, list[int]]) -> None:
    for name in wanted:
        for i in sorted(set(wanted[name]) & set(ended.get(name, ()))):
            raise BadInput(
                f"steps[{i}].needs",
                name,
                "a state either wanted or ended",
                f"'{steps[i].name}': {name} is wanted and ended at once.",
            )


def _no_circle(steps: Sequence[Step], before: Sequence[Before]) -> None:
    sorter: TopologicalSorter[int] = TopologicalSorter({i: set() for i in range(len(steps))})
    for one in before:
        sorter.add(one.then, one.first)
    try:
        sorter.prepare()
    except CycleError as circle:
        around = [steps[i].name for i in circle.args[1]]
        words = " after ".join(reversed(around))
        raise BadInput(
            f"steps[{circle.args[1][1]}].needs",
            around[0],
            "needs that do not come back to the step",
            f"These steps wait for one another: {words}. Take one of these needs out.",
        ) from None
