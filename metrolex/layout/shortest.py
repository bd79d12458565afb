"""Shortest paths between all places of a small net (Dijkstra 1959).

A plan has some twenty zones; loading a package for sparse graphs costs more than all its paths. Held against scipy and networkx in
``tests/references/test_routes_against_networkx.py``.
"""

from __future__ import annotations

import heapq
import math
from collections.abc import Mapping, Sequence

__all__ = ["all_paths"]

#: From each place: what it costs to every place (inf: no way), and the place before on the best way (None: no way, or the start).
Paths = tuple[list[list[float]], list[list[int | None]]]


def all_paths(count: int, costs: Mapping[tuple[int, int], float]) -> Paths:
    """Costs and predecessors of the best ways between ``count`` places; ``costs`` are those of the ways from one to another, 0 or more."""
    near: Sequence[list[tuple[int, float]]] = [[] for _ in range(count)]
    for (a, b), cost in costs.items():
        near[a].append((b, cost))
    found = [_from(start, near) for start in range(count)]
    return [cost for cost, _ in found], [before for _, before in found]


def _from(start: int, near: Sequence[list[tuple[int, float]]]) -> tuple[list[float], list[int | None]]:
    best = [math.inf] * len(near)
    before: list[int | None] = [None] * len(near)
    best[start] = 0.0
    edge = [(0.0, start)]
    while edge:
        cost, at = heapq.heappop(edge)
        if cost > best[at]:
            continue
        for to, step in near[at]:
            if cost + step < best[to]:
                best[to], before[to] = cost + step, at
                heapq.heappush(edge, (best[to], to))
    return best, before
