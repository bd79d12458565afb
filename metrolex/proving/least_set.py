"""The few tests that are enough: the least minutes of tests that together notice every likely single fault.

A weighted set cover, solved exactly as an integer programme (HiGHS, by branch and bound); where that takes too long what is found is given with the
bound below which no set can lie.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.faults.catalogue import catalogue
from metrolex.faults.classes import Column, columns_of, noticed_by
from metrolex.faults.minutes import MINUTES, Kind, minutes_of
from metrolex.faults.probes import Probe, probe_of
from metrolex.twin.build import Network
from metrolex.twin.expectations import points_to_test

__all__ = ["ChosenTest", "LeastSet", "cover", "least_set", "sheet_probes"]

#: A search is broken off after so much work, never by the clock; those of the examples take one node at most.
MOST_NODES = 5_000


@dataclass(frozen=True, slots=True)
class ChosenTest:
    """A test of the set, its minutes, and the places in the catalogue of what it notices."""

    column: Column
    minutes: float
    notices: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class LeastSet:
    """The tests in the order of their states, their minutes, the minutes no set can be under, and the places in the catalogue that no test notices."""

    tests: tuple[ChosenTest, ...]
    minutes: float
    at_least: float
    unnoticed: tuple[int, ...]


def least_set(
    network: Network,
    allow: Iterable[Kind] = ("volts", "shown", "ohms"),
    minutes: Mapping[Kind, float] = MINUTES,
    *,
    on_the_sheet: bool = False,
) -> LeastSet:
    """The least set among the allowed tests, or among those of them that stand on the sheet of Proving. Raises CircuitError in words."""
    columns = columns_of(network, tuple(allow))
    if on_the_sheet:
        sheet = sheet_probes(network)
        columns = tuple(one for one in columns if one.probe in sheet)
    count = len(catalogue(network))
    if not columns:
        return LeastSet((), 0.0, 0.0, tuple(range(count)))
    notices = np.array([noticed_by(column) for column in columns])
    takes = np.array([minutes_of(network, one.probe, minutes) for one in columns])
    chosen, at_least = cover(notices, takes)
    tests = tuple(
        ChosenTest(columns[i], float(takes[i]), tuple(np.flatnonzero(notices[i]).tolist())) for i in chosen
    )
    return LeastSet(
        tests,
        float(sum(one.minutes for one in tests)),
        at_least,
        tuple(np.flatnonzero(~notices.any(axis=0)).tolist()),
    )


def sheet_probes(network: Network) -> frozenset[Probe]:
    """What is probed by the tests of the sheet."""
    return frozenset(probe for point in points_to_test(network) if (probe := probe_of(point)))


def cover(notices: NDArray[np.bool_], takes: NDArray[np.float64]) -> tuple[list[int], float]:
    """The rows of ``notices`` (tests by faults) that cost least by ``takes`` and together have every column that any has; and the least it can cost."""
    from scipy.optimize import Bounds, LinearConstraint, milp  # heavy to load

    some = np.flatnonzero(notices.any(axis=0))
    rows = _worth_asking(notices, takes)
    if not len(some):
        return [], 0.0
    found = milp(
        takes[rows],
        integrality=np.ones(len(rows)),
        bounds=Bounds(0, 1),
        constraints=LinearConstraint(notices[np.ix_(rows, some)].T.astype(float), lb=1.0),
        options={"node_limit": MOST_NODES},
    )
    taken = (
        np.ones(len(rows)) if found.x is None else found.x
    )  # broken off before any set was found: all of them
    chosen = [int(rows[i]) for i in np.flatnonzero(taken > 0.5)]
    return chosen, float(found.mip_dual_bound or 0.0)


def _worth_asking(notices: NDArray[np.bool_], takes: NDArray[np.float64]) -> NDArray[np.intp]:
    """One of each kind of row, the cheapest, the first of equals; what notices nothing is left out."""
    best: dict[bytes, int] = {}
    for i, row in enumerate(notices):
        if row.any():
            key = row.tobytes()
            if key not in best or takes[i] < takes[best[key]]:
                best[key] = i
    return np.array(sorted(best.values()), dtype=np.intp)
