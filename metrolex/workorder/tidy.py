"""Among orders that are as good, one near that of the list: what belongs together stays together, and little moves when little changes."""

from __future__ import annotations

from collections.abc import Sequence

from metrolex.workorder.needs import Needs

__all__ = ["entries_of", "tidied", "timed"]


def tidied(
    needs: Needs, hands: Sequence[bool], takes: Sequence[int], waits: Sequence[int], starts: Sequence[int]
) -> list[int]:
    """Beginnings of an order with no more entries and no later end, in which no two neighbours could change places to stand as in the list.

    ``starts`` are those of the order to begin with; whole numbers of any one unit.
    """
    order = sorted((i for i, hand in enumerate(hands) if hand), key=lambda i: (starts[i], _after(needs, i)))
    times = timed(needs, hands, takes, waits, order)
    if times is None:
        return list(starts)
    entries, end = entries_of(needs, order), _end(times, takes)
    bound = {(one.first, one.then) for one in needs.before}
    moved = True
    while moved:
        moved = False
        for at in range(len(order) - 1):
            first, then = order[at], order[at + 1]
            if first < then or (first, then) in bound:
                continue
            order[at], order[at + 1] = then, first
            fresh = timed(needs, hands, takes, waits, order)
            if fresh is None or entries_of(needs, order) > entries or _end(fresh, takes) > end:
                order[at], order[at + 1] = first, then
            else:
                times, moved = fresh, True
    return times


def timed(
    needs: Needs, hands: Sequence[bool], takes: Sequence[int], waits: Sequence[int], order: Sequence[int]
) -> list[int] | None:
    """Every step begun as early as it may be with the hands-on ones in this order; None where the order breaks a need."""
    before: dict[int, list[tuple[int, int]]] = {i: [] for i in range(len(takes))}
    for one in needs.before:
        before[one.then].append((one.first, takes[one.first] + (waits[one.first] if one.waits else 0)))
    times: dict[int, int] = {}
    alone = [i for i, hand in enumerate(hands) if not hand]
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


def entries_of(needs: Needs, order: Sequence[int]) -> int:
    """How often states are entered in an order of the hands-on steps."""
    count = 0
    for setup in needs.setups:
        holds, wanted, ended = False, set(setup.wanted), set(setup.ended)
        for step in order:
            if step in ended:
                holds = False
            elif step in wanted and not holds:
                holds, count = True, count + 1
    return count


def _end(times: Sequence[int], takes: Sequence[int]) -> int:
    return max((start + length for start, length in zip(times, takes, strict=True)), default=0)


def _after(needs: Needs, step: int) -> int:
    """How many steps come before one directly: among steps that begin together those of no time come in the order of their needs."""
    return sum(one.then == step for one in needs.before)
