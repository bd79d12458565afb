"""The proving plan: every phase with its tests that are enough, its checks, and how far they are done."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from metrolex.faults.minutes import minutes_of
from metrolex.faults.probes import Probe
from metrolex.job import BATTERY_POSTS, Checked, LeftOut, State
from metrolex.proving.checks import Check, checks_of
from metrolex.proving.enough import enough_of
from metrolex.proving.phases import Phase, phase_of, phases
from metrolex.proving.proof import Judged, judge_all
from metrolex.twin.build import Network
from metrolex.twin.expectations import TestPoint, points_to_test

__all__ = ["PhasePlan", "PlannedCheck", "PlannedTest", "plan_of"]

Standing = Literal["open", "good", "off", "not done"]


@dataclass(frozen=True, slots=True)
class PlannedTest:
    """A test that belongs to the set, what was seen, or why it was left out. What it should find is worked out where it is shown."""

    state: State
    point: TestPoint
    minutes: float
    judged: Judged | None
    left_out: LeftOut | None

    @property
    def stands(self) -> Standing:
        """How it came out."""
        if self.judged is not None:
            return "off" if self.judged.verdict == "off" else "good"
        return "not done" if self.left_out else "open"


@dataclass(frozen=True, slots=True)
class PlannedCheck:
    """A check and what was written down of it."""

    check: Check
    checked: Checked | None

    @property
    def stands(self) -> Standing:
        """How it came out: as written down, else as the job itself knows."""
        if self.checked is not None:
            return self.checked.result
        if self.check.result == "good":
            return "good"
        return "off" if self.check.result == "off" else "open"


@dataclass(frozen=True, slots=True)
class PhasePlan:
    """One phase. It is done when every test and every needed check of it is done, or written down as not done with why."""

    phase: Phase
    tests: tuple[PlannedTest, ...]
    checks: tuple[PlannedCheck, ...]

    @property
    def needed(self) -> tuple[PlannedTest | PlannedCheck, ...]:
        return (*self.tests, *(one for one in self.checks if one.check.needed))

    @property
    def open(self) -> int:
        return sum(one.stands == "open" for one in self.needed)

    @property
    def off(self) -> int:
        return sum(one.stands == "off" for one in self.tests) + sum(
            one.stands == "off" for one in self.checks
        )

    @property
    def not_done(self) -> int:
        return sum(one.stands == "not done" for one in self.needed)

    @property
    def minutes(self) -> float:
        """What is still open takes so long."""
        return sum(
            one.minutes if isinstance(one, PlannedTest) else one.check.minutes
            for one in self.needed
            if one.stands == "open"
        )


def plan_of(network: Network) -> tuple[PhasePlan, ...]:
    """Every phase in its order. Raises CircuitError in words."""
    job = network.job
    seen = {(one.observation.state, one.observation.test): one for one in judge_all(network)}
    left = {(one.state, one.test): one for one in job.left_out}
    done = {one.check: one for one in job.checks}
    tests: dict[str, list[PlannedTest]] = {phase.key: [] for phase in phases()}
    for state, point, minutes in (*_battery_first(network), *_of_the_set(network)):
        key = (state, point.test)
        tests[phase_of(job, state, point)].append(
            PlannedTest(state, point, minutes, seen.get(key), left.get(key))
        )
    checks = [PlannedCheck(check, done.get(check.ref)) for check in checks_of(network)]
    return tuple(
        PhasePlan(
            phase,
            tuple(tests[phase.key]),
            tuple(one for one in checks if one.check.ref.phase == phase.key),
        )
        for phase in phases()
    )


def _of_the_set(network: Network) -> Iterator[tuple[State, TestPoint, float]]:
    for one in enough_of(network).tests:
        yield one.state, one.point, one.minutes


def _battery_first(network: Network) -> Iterator[tuple[State, TestPoint, float]]:
    """The battery at rest and charged, whatever else the set asks: a sick supply looks like a fault of everything."""
    wanted = enough_of(network).wanted
    point = next((p for p in points_to_test(network) if p.test == BATTERY_POSTS), None)
    for state in (State("off"), State("run", "off", "running")):
        if point is not None and network.job.displays and (state, BATTERY_POSTS) not in wanted:
            yield state, point, minutes_of(network, Probe("volts", point.red, point.black))
