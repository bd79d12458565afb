"""What the owner is told about hours: the sum of the steps with a band, and the workshop's own factors."""

from __future__ import annotations

import math
import statistics
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from metrolex.brief.estimate import Estimate, estimate
from metrolex.job import Job, Worked
from metrolex.twin.build import Network
from metrolex.workorder.plan import Factors, plan_of_work
from metrolex.workorder.planned import Planned, kind_words, states_at_work

__all__ = ["AT_LEAST", "LAST", "Line", "Quote", "actual_of", "learned_factors", "quote_of", "spread_of"]

#: A tenth of jobs lies below the band, a tenth above (normal quantile).
TENTH = 1.2816
#: Steps of one job go well or badly together: an old vehicle is slow everywhere (common practice, no source).
TOGETHER = 0.3
#: A factor is the median of so many last ones, and of no fewer than so many.
LAST, AT_LEAST = 10, 3


@dataclass(frozen=True, slots=True)
class Line:
    """One kind of work in a quote, minutes."""

    words: str
    steps: int
    minutes: float

    @property
    def hours(self) -> float:
        """The same in hours."""
        return self.minutes / 60


@dataclass(frozen=True, slots=True)
class Quote:
    """Hours with a band: four jobs of five lie in it, if the spreads hold. ``labour`` are (low, likely, high) at the rate, None while no rate is said."""

    lines: tuple[Line, ...]
    low_h: float
    likely_h: float
    high_h: float
    parts: Estimate
    rate_per_h: float | None
    margin: float

    @property
    def usual_h(self) -> float:
        """The sum of the lines."""
        return sum(line.hours for line in self.lines)

    @property
    def labour(self) -> tuple[float, float, float] | None:
        """What the hours cost."""
        if self.rate_per_h is None:
            return None
        rate = self.rate_per_h
        return self.low_h * rate, self.likely_h * rate, self.high_h * rate


def quote_of(network: Network, factors: Factors = ()) -> Quote:
    """The quote of a job. Raises CircuitError and BadInput in words."""
    job, plan = network.job, plan_of_work(network, factors)
    known = states_at_work()
    entered = [
        (known[name].words, count, known[name].minutes * count)
        for name, count in plan.ordered.setups.items()
        if name in known and count and known[name].minutes
    ]
    entering = sum(minutes for _, _, minutes in entered)
    more = 1 + job.work_hours.margin / 100
    low, likely, high = spread_of(plan.planned, entering)
    lines: dict[str, list[float]] = {}
    for one in plan.planned:
        lines.setdefault(kind_words(one.kind), []).append(one.step.minutes)
    found = [Line(words, len(minutes), sum(minutes)) for words, minutes in lines.items()]
    if entered:
        found.append(
            Line("Battery, stands, fluids let out, trim", sum(count for _, count, _ in entered), entering)
        )
    return Quote(
        tuple(found),
        low * more / 60,
        likely * more / 60,
        high * more / 60,
        estimate(job),
        job.brief.rate_per_h,
        job.work_hours.margin,
    )


def spread_of(planned: Sequence[Planned], entering: float = 0.0) -> tuple[float, float, float]:
    """Minutes (low, likely, high) of some steps together: means and deviations of each by three points (PERT, Malcolm et al. 1959), a part of them in common."""
    mean, single, common = entering, 0.0, 0.0
    for one in planned:
        usual = one.step.minutes
        mean += usual * (one.low + 4 + one.high) / 6
        deviation = usual * (one.high - one.low) / 6
        single += deviation**2
        common += deviation
    deviation = math.sqrt((1 - TOGETHER) * single + TOGETHER * common**2)
    return max(0.0, mean - TENTH * deviation), mean, mean + TENTH * deviation


def learned_factors(worked: Iterable[Worked]) -> Factors:
    """How much longer or shorter than usual a workshop takes, by kind of step: the median of the last ten, where there are three at least.

    ``worked`` is the oldest first; steps with no minutes of their own count nothing.
    """
    by_kind: dict[str, list[float]] = {}
    for one in worked:
        if one.state == "done" and one.minutes and one.usual:
            by_kind.setdefault(one.step.partition(" ")[0], []).append(one.minutes / one.usual)
    return tuple(
        (kind, round(statistics.median(ratios[-LAST:]), 2))
        for kind, ratios in sorted(by_kind.items())
        if len(ratios) >= AT_LEAST and kind != "own"
    )


def actual_of(job: Job) -> float:
    """Minutes really worked so far, as noted."""
    return sum(one.minutes or 0.0 for one in job.work)
