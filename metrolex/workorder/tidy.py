"""Among orders that are as good, one near that of the list: what belongs together stays together, and little moves when little changes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from metrolex.workorder.needs import Needs

__all__ = ["Work", "entries_by_state", "entries_of", "shortened", "tidied", "timed"]

#: Changes of place tried: an order of 150 steps needs fewer, one of 500 is left where it is by then.
MOST_TRIED = 4000


@dataclass(frozen=True, slots=True)
class Work:
    """Steps by their places in a list, in whole numbers of any one unit: who does them by hand, how long they take and then rest.

    ``holds`` are states that hold at the beginning, ``pairs`` the steps for two people. ``gaps`` are, of each step, the steps before it with the least
    from their beginning to its own; ``marks`` the states it wants and those it wants ended.
    """

    needs: Needs
    hands: Sequence[bool]
    takes: Sequence[int]
    waits: Sequence[int]
    holds: frozenset[str] = frozenset()
    pairs: tuple[int, ...] = ()
    gaps: list[list[tuple[int, int]]] = field(init=False)
    marks: list[tuple[frozenset[str], frozenset[str]]] = field(init=False)

    def __post_init__(self) -> None:
        gaps: list[list[tuple[int, int]]] = [[] for _ in self.takes]
        for one in self.needs.before:
            rests = self.waits[one.first] if one.waits else 0
            gaps[one.then].append((one.first, self.takes[one.first] + rests))
        object.__setattr__(self, "gaps", gaps)
        wanted = [{s.name for s in self.needs.setups if i in s.wanted} for i in range(len(gaps))]
        ended = [{s.name for s in self.needs.setups if i in s.ended} for i in range(len(gaps))]
        marks = [(frozenset(w), frozenset(e)) for w, e in zip(wanted, ended, strict=True)]
        object.__setattr__(self, "marks", marks)


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

    def as_good(changed: list[int], *, counted: bool = False) -> list[int] | None:
        """The beginnings by a changed order, if it is no worse; its entries are ``counted`` where they cannot be other."""
        fresh = timed(work, changed)
        if fresh is None or _end(work, fresh) > end:
            return None
        return fresh if counted or entries_of(work, changed) <= entries else None

    order, times = _bunched(work, order, times, as_good)
    bunches = _bunches(work, order)
    bound = {(one.first, one.then) for one in work.needs.before}
    moved, tried = True, 0
    while moved and tried < MOST_TRIED:
        moved = False
        for at in range(len(order) - 1):
            first, then = order[at], order[at + 1]
            if first < then or (first, then) in bound:
                continue
            tried += 1
            order[at], order[at + 1] = then, first
            alike = work.marks[first] == work.marks[then]
            fresh = None
            if not work.pairs or _bunches(work, order) <= bunches:
                fresh = as_good(order, counted=alike)
            if fresh is None:
                order[at], order[at + 1] = first, then
            else:
                times, moved = fresh, True
    return times


def shortened(work: Work, order: Sequence[int]) -> list[int]:
    """An order with its idle times filled by later steps where that makes it shorter and enters no more states; by changes that follow from the list alone."""
    best, times = list(order), timed(work, order)
    if times is None:
        return best
    entries = entries_of(work, best)
    at = 0
    while at < len(best):
        idle = times[best[at]] > (times[best[at - 1]] + work.takes[best[at - 1]] if at else 0)
        for later in range(at + 1, len(best)) if idle else ():
            changed = [*best[:at], best[later], *best[at:later], *best[later + 1 :]]
            fresh = timed(work, changed)
            if (
                fresh is not None
                and _end(work, fresh) < _end(work, times)
                and entries_of(work, changed) <= entries
            ):
                best, times = changed, fresh
                break
        else:
            at += 1
    return best


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
    gaps, hands, takes = work.gaps, work.hands, work.takes
    times: list[int | None] = [None] * len(takes)

    def begun(step: int, least: int) -> int | None:
        """When a step begins, at least then; None while one before it is not there. What goes on by itself begins once it is asked for."""
        begins = least
        for first, gap in gaps[step]:
            at = times[first]
            if at is None:
                at = None if hands[first] else begun(first, 0)
                if at is None:
                    return None
            begins = max(begins, at + gap)
        times[step] = begins
        return begins

    free = 0
    for step in order:
        begins = begun(step, free)
        if begins is None:
            return None
        free = begins + takes[step]
    for step, at in enumerate(times):
        if at is None and (hands[step] or begun(step, 0) is None):
            return None
    return [at or 0 for at in times]


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
