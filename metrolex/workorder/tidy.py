"""Among orders that are as good, one near that of the list: what belongs together stays together, and little moves when little changes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from metrolex.workorder.needs import Needs

__all__ = ["Work", "entries_by_state", "entries_of", "tidied", "timed"]


@dataclass(frozen=True, slots=True)
class Work:
    """Steps by their places in a list, in whole numbers of any one unit: who does them by hand, how long they take and then rest.

    ``holds`` are states that hold at the beginning, ``pairs`` the steps for two people.
    """

    needs: Needs
    hands: Sequence[bool]
    takes: Sequence[int]
    waits: Sequence[int]
    holds: frozenset[str] = frozenset()
    pairs: tuple[int, ...] = ()


def tidied(work: Work, starts: Sequence[int]) -> list[int]:
    """Beginnings of an order with no more entries and no later end, the steps for two people in few bunches, in which no two neighbours could
    change places to stand as in the list. ``starts`` are those of the order to begin with.
    """
    order = sorted(
        (i for i, hand in enumerate(work.hands) if hand), key=lambda i: (starts[i], _after(work.needs, i))
    )
    times = timed(work, order)
    if times is None:
        return list(starts)
    entries, end = entries_of(work, order), _end(work, times)

    def as_good(changed: list[int]) -> list[int] | None:
        fresh = timed(work, changed)
        if fresh is None or entries_of(work, changed) > entries or _end(work, fresh) > end:
            return None
        return fresh

    order, times = _bunched(work, order, times, as_good)
    bunches = _bunches(work, order)
    bound = {(one.first, one.then) for one in work.needs.before}
    moved = True
    while moved:
        moved = False
        for at in range(len(order) - 1):
            first, then = order[at], order[at + 1]
            if first < then or (first, then) in bound:
                continue
            order[at], order[at + 1] = then, first
            fresh = as_good(order) if _bunches(work, order) <= bunches else None
            if fresh is None:
                order[at], order[at + 1] = first, then
            else:
                times, moved = fresh, True
    return times


def _bunched(
    work: Work, order: list[int], times: list[int], as_good: Callable[[list[int]], list[int] | None]
) -> tuple[list[int], list[int]]:
    """The order with its steps for two people moved next to one another where it stays as good."""
    better = True
    while better:
        better = False
        for step in work.pairs:
            for other in work.pairs:
                rest = [one for one in order if one != step]
                changed = list(rest)
                changed.insert(rest.index(other) + 1 if other in rest else 0, step)
                if other == step or _bunches(work, changed) >= _bunches(work, order):
                    continue
                fresh = as_good(changed)
                if fresh is not None:
                    order, times, better = changed, fresh, True
    return order, times


def _bunches(work: Work, order: Sequence[int]) -> int:
    """How often a second person is called."""
    pair = set(work.pairs)
    return sum(one in pair and (at == 0 or order[at - 1] not in pair) for at, one in enumerate(order))


def timed(work: Work, order: Sequence[int]) -> list[int] | None:
    """Every step begun as early as it may be with the hands-on ones in this order; None where the order breaks a need."""
    takes, waits = work.takes, work.waits
    before: dict[int, list[tuple[int, int]]] = {i: [] for i in range(len(takes))}
    for one in work.needs.before:
        before[one.then].append((one.first, takes[one.first] + (waits[one.first] if one.waits else 0)))
    times: dict[int, int] = {}
    alone = [i for i, hand in enumerate(work.hands) if not hand]
    free = 0
    for step in [*order, None]:
        settled = True
        while settled:
            settled = False
            for i in [i for i in alone if i not in times and all(first in times for first, _ in before[i])]:
                times[i], settled = max((times[first] + gap for first, gap in before[i]), default=0), True
        if step is None:
            break
        if any(first not in times for first, _ in before[step]):
            return None
        times[step] = max(free, max((times[first] + gap for first, gap in before[step]), default=0))
        free = times[step] + takes[step]
    return [times[i] for i in range(len(takes))] if len(times) == len(takes) else None


def entries_of(work: Work, order: Sequence[int]) -> int:
    """How often states are entered in an order of the hands-on steps."""
    return sum(entries_by_state(work, order).values())


def entries_by_state(work: Work, order: Sequence[int]) -> dict[str, int]:
    """The same, state by state."""
    found = {}
    for setup in work.needs.setups:
        holds, wanted, ended, count = setup.name in work.holds, set(setup.wanted), set(setup.ended), 0
        for step in order:
            if step in ended:
                holds = False
            elif step in wanted and not holds:
                holds, count = True, count + 1
        found[setup.name] = count
    return found


def _end(work: Work, times: Sequence[int]) -> int:
    return max((start + length for start, length in zip(times, work.takes, strict=True)), default=0)


def _after(needs: Needs, step: int) -> int:
    """How many steps come before one directly: among steps that begin together those of no time come in the order of their needs."""
    return sum(one.then == step for one in needs.before)
