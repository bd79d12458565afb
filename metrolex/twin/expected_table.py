"""Every expected value of a job, test by test, in each state it is looked at: what a book prints for whoever looks for a fault later."""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.job import State
from metrolex.twin.build import Network
from metrolex.twin.expectations import Expectation, TestPoint, expect, points_at, states_of

__all__ = ["ExpectedTable", "expected_table"]


@dataclass(frozen=True, slots=True)
class ExpectedTable:
    """The states, and each test with what it should find there; None in a state it is not taken in."""

    states: tuple[State, ...]
    rows: tuple[tuple[TestPoint, tuple[Expectation | None, ...]], ...]


def expected_table(network: Network) -> ExpectedTable:
    """All tests of the job in the states of its proving."""
    states = states_of(network.job)
    found = [{e.point.test.key: e for e in expect(network, state)} for state in states]
    points = {point.test.key: point for state in states for point in points_at(network, state)}
    return ExpectedTable(
        states, tuple((point, tuple(cells.get(key) for cells in found)) for key, point in points.items())
    )
