"""Shift points and lamps of a job, gear by gear, from power, gearing, mass and the driver's reaction."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.job import Job, MeasuringChain
from metrolex.scaling.counting import roll_out
from metrolex.speed.tyres import circumference_m, read_tyre
from metrolex.warning.shift import ShiftLamps, engine_gain, lamps_for, shift_rpm

__all__ = ["Shift", "shift_table"]


@dataclass(frozen=True, slots=True)
class Shift:
    """One change of gear: at which road speed in km/h, how fast the engine gains there in rpm a second, when the lamps light."""

    gear: str
    kmh: float
    gain: float
    lamps: ShiftLamps


def shift_table(job: Job, channel: MeasuringChain) -> tuple[Shift, ...]:
    """Shift point and lamps gear by gear. Raises BadInput (with words) while something is missing."""
    plan, vehicle = channel.shift, job.vehicle
    if plan is None or len(plan.power) < 3:
        raise BadInput(
            "power",
            None,
            "three lines or more of engine speed and power",
            "Enter three or more lines of engine speed and power.",
        )
    for field, value, words in (
        ("axle", vehicle.driveline.axle_ratio, "the axle ratio"),
        ("mass", vehicle.identity.mass_kg, "the mass"),
        ("redline", vehicle.engine.redline_rpm, "the redline"),
    ):
        if value is None:
            raise BadInput(field, None, words, f"Enter {words}.")
    around = _around(job)
    if len(vehicle.driveline.gear_ratios) < 2:
        raise BadInput("ratios", None, "two gears or more", "Enter two gear ratios or more.")
    assert vehicle.driveline.axle_ratio is not None
    assert vehicle.identity.mass_kg is not None
    assert vehicle.engine.redline_rpm is not None
    found = []
    for number, (ratio, after) in enumerate(itertools.pairwise(vehicle.driveline.gear_ratios), 1):
        at = shift_rpm(plan.power, ratio, after, vehicle.engine.redline_rpm)
        kw = max(kw for _, kw in plan.power)
        speed = at / (ratio * vehicle.driveline.axle_ratio) * around * 60 / 1000
        gain = engine_gain(kw, vehicle.identity.mass_kg, ratio * vehicle.driveline.axle_ratio, around, speed)
        lamps = lamps_for(at, gain, plan.reaction_s, plan.lamps, plan.step_s, vehicle.engine.redline_rpm)
        found.append(Shift(f"{number} to {number + 1}", speed, gain, lamps))
    return tuple(found)


def _around(job: Job) -> float:
    """The driven wheel's circumference: from a speed channel, else from the tyre. Raises BadInput."""
    for channel in job.chains:
        if channel.road is not None and (known := roll_out(job, channel.road)) is not None:
            return known
    if not job.vehicle.driveline.tyre:
        raise BadInput("ratios", None, "the vehicle's tyre", "Enter the tyre on the road speed bench first.")
    return circumference_m(read_tyre(job.vehicle.driveline.tyre), job.vehicle.driveline.tyre_wear_mm)
