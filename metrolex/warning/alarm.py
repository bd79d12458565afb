"""A warning: level, delay, hysteresis, a level that goes with engine speed, silence below cranking; run over a recording.

About 0.7 bar (10 psi) of oil pressure for each 1000 rpm, hot, is common practice without a source.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import Annotated

import numpy as np
from numpy.typing import ArrayLike, NDArray

from metrolex.errors import BadInput
from metrolex.intake import AnyNumber, Limits, NonNegative, Percent

__all__ = ["OIL_BAR_PER_1000_RPM", "Alarm", "Stretch", "level_at", "oil_curve", "sounded"]

Array = NDArray[np.float64]
OIL_BAR_PER_1000_RPM = 0.7
CRANKING_RPM = 400.0
Seconds = Annotated[float, Limits(low=0, high=60)]


@dataclass(frozen=True, slots=True)
class Alarm:
    """When the driver is warned, in the channel's unit.

    Below ``low`` or above ``high`` for ``delay_s`` it comes on; it goes off once the reading is back by ``hysteresis``.
    ``by_rpm`` (engine speed, least reading), straight between points, takes the place of ``low``. Silent below
    ``inhibit_rpm`` and for ``start_s`` after the engine passed it, and while the engine gives less than ``above_load_pct`` of what it
    can (throttle, or manifold pressure over its range): a mixture matters under load.
    """

    low: AnyNumber | None = None
    high: AnyNumber | None = None
    delay_s: Seconds = 0.0
    hysteresis: NonNegative = 0.0
    by_rpm: tuple[tuple[NonNegative, AnyNumber], ...] = ()
    inhibit_rpm: NonNegative = 0.0
    start_s: Seconds = 0.0
    above_load_pct: Percent = 0.0

    def __post_init__(self) -> None:
        if self.low is not None and self.high is not None and self.low >= self.high:
            raise BadInput("high", self.high, f"above the low level, {self.low:g}")
        if self.by_rpm:
            ordered = tuple(sorted(self.by_rpm))
            if len(ordered) < 2:
                raise BadInput("by_rpm", len(ordered), "two points or more")
            if any(one[0] == two[0] for one, two in itertools.pairwise(ordered)):
                raise BadInput("by_rpm", [rpm for rpm, _ in ordered], "each engine speed once")
            object.__setattr__(self, "by_rpm", ordered)

    @property
    def silent(self) -> bool:
        return self.low is None and self.high is None and not self.by_rpm


@dataclass(frozen=True, slots=True)
class Stretch:
    """A time during which the lamp was lit, seconds."""

    start: float
    stop: float


def oil_curve(idle_rpm: float, redline_rpm: float, share: float = 1.0) -> tuple[tuple[float, float], ...]:
    """Least oil pressure, bar, over engine speed by the rule of thumb, from idle to redline.

    >>> [(rpm, round(bar, 2)) for rpm, bar in oil_curve(1000, 6000)]
    [(1000, 0.7), (6000, 4.2)]
    """
    if not 0 < idle_rpm < redline_rpm:
        raise BadInput("redline_rpm", redline_rpm, f"above the idle, {idle_rpm:g} rpm")
    # Pumps relieve at about 4.5 bar, so that no more is asked for (common practice, no source).
    points = [(rpm, min(share * OIL_BAR_PER_1000_RPM * rpm / 1000, 4.5)) for rpm in (idle_rpm, redline_rpm)]
    return tuple(points)


def level_at(alarm: Alarm, rpm: ArrayLike) -> Array:
    """The least reading allowed at engine speeds; minus infinity where there is none."""
    speeds = np.asarray(rpm, dtype=np.float64)
    if alarm.by_rpm:
        xs, ys = np.array(alarm.by_rpm).T
        return np.asarray(np.interp(speeds, xs, ys))
    return np.full_like(speeds, -np.inf if alarm.low is None else alarm.low)


def sounded(
    alarm: Alarm, seconds: ArrayLike, value: ArrayLike, rpm: ArrayLike, load: ArrayLike | None = None
) -> tuple[Stretch, ...]:
    """When the warning is lit over a recording; arrays of one shape, seconds rising, ``load`` 0 to 1 (None: not recorded, taken as full).

    Raises BadInput otherwise.
    """
    t, v, n = (np.asarray(a, dtype=np.float64) for a in (seconds, value, rpm))
    work = np.ones_like(t) if load is None else np.asarray(load, dtype=np.float64)
    if not t.shape == v.shape == n.shape == work.shape or t.ndim != 1:
        raise BadInput("seconds", list(t.shape), "recordings of one length")
    if (np.diff(t) <= 0).any():
        raise BadInput("seconds", None, "seconds that rise")
    low = level_at(alarm, n)
    high = np.inf if alarm.high is None else alarm.high
    bad = (v < low) | (v > high)
    good = (v >= low + alarm.hysteresis) & (v <= high - alarm.hysteresis)
    idle = work < alarm.above_load_pct / 100
    return tuple(_lit(alarm, t.tolist(), bad.tolist(), good.tolist(), n.tolist(), idle.tolist()))


def _lit(
    alarm: Alarm, t: list[float], bad: list[bool], good: list[bool], rpm: list[float], idle: list[bool]
) -> list[Stretch]:
    found: list[Stretch] = []
    lit_from: float | None = None
    since: float | None = None
    awake_from: float | None = None
    for now, is_bad, is_good, turns, is_idle in zip(t, bad, good, rpm, idle, strict=True):
        asleep = turns < alarm.inhibit_rpm
        awake_from = None if asleep else (now if awake_from is None else awake_from)
        if asleep or is_idle or awake_from is None or now - awake_from < alarm.start_s:
            since = None
            if lit_from is not None:
                found.append(Stretch(lit_from, now))
                lit_from = None
            continue
        if lit_from is None:
            since = (now if since is None else since) if is_bad else None
            if since is not None and now - since >= alarm.delay_s:
                lit_from = now
        elif is_good:
            found.append(Stretch(lit_from, now))
            lit_from = since = None
    if lit_from is not None:
        found.append(Stretch(lit_from, t[-1]))
    return found
