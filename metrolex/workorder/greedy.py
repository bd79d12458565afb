"""A sound order at once: what can be begun now, what the vehicle's state allows, what most minutes hang on. The search begins from it, and keeps it where none is better."""

from __future__ import annotations

from graphlib import TopologicalSorter

from metrolex.workorder.tidy import Work

__all__ = ["greedy_order"]


def greedy_order(work: Work) -> list[int]:
    """The hands-on steps in an order that keeps the needs.

    Of those whose needs are done and have rested, one that ends no state others still want, then one that enters none, then the one with the longest way behind
    it, then the first of the list. Where all must wait, the one that waits least.
    """
    count = len(work.takes)
    tails = _tails(work)
    left = set(range(count))
    wanting = [len(setup.wanted) for setup in work.needs.setups]
    places = {setup.name: place for place, setup in enumerate(work.needs.setups)}
    ends: dict[int, int] = {}
    held, order, now = set(work.holds), list[int](), 0
    while left:
        ready = [i for i in left if all(first in ends for first, _ in work.gaps[i])]
        begins = {
            i: max((ends[first] - work.takes[first] + gap for first, gap in work.gaps[i]), default=0)
            for i in ready
        }
        alone = [i for i in ready if not work.hands[i]]
        for i in alone:
            ends[i] = begins[i] + work.takes[i]
        left -= set(alone)
        if alone:
            continue
        soonest = min(max(now, at) for at in begins.values())

        def cost(i: int, held: set[str] = held) -> tuple[int, int, int, int]:
            wanted, ended = work.marks[i]
            spoils = sum(wanting[places[name]] > 0 for name in ended & held)
            return spoils, len(wanted - held), -tails[i], i

        step = min((i for i in ready if max(now, begins[i]) <= soonest), key=cost)
        wanted, ended = work.marks[step]
        for name in wanted:
            wanting[places[name]] -= 1
        held = (held | wanted) - ended
        now = max(now, begins[step]) + work.takes[step]
        ends[step] = now
        left.discard(step)
        order.append(step)
    return order


def _tails(work: Work) -> list[int]:
    """From the beginning of each step to the end of the longest way behind it, waits counted."""
    before = {i: [first for first, _ in gaps] for i, gaps in enumerate(work.gaps)}
    tails = list(work.takes)
    for then in reversed(list(TopologicalSorter(before).static_order())):
        for first, gap in work.gaps[then]:
            tails[first] = max(tails[first], gap + tails[then])
    return tails
