"""A made-up drive through the twin: what stands on every face, second by second, and which warning is lit; with a mishap to see what the driver would see.

The drive is of this program (``data/drives.toml``); what a channel reads at an operating point is the job's own.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, cast

import numpy as np

from metrolex.dash.lit import USUAL_IDLE, USUAL_REDLINE, Lit, lamps_at
from metrolex.errors import BadInput
from metrolex.job import Channel, EnginePoint, Job, KeyState, MeasuringChain, State
from metrolex.quantities import in_unit
from metrolex.scaling.reading import Shown
from metrolex.tables import load_table
from metrolex.twin import Network, readings, solve
from metrolex.twin.kept import once_per_circuit
from metrolex.warning.alarm import sounded

__all__ = ["MISHAPS", "Drive", "Moment", "drive_of"]

MISHAPS: tuple[tuple[str, str], ...] = tuple(
    (key, str(row["words"])) for key, row in load_table("drives")["mishaps"].items()
)
CRANKING_RPM = 220.0
LAGGING = ("_temperature",)


@dataclass(frozen=True, slots=True)
class Moment:
    """One moment: the second, what happens, what stands on the face of each chain, what is lit."""

    second: float
    words: str
    shown: Mapping[str, Shown]
    lit: Lit


@dataclass(frozen=True, slots=True)
class Drive:
    """A drive with or without a mishap; ``first_lit`` is how many seconds after it the first warning came that was not lit before (None: none came)."""

    mishap: str
    words: str
    moments: tuple[Moment, ...]
    first_lit: tuple[float, str] | None


@dataclass(frozen=True, slots=True)
class _Key:
    """What the vehicle does from a second on."""

    second: float
    key: KeyState
    point: EnginePoint
    rpm: float
    speed: float
    gear: int
    words: str


@once_per_circuit
def drive_of(network: Network, mishap: str = "none") -> Drive:
    """The drive of a job. Raises BadInput for a mishap nobody knows."""
    table = load_table("drives")
    row = table["mishaps"].get(mishap)
    if row is None:
        raise BadInput("mishap", mishap, " | ".join(key for key, _ in MISHAPS))
    job = network.job
    keys = [_Key(*one) for one in table["keys"]]
    step = float(table["step_s"])
    seconds = [i * step for i in range(math.floor(keys[-1].second / step) + 1)]
    true = _true(job, keys, seconds, row, float(table["mishap_s"]))
    shown, lamps, solved = [], [], {}
    for i, second in enumerate(seconds):
        now = _at(keys, second)
        lost = bool(row.get("not_charging")) and second >= table["mishap_s"]
        state = _state(now, lost)
        values = {name: round(float(series[i]), 6) for name, series in true.items()}
        asked = (state, tuple(values.items()))
        if asked not in solved:
            solved[asked] = readings(solve(network, state, true=values))
        shown.append(solved[asked])
        lamps.append(lamps_at(job, State(now.key, "off", now.point), values, charging=not lost))
    lit = _lit(job, keys, seconds, shown)
    moments = tuple(
        Moment(
            second,
            _words(keys, second, row, table),
            shown[i],
            Lit(frozenset(one for one, on in lit.items() if on[i]), lamps[i]),
        )
        for i, second in enumerate(seconds)
    )
    return Drive(mishap, str(row["words"]), moments, _first(job, moments, float(table["mishap_s"])))


def _at(keys: list[_Key], second: float) -> _Key:
    return [key for key in keys if key.second <= second][-1]


def _state(now: _Key, not_charging: bool) -> State:
    """Key and engine; an engine that does not charge is, to the wires, one that stands with its key on."""
    return State(now.key, "off", "stopped" if not_charging or now.key == "crank" else now.point)


def _words(keys: list[_Key], second: float, row: Mapping[str, Any], table: Mapping[str, Any]) -> str:
    words = _at(keys, second).words
    return str(row["words"]) if "over_s" in row and second >= table["mishap_s"] else words


def _true(
    job: Job, keys: list[_Key], seconds: list[float], row: Mapping[str, Any], from_s: float
) -> dict[str, np.ndarray[Any, np.dtype[np.float64]]]:
    """What is really there through the drive, by channel."""
    at = np.array([key.second for key in keys])
    found = {}
    lag = float(load_table("drives")["lag_s"])
    for channel in job.channels:
        marks = [_value(job, channel, key) for key in keys]
        if any(mark is None for mark in marks):
            continue
        series = np.interp(seconds, at, cast(list[float], marks))
        if channel.measurand == "gear":
            series = np.array([_at(keys, second).gear for second in seconds], dtype=np.float64)
        if channel.measurand.endswith(LAGGING):
            series = _lagged(series, lag, seconds[1] - seconds[0])
        mishap = row.get(channel.measurand)
        if mishap is not None:
            share = np.clip((np.array(seconds) - from_s) / float(row["over_s"]), 0.0, 1.0)
            more = _difference(channel, float(mishap.get("add", 0.0)))
            series = series * (1 + share * (float(mishap.get("f", 1.0)) - 1)) + share * more
        found[channel.id] = series
    return found


def _difference(channel: Channel, more: float) -> float:
    usual = str(load_table("measurands")[channel.measurand]["unit"])
    return in_unit(more, usual, channel.unit) - in_unit(0.0, usual, channel.unit)


def _value(job: Job, channel: Channel, key: _Key) -> float | None:
    """What a channel is at a key of the drive: engine and road speed by the drive, all else by its operating point."""
    if channel.measurand == "engine_speed":
        engine = job.vehicle.engine
        idle, top = engine.idle_rpm or USUAL_IDLE, engine.redline_rpm or USUAL_REDLINE
        if key.point == "stopped":
            return CRANKING_RPM if key.rpm < 0 else 0.0
        return idle + key.rpm * (top - idle)
    if channel.measurand == "road_speed":
        shown = next((one.scaling.high for one in job.readouts if one.channel == channel.id), None)
        return key.speed * (shown if shown is not None else 200.0)
    return channel.true(key.point)


def _lagged(
    series: np.ndarray[Any, np.dtype[np.float64]], lag_s: float, step_s: float
) -> np.ndarray[Any, np.dtype[np.float64]]:
    slow, share = [float(series[0])], -math.expm1(-step_s / lag_s)
    for value in series[1:].tolist():
        slow.append(slow[-1] + (value - slow[-1]) * share)
    return np.array(slow)


def _lit(
    job: Job, keys: list[_Key], seconds: list[float], shown: Sequence[Mapping[str, Shown]]
) -> dict[str, list[bool]]:
    """When each chain's warning is lit over the drive, as it is set."""
    engine = job.vehicle.engine
    idle, top = engine.idle_rpm or USUAL_IDLE, engine.redline_rpm or USUAL_REDLINE
    rpm = [
        (CRANKING_RPM if now.rpm < 0 else 0.0) if now.point == "stopped" else idle + now.rpm * (top - idle)
        for now in (_at(keys, second) for second in seconds)
    ]
    load = [1.0 if _at(keys, second).point == "full load" else 0.2 for second in seconds]
    found = {}
    for chain in job.chains:
        values = [face[chain.id].value if chain.id in face else None for face in shown]
        if chain.alarm.silent or all(value is None for value in values):
            continue
        known = _filled(values)
        lit = [False] * len(seconds)
        for stretch in sounded(chain.alarm, seconds, known, rpm, load):
            for i, second in enumerate(seconds):
                if stretch.start <= second <= stretch.stop and values[i] is not None:
                    lit[i] = True
        found[chain.id] = lit
    return found


def _filled(values: list[float | None]) -> list[float]:
    """Where a face shows no number its last one is held."""
    last = next(value for value in values if value is not None)
    found = []
    for value in values:
        last = last if value is None else value
        found.append(last)
    return found


def _first(job: Job, moments: tuple[Moment, ...], from_s: float) -> tuple[float, str] | None:
    """The first warning that comes after the mishap and was not lit when it came: how many seconds later, and whose."""
    before = next((one.lit.warnings for one in reversed(moments) if one.second < from_s), frozenset[str]())
    for moment in moments:
        fresh = moment.lit.warnings - before if moment.second >= from_s else frozenset[str]()
        if fresh:
            names = _names(job.chains, fresh)
            return moment.second - from_s, ", ".join(names)
    return None


def _names(chains: tuple[MeasuringChain, ...], keys: frozenset[str]) -> Iterator[str]:
    return (chain.name for chain in chains if chain.id in keys)
