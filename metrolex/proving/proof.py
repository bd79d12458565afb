"""How far a channel is proved: its tests against what was seen."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from metrolex.job import MeasuringChain, Observation, State
from metrolex.twin.build import Network
from metrolex.twin.expectations import Expectation, TestPoint, expect_at, points_at, points_to_test, verdict
from metrolex.twin.kept import once

__all__ = ["Judged", "Proof", "judge_all", "points_of", "proof_of"]


@dataclass(frozen=True, slots=True)
class Judged:
    """An observation beside what was expected, with the verdict."""

    observation: Observation
    expectation: Expectation
    verdict: Literal["as expected", "off", "no figure"]
    words: str


@dataclass(frozen=True, slots=True)
class Proof:
    """Tests of a channel, tests seen as expected at least once, readings good and off."""

    points: int
    good_points: int
    good: int
    off: int


@once
def judge_all(network: Network) -> list[Judged]:
    """Every observation of the job whose test still exists, judged."""
    by_state: dict[State, list[Observation]] = {}
    for seen in network.job.observations:
        by_state.setdefault(seen.state, []).append(seen)
    return [judged for state, seen in by_state.items() for judged in _judge_state(network, state, seen)]


def _judge_state(network: Network, state: State, seen: list[Observation]) -> Iterator[Judged]:
    points = {point.test: point for point in points_at(network, state)}
    for observation in seen:
        if observation.test in points:
            expected = expect_at(network, state, points[observation.test])
            yield Judged(observation, expected, *verdict(expected, observation.value))


def points_of(network: Network, channel: MeasuringChain) -> list[TestPoint]:
    """The tests that prove one channel: its sender, its face, the pins of its display."""
    return [
        point
        for point in points_to_test(network)
        if point.channel in (channel.id, channel.channel)
        or (point.test.kind, point.test.id) == ("display", channel.display)
    ]


def proof_of(network: Network, channel: MeasuringChain, judged: Sequence[Judged]) -> Proof:
    """How far one channel is proved by what was seen on the whole job (``judge_all``)."""
    points = {point.test for point in points_of(network, channel)}
    judged = [j for j in judged if j.expectation.point.test in points]
    good = [j for j in judged if j.verdict == "as expected"]
    return Proof(
        len(points),
        len({j.expectation.point.test for j in good}),
        len(good),
        sum(j.verdict == "off" for j in judged),
    )
