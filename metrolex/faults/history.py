"""What a workshop has found before sharpens how likely each kind of fault is taken to be."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping

import numpy as np
from numpy.typing import NDArray

from metrolex.faults.catalogue import catalogue
from metrolex.job.search import Search
from metrolex.twin.build import Network
from metrolex.twin.kept import once

__all__ = ["AS_MUCH_AS", "found_before", "kinds_of", "weights_of"]

#: So many faults found weigh as much as the table of usual weights (common practice, no source).
AS_MUCH_AS = 40.0


def kinds_of(network: Network, cause: str) -> list[str]:
    """The kinds of the catalogue a cause names, by its words: one, two for two faults at once, none for something else."""
    kinds = {fault.words.casefold(): fault.kind for fault in catalogue(network)}
    parts = [part.strip().casefold() for part in cause.split(", and ")]
    return [kinds[part] for part in parts] if all(part in kinds for part in parts) else []


def found_before(searches: Iterable[Search]) -> Counter[str]:
    """How often each kind was the cause, of searches that ended."""
    return Counter(kind for search in searches if search.ended for kind in search.kinds)


def weights_of(network: Network, history: Mapping[str, int]) -> NDArray[np.float64]:
    """The weight of every fault of the catalogue: its usual one, turned by how often its kind was found (Dirichlet prior, Bayes 1763).

    The usual weights of a job count as ``AS_MUCH_AS`` faults already found; kinds it cannot have are left out.
    """
    weights, kinds = _usual(network)
    shares: dict[str, float] = {}
    for weight, kind in zip(weights / weights.sum(), kinds, strict=True) if len(weights) else ():
        shares[kind] = shares.get(kind, 0.0) + weight
    counted = {kind: history.get(kind, 0) for kind in shares}
    whole = AS_MUCH_AS + sum(counted.values())
    turned = {kind: (AS_MUCH_AS * share + counted[kind]) / whole / share for kind, share in shares.items()}
    return weights * np.array([turned[kind] for kind in kinds]) if len(weights) else weights


@once
def _usual(network: Network) -> tuple[NDArray[np.float64], tuple[str, ...]]:
    listed = catalogue(network)
    return np.array([fault.weight for fault in listed]), tuple(fault.kind for fault in listed)
