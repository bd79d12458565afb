"""Speeds and turns as they are counted: pulses of a wheel, runs against GPS, pulses of an engine, gears taught, shift lamps."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Literal

from metrolex.acts.edit import channel_called
from metrolex.errors import BadInput
from metrolex.job import (
    EngineCount,
    Job,
    MeasuringChain,
    OldSetting,
    RoadCount,
    ShiftPlan,
    SpeedRun,
    TaughtGear,
)
from metrolex.job.within import replaced_within
from metrolex.scaling.counting import calibration_of, face_step_kmh, meaning_of, setting_by_tyre
from metrolex.scaling.shift_lamps import shift_table
from metrolex.speed.gear import gates_of
from metrolex.speed.gps import GpsRun
from metrolex.speed.tyres import read_tyre

__all__ = [
    "add_run",
    "add_runs",
    "remove_run",
    "rounded_over",
    "set_altitude",
    "set_engine",
    "set_gears",
    "set_road",
    "set_shift",
    "speed_counted",
    "take_setting",
]


def set_road(
    job: Job, channel_id: str, road: RoadCount, tyre: str, tyre_wear_mm: float, axle_ratio: float | None
) -> Job:
    """How road speed is sensed and what the display is set to; runs and old settings stay as they are. Raises BadInput."""
    if tyre:
        read_tyre(tyre)
    channel = channel_called(job, channel_id)
    before = channel.road
    if before is not None:
        if before.enters != road.enters and before.runs:
            raise BadInput(
                "enters",
                road.enters,
                "the same words as when the runs were driven",
                "The runs were driven with the old kind of setting: take them out first.",
            )
        road = replace(road, runs=before.runs, driven_with=before.driven_with, before=before.before)
        if before.setting is not None and road.setting not in (None, before.setting):
            road = replace(road, before=(*road.before, OldSetting(before.setting, "changed by hand")))
    vehicle = replaced_within(
        job.vehicle, {"tyre": tyre, "tyre_wear_mm": tyre_wear_mm, "axle_ratio": axle_ratio}
    )
    return replace(job, vehicle=vehicle).with_chain(replace(channel, road=road))


def add_run(job: Job, channel_id: str, run: SpeedRun) -> Job:
    """A run more. Raises BadInput while nothing is set."""
    channel = channel_called(job, channel_id)
    road = speed_counted(channel)
    if road.setting is None:
        raise BadInput(
            "gps",
            None,
            "a setting in the display",
            "Enter the setting the display has now: runs are driven with it.",
        )
    told = tuple(replace(old, setting=old.setting or road.driven_with) for old in road.runs)
    fresh = replace(run, setting=run.setting or road.setting)
    return job.with_chain(replace(channel, road=replace(road, runs=(*told, fresh), driven_with=road.setting)))


def add_runs(job: Job, channel_id: str, runs: tuple[GpsRun, ...]) -> Job:
    """The steady stretches of a recorded drive as runs, the last forty of them. Raises BadInput."""
    for run in runs[-40:]:
        job = add_run(job, channel_id, SpeedRun(round(run.gps_kmh, 2), round(run.shown_kmh, 2), "recording"))
    return job


def remove_run(job: Job, channel_id: str, number: int) -> Job:
    """A run less. Raises BadInput for one that is not there."""
    channel = channel_called(job, channel_id)
    road = speed_counted(channel)
    if not 0 <= number < len(road.runs):
        raise BadInput("run", number, f"0 to {len(road.runs) - 1}")
    runs = tuple(run for i, run in enumerate(road.runs) if i != number)
    return job.with_chain(
        replace(channel, road=replace(road, runs=runs, driven_with=road.driven_with if runs else None))
    )


def take_setting(job: Job, channel_id: str) -> Job:
    """The new setting by the runs, or by tyre and pulses before there are any; the old one is kept. Raises BadInput."""
    channel = channel_called(job, channel_id)
    road = speed_counted(channel)
    found = calibration_of(road, face_step_kmh(channel))
    fresh = found.setting if found is not None else _by_size(job, road)
    why = f"{len(road.runs)} GPS runs" if found is not None else "by tyre and pulses"
    before = (
        (*road.before, OldSetting(road.setting, f"until {why}"))
        if road.setting not in (None, fresh)
        else road.before
    )
    return job.with_chain(replace(channel, road=replace(road, setting=fresh, before=before)))


def _by_size(job: Job, road: RoadCount) -> float:
    return rounded_over(setting_by_tyre(job, road), road)


def rounded_over(wanted: float, road: RoadCount) -> float:
    """A setting rounded to its step on the side that reads over."""
    step = road.step
    if not step:
        return wanted
    count = wanted / step
    whole = math.floor(count + 1e-9) if meaning_of(road) == "pulses_per_distance" else math.ceil(count - 1e-9)
    return float(f"{max(whole, 1) * step:.12g}")


def speed_counted(channel: MeasuringChain) -> RoadCount:
    """How a channel's road speed is counted. Raises BadInput while nobody has said."""
    if channel.road is None:
        raise BadInput(
            "sensed", None, "where it is sensed", "Enter where it is sensed and how many pulses a turn first."
        )
    return channel.road


def set_engine(
    job: Job,
    channel_id: str,
    count: EngineCount,
    cylinders: int | None,
    strokes: Literal[2, 4],
    redline_rpm: float | None,
) -> Job:
    """How engine speed is picked up, with what the count needs of the engine."""
    channel = channel_called(job, channel_id)
    vehicle = replaced_within(
        job.vehicle, {"cylinders": cylinders, "strokes": strokes, "redline_rpm": redline_rpm}
    )
    return replace(job, vehicle=vehicle).with_chain(replace(channel, engine=count))


def set_shift(
    job: Job,
    channel_id: str,
    plan: ShiftPlan,
    gear_ratios: tuple[float, ...],
    axle_ratio: float,
    mass_kg: float,
    redline_rpm: float,
) -> Job:
    """Shift lamps from power, gearing and reaction. Raises BadInput where no table comes of it."""
    channel = replace(channel_called(job, channel_id), shift=plan)
    vehicle = replaced_within(
        job.vehicle,
        {
            "gear_ratios": gear_ratios,
            "axle_ratio": axle_ratio,
            "mass_kg": mass_kg,
            "redline_rpm": redline_rpm,
        },
    )
    after = replace(job, vehicle=vehicle).with_chain(channel)
    shift_table(after, channel)
    return after


def set_gears(job: Job, channel_id: str, gears: tuple[TaughtGear, ...]) -> Job:
    """The gears as taught. Raises BadInput for volts that do not part."""
    gates_of(tuple((gear.gear, gear.value) for gear in gears))
    return job.with_chain(replace(channel_called(job, channel_id), gears=gears))


def set_altitude(job: Job, altitude_m: float | None) -> Job:
    """Where the workshop stands."""
    return replace(job, vehicle=replaced_within(job.vehicle, {"altitude_m": altitude_m}))
