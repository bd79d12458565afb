"""A simulated drive to try warnings on: start, idle, town, open road, full load, overrun, and a fault that comes in it.

The drive is made up (no source), so that what a healthy engine gives and what a failing one gives are both known.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from metrolex.errors import BadInput
from metrolex.series import Array, Series
from metrolex.warning.alarm import Alarm, Stretch, sounded

__all__ = ["KINDS", "WHERE", "Replay", "Where", "damped", "replay", "simulated_drive"]

Kind = Literal["oil_pressure", "temperature", "fuel_level", "voltage", "boost", "lambda"]
KINDS: tuple[Kind, ...] = ("oil_pressure", "temperature", "fuel_level", "voltage", "boost", "lambda")
#: Where a failure shows: everywhere from its second on, under full load only, at the hot idle only.
Where = Literal["always", "full load", "idle"]
WHERE: dict[Where, float] = {"always": 245.0, "full load": 170.0, "idle": 304.0}
STEP_S = 0.1
#: seconds at which the phase ends, engine speed there, load 0 to 1
_PHASES = (
    (2.0, 0.0, 0.0),
    (4.0, 250.0, 0.1),
    (6.0, 1100.0, 0.1),
    (40.0, 850.0, 0.1),
    (60.0, 2400.0, 0.4),
    (66.0, 900.0, 0.0),
    (100.0, 2000.0, 0.3),
    (108.0, 850.0, 0.1),
    (150.0, 3000.0, 0.5),
    (165.0, 5500.0, 1.0),
    (170.0, 3800.0, 0.0),
    (185.0, 5800.0, 1.0),
    (192.0, 1500.0, 0.0),
    (196.0, 780.0, 0.1),
    (240.0, 2600.0, 0.4),
    (300.0, 2600.0, 0.4),
    (320.0, 800.0, 0.1),
)


@dataclass(frozen=True, slots=True)
class Replay:
    """What a warning does over a healthy and a failing drive.

    ``false`` are the times it lit on the healthy one; ``late_s`` how long after the fault began to show (None: never lit).
    """

    healthy: Series
    failing: Series
    false: tuple[Stretch, ...]
    caught: tuple[Stretch, ...]
    late_s: float | None


def simulated_drive(
    kind: Kind,
    normal: float,
    seed: int,
    fault_to: float | None = None,
    rough: float = 1.0,
    where: Where = "always",
) -> Series:
    """A drive of 320 s at 10 Hz: columns ``rpm``, ``load`` (0 to 1) and ``reading``. ``normal`` is the warm reading at cruise; with ``fault_to`` the reading goes there from 245 s on,
    in 8 s; ``where`` it goes there at once under full load (from 170 s) or at the hot idle (from 304 s) only. ``rough`` scales surge, slosh and noise. Raises BadInput for another kind."""
    if kind not in KINDS:
        raise BadInput("kind", kind, " | ".join(KINDS))
    random = np.random.default_rng(seed)
    ends, speeds, loads = (np.array(column) for column in zip(*((0.0, 0.0, 0.0), *_PHASES), strict=True))
    t = np.arange(0.0, ends[-1] + STEP_S / 2, STEP_S)
    rpm = np.interp(t, ends, speeds)
    load = np.interp(t, ends, loads)
    rpm = np.where(rpm > 600, rpm + random.normal(0, 15, len(t)), rpm)
    value = _reading(kind, normal, t, rpm, load, random, rough)
    if fault_to is not None:
        share = np.clip((t - WHERE["always"]) / 8.0, 0.0, 1.0)
        if where != "always":
            there = load > 0.8 if where == "full load" else (rpm < 1000) & (load < 0.2)
            share = (there & (t >= WHERE[where])).astype(np.float64)
        value = value * (1 - share) + fault_to * share
    return Series(t, {"rpm": rpm, "load": load, "reading": value}, {"rpm": "1/min"})


def _reading(
    kind: Kind, normal: float, t: Array, rpm: Array, load: Array, random: np.random.Generator, rough: float
) -> Array:
    noise = random.normal(0, 1, len(t))
    if kind == "oil_pressure":
        # Rises with speed up to the relief valve; surge in corners takes a third for half a second.
        hot = normal * np.minimum(rpm / 2600.0, 1.25)
        surge = sum(np.exp(-(((t - at) / 0.25) ** 2)) for at in (158.0, 178.0, 222.0))
        lag = np.clip((t - 4.5) / 1.5, 0, 1)
        return np.asarray((hot * lag * (1 - 0.35 * rough * surge) + 0.01 * normal * noise).clip(0))
    if kind == "temperature":
        warm = 20 + (normal - 20) * (1 - np.exp(-t / 60))
        return np.asarray(warm + 0.06 * normal * load * (t > 120) + 0.3 * rough * noise)
    if kind == "fuel_level":
        slosh = rough * (6 * np.sin(t / 1.3) * (rpm > 1500) + 3 * noise * (rpm > 1500))
        return np.asarray((normal - t / 320 + slosh).clip(0, 100))
    if kind == "voltage":
        crank = (rpm > 100) & (rpm < 600) & (t < 5)
        return np.asarray(
            np.where(crank, 9.8, np.where(rpm > 600, normal - 0.5 * (rpm < 950), 12.5)) + 0.05 * rough * noise
        )
    if kind == "boost":
        rush = np.diff(load, prepend=load[0]) / STEP_S > 0.03
        return np.asarray(-0.6 + (normal + 0.6) * load + 0.12 * rough * rush * normal + 0.02 * noise)
    overrun = (load < 0.05) & (rpm > 1200)
    return np.asarray(
        np.where(overrun, 1.4, np.where(load > 0.8, 0.82 * normal, normal)) + 0.01 * rough * noise
    )


def damped(drive: Series, time_constant_s: float) -> Series:
    """A drive as a damped display shows it: a lag of the first order in the reading, started at rest (textbook)."""
    if time_constant_s <= 0:
        return drive
    share = -math.expm1(-STEP_S / time_constant_s)
    slow, shown = float(drive["reading"][0]), []
    for value in drive["reading"].tolist():
        slow += (value - slow) * share
        shown.append(slow)
    return drive.with_column("reading", np.array(shown))


def replay(
    alarm: Alarm,
    kind: Kind,
    normal: float,
    fault_to: float,
    *,
    seed: int = 1,
    rough: float = 1.0,
    damping_s: float = 0.0,
    where: Where = "always",
) -> Replay:
    """The warning run over a healthy drive and over one that fails: what it lights for, and how late it is.

    ``damping_s`` is the time constant of a damped display. Lateness counts from when the failing reading first passed the level.
    """
    healthy = damped(simulated_drive(kind, normal, seed, None, rough), damping_s)
    failing = damped(simulated_drive(kind, normal, seed, fault_to, rough, where), damping_s)
    false = _over(alarm, healthy)
    caught = tuple(s for s in _over(alarm, failing) if s.stop > WHERE[where])
    return Replay(healthy, failing, false, caught, _late(alarm, failing, caught, WHERE[where]))


def _over(alarm: Alarm, drive: Series) -> tuple[Stretch, ...]:
    return sounded(alarm, drive.seconds, drive["reading"], drive["rpm"], drive["load"])


def _late(alarm: Alarm, failing: Series, caught: tuple[Stretch, ...], begun_s: float) -> float | None:
    if not caught:
        return None
    bare = replace(alarm, delay_s=0.0, hysteresis=0.0, start_s=0.0)
    passed = [s.start for s in _over(bare, failing) if s.stop > begun_s]
    return max(max(caught[0].start, begun_s) - max(passed[0], begun_s), 0.0) if passed else None
