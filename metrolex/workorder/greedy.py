"""A sound order at once: what the vehicle's state allows first. The search begins from it, and it stands where the search finds no better in time."""

from __future__ import annotations

from collections.abc import Sequence

from metrolex.workorder.needs import Needs

__all__ = ["greedy_order"]


def greedy_order(needs: Needs, hands: Sequence[bool], holds: frozenset[str] = frozenset()) -> list[int]:
    """The hands-on steps in an order that keeps the needs: of those that can be done, one that enters no state and ends none before one that does.

    Of those alike, the one that most others wait for, then the first of the list.
    """
    count = len(hands)
    first_of: dict[int, set[int]] = {i: set() for i in range(count)}
    after: dict[int, list[int]] = {i: [] for i in range(count)}
    for one in needs.before:
        first_of[one.then].add(one.first)
        after[one.first].append(one.then)
    weight = _waiting(after, count)
    wanted = [{s.name for s in needs.setups if i in s.wanted} for i in range(count)]
    ended = [{s.name for s in needs.setups if i in s.ended} for i in range(count)]
    done, held, order = set[int](), set(holds), list[int]()
    while len(done) < count:
        ready = [i for i in range(count) if i not in done and first_of[i] <= done]
        alone = [i for i in ready if not hands[i]]
        if alone:
            done |= set(alone)
            continue
        left = [i for i in range(count) if i not in done]

        def cost(i: int, held: set[str] = held, left: list[int] = left) -> tuple[int, int, int, int]:
            spoils = sum(any(name in wanted[j] for j in left) for name in ended[i] & held)
            return len(wanted[i] - held), spoils, -weight[i], i

        step = min(ready, key=lambda i: (cost(i)[1], *cost(i)))
        held = (held | wanted[step]) - ended[step]
        done.add(step)
        order.append(step)
    return order


def _waiting(after: dict[int, list[int]], count: int) -> list[int]:
    """How many steps wait for each, directly or not."""
    reach: dict[int, set[int]] = {}

    def of(i: int) -> set[int]:
        if i not in reach:
            reach[i] = set(after[i]).union(*(of(j) for j in after[i]))
        return reach[i]

    return [len(of(i)) for i in range(count)]
