"""Every likely fault at every size, in one row: what a search goes through."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.faults.catalogue import catalogue
from metrolex.faults.kinds import LikelyFault
from metrolex.twin.build import Network
from metrolex.twin.kept import once_per_circuit

__all__ = ["NONE", "Case", "Cases", "cases_of"]

Case = int  # a place in the row of cases
NONE: Case = -1  # nothing is wrong


@dataclass(frozen=True, slots=True)
class Cases:
    """The catalogue at the usual sizes, in its order, then every size of what comes in several.

    ``fault`` is the place in the catalogue, ``share`` how much of the fault a case stands for (nothing for the usual size of what comes in several),
    ``size`` as in ``Cell``; ``before`` and ``after`` the neighbours along the size, ``NONE`` where there is none.
    """

    listed: tuple[LikelyFault, ...]
    fault: NDArray[np.intp]
    share: NDArray[np.float64]
    size: NDArray[np.float64]
    before: NDArray[np.intp]
    after: NDArray[np.intp]

    @property
    def searched(self) -> tuple[Case, ...]:
        """The cases that stand for something."""
        return tuple(np.flatnonzero(self.share).tolist())


@once_per_circuit
def cases_of(network: Network) -> Cases:
    """The cases of a job."""
    usual = catalogue(network)
    listed, fault = list(usual), list(range(len(usual)))
    share, size = [0.0 if one.sizes else 1.0 for one in usual], [0.0] * len(usual)
    before = [NONE] * len(usual)
    for place, one in enumerate(usual):
        for sizing in one.sizes:
            before.append(len(listed) - 1 if sizing.cell.goes_on else NONE)
            listed.append(sizing.fault)
            fault.append(place)
            share.append(sizing.cell.share)
            size.append(sizing.cell.size)
    after = np.full(len(listed), NONE, dtype=np.intp)
    for place, earlier in enumerate(before):
        if earlier != NONE:
            after[earlier] = place
    return Cases(
        tuple(listed),
        np.array(fault, dtype=np.intp),
        np.array(share),
        np.array(size),
        np.array(before, dtype=np.intp),
        after,
    )
