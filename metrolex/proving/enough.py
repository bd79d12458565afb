"""Which tests of the sheet are enough, and what they leave unnoticed: why each such fault escapes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from metrolex.faults.catalogue import MOST_SEARCHED, catalogue
from metrolex.faults.classes import columns_of, noticed_by
from metrolex.faults.minutes import MINUTES, minutes_of
from metrolex.faults.probes import probe_of
from metrolex.job import State, TestRef
from metrolex.proving.least_set import least_set, sheet_probes
from metrolex.twin.build import Network
from metrolex.twin.expectations import TestPoint, points_at, points_to_test, states_of
from metrolex.twin.kept import once_per_circuit

__all__ = ["Enough", "EnoughTest", "enough_of"]


@dataclass(frozen=True, slots=True)
class EnoughTest:
    """A test of the set, with its minutes and how many of the likely faults it notices."""

    state: State
    point: TestPoint
    minutes: float
    notices: int


@dataclass(frozen=True, slots=True)
class Enough:
    """The least minutes of tests that together notice every likely fault any test of the sheet notices.

    ``at_least`` is what no set can be under; ``further`` the faults seen only where the sheet does not go (taps, fuses, splices), ``driving`` those
    of pulses, which nothing shows until the vehicle moves, ``never`` those no meter and no face tells from a sound job. Of a job with too many parts
    to choose among it is the whole sheet, and ``chosen`` is False.
    """

    tests: tuple[EnoughTest, ...]
    minutes: float
    at_least: float
    noticed: int
    faults: int
    further: tuple[str, ...]
    driving: tuple[str, ...]
    never: tuple[str, ...]
    chosen: bool = True

    @property
    def wanted(self) -> frozenset[tuple[State, TestRef]]:
        """The tests by what they are."""
        return frozenset((one.state, one.point.test) for one in self.tests)


@once_per_circuit
def enough_of(network: Network) -> Enough:
    """The tests of the sheet that are enough. Raises CircuitError in words."""
    listed = catalogue(network)
    if len(listed) > MOST_SEARCHED:
        return _whole_sheet(network, len(listed))
    found = least_set(network, on_the_sheet=True)
    points = {probe: point for point in points_to_test(network) if (probe := probe_of(point))}
    sheet = sheet_probes(network)
    elsewhere = np.zeros(len(listed), dtype=bool)
    for column in columns_of(network, tuple(kind for kind in MINUTES if kind != "action")):
        if column.probe not in sheet:
            elsewhere |= noticed_by(column)
    unnoticed = [(listed[place], elsewhere[place]) for place in found.unnoticed]
    further = tuple(fault.words for fault, seen in unnoticed if seen)
    left = [fault for fault, seen in unnoticed if not seen]
    return Enough(
        tuple(
            EnoughTest(one.column.state, points[one.column.probe], one.minutes, len(one.notices))
            for one in found.tests
        ),
        found.minutes,
        found.at_least,
        len(listed) - len(found.unnoticed),
        len(listed),
        further,
        tuple(fault.words for fault in left if fault.kind.startswith("pulse.")),
        tuple(fault.words for fault in left if not fault.kind.startswith("pulse.")),
    )


def _whole_sheet(network: Network, faults: int) -> Enough:
    """Every test of the sheet at every state of the key."""
    tests = [
        EnoughTest(state, point, minutes_of(network, probe), 0)
        for state in states_of(network.job)
        for point in points_at(network, state)
        if (probe := probe_of(point))
    ]
    minutes = sum(one.minutes for one in tests)
    return Enough(tuple(tests), minutes, minutes, 0, faults, (), (), (), chosen=False)
