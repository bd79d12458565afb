"""Pulses of a job's channels: what really arrives, what should be set, and what the display makes of what is set.

Runs against GPS tell what really arrives; before there are any, a measured roll-out or the tyre's designation does.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.job import EngineCount, Job, MeasuringChain, RoadCount
from metrolex.speed.engine import CLOSE_SHARE, EnginePulses, doubt_of, engine_pulses
from metrolex.speed.gps import Calibration, GpsRun, Meaning, calibrate
from metrolex.speed.pulses import MILE_M, Pulses, input_findings, pulses_per_km
from metrolex.speed.tyres import circumference_m, read_tyre

__all__ = [
    "COUNTED",
    "Counted",
    "calibration_of",
    "carrier_of",
    "counting_findings",
    "engine_pulses_of",
    "face_step_kmh",
    "meaning_of",
    "road_pulses_of",
    "roll_out",
    "runs_of",
    "setting_by_tyre",
    "shown_over_true",
]


@dataclass(frozen=True, slots=True)
class Counted:
    """Pulses for a distance as they really come, and how that is known."""

    pulses: Pulses
    how: Literal["GPS runs", "roll-out", "tyre", "cable"]


def meaning_of(road: RoadCount) -> Meaning:
    """Which way the shown speed goes with the setting."""
    return "circumference" if road.enters == "circumference_mm" else "pulses_per_distance"


def roll_out(job: Job, road: RoadCount) -> float | None:
    """Rolling circumference in metres: measured, else from the vehicle's tyre; None where neither is known. Raises BadInput."""
    if road.circumference_m is not None:
        return road.circumference_m
    return (
        circumference_m(read_tyre(job.vehicle.driveline.tyre), job.vehicle.driveline.tyre_wear_mm)
        if job.vehicle.driveline.tyre
        else None
    )


def road_pulses_of(job: Job, road: RoadCount) -> Counted:
    """What really arrives. Raises BadInput while tyre, roll-out or axle ratio is missing and there are no runs."""
    found, base = calibration_of(road), road.base
    if found is not None and base is not None:
        return Counted(_as_pulses(job, road, base, found.ratio), "GPS runs")
    return _by_size(job, road)


def _by_size(job: Job, road: RoadCount) -> Counted:
    around = roll_out(job, road)
    pulses = pulses_per_km(
        road.sensed,
        road.pulses_per_rev,
        circumference_m=around,
        axle_ratio=job.vehicle.driveline.axle_ratio,
        cable_turns_per_km=road.cable_turns_per_km,
    )
    if road.sensed == "cable":
        return Counted(pulses, "cable")
    return Counted(pulses, "roll-out" if road.circumference_m is not None else "tyre")


def _as_pulses(job: Job, road: RoadCount, setting: float, ratio: float) -> Pulses:
    """Pulses that really come when a display set so shows ``ratio`` times the true speed."""
    return Pulses(ratio * _believed_per_km(job, road, setting))


def _believed_per_km(job: Job, road: RoadCount, setting: float) -> float:
    """The pulses a km a display with this setting takes for true."""
    if road.enters == "pulses_per_km":
        return setting
    if road.enters == "pulses_per_mile":
        return setting * 1000 / MILE_M
    turns = {"wheel": 1.0, "driveline": job.vehicle.driveline.axle_ratio or 1.0, "cable": 1.0}[road.sensed]
    return 1e6 / setting * road.pulses_per_rev * turns


def setting_by_tyre(job: Job, road: RoadCount) -> float:
    """The setting that tyre or roll-out ask for, in the display's own words, before rounding. Raises BadInput."""
    pulses = _by_size(job, road).pulses
    if road.enters == "pulses_per_km":
        return pulses.per_km
    if road.enters == "pulses_per_mile":
        return pulses.per_mile
    around = roll_out(job, road)
    if around is None:
        raise BadInput("circumference_m", None, "a measured roll-out or the vehicle's tyre")
    return 1000 * around


def runs_of(road: RoadCount) -> tuple[GpsRun, ...]:
    """The runs as they would have read with one setting, whatever was set when each was driven."""
    return tuple(GpsRun(true, shown) for true, shown in road.turned_runs())


def calibration_of(road: RoadCount, face_step_kmh: float = 0.0) -> Calibration | None:
    """The new setting by the runs; None without runs."""
    base = road.base
    if base is None:
        return None
    return calibrate(
        base,
        runs_of(road),
        meaning_of(road),
        min(road.step, base),
        face_step_kmh=face_step_kmh,
        never_under=road.never_under,
        top_kmh=road.top_kmh,
    )


def face_step_kmh(channel: MeasuringChain) -> float:
    """What the last digit of a channel's face stands for."""
    return 10.0**-channel.scaling.decimals


def engine_pulses_of(job: Job, count: EngineCount) -> EnginePulses:
    """Pulses a turn that really come. Raises BadInput while the cylinders are not known."""
    if (
        job.vehicle.engine.cylinders is None
        and count.pulses_per_rev is None
        and count.pickup in ("coil_negative", "ecu")
    ):
        raise BadInput("cylinders", None, "the number of cylinders, on the Brief page")
    return engine_pulses(
        job.vehicle.engine.cylinders or 1, job.vehicle.engine.strokes, count.pickup, count.pulses_per_rev
    )


def shown_over_true(job: Job, channel: MeasuringChain) -> float:
    """What the face shows over what is true, by what is set. Raises BadInput (with words) while something is missing."""
    if channel.road is not None:
        if channel.road.setting is None:
            raise BadInput("setting", None, "the display's setting", "no setting entered")
        real = road_pulses_of(job, channel.road).pulses.per_km
        return real / _believed_per_km(job, channel.road, channel.road.setting)
    if channel.engine is not None:
        if channel.engine.setting is None:
            raise BadInput("setting", None, "pulses a turn", "no pulses a turn entered")
        return engine_pulses_of(job, channel.engine).per_rev / channel.engine.setting
    raise BadInput("setting", None, "how it is sensed", "not told yet how it is counted")


#: What is counted turn by turn; anything else at a pulse input is read off the pulses by a sender's curve.
COUNTED = ("road_speed", "engine_speed")


def carrier_of(job: Job, channel: MeasuringChain) -> MeasuringChain | None:
    """The channel whose sender sends the pulses that a riding sender is read off: another one at the same input."""
    for other in job.chains:
        sender = job.heard(other)
        if (
            (other.display, other.input) == (channel.display, channel.input)
            and sender
            and sender.curve.x_unit == "hertz"
        ):
            return other
    return None


def counting_findings(job: Job) -> Iterator[Finding]:
    """Findings of every channel that counts pulses."""
    for channel in job.chains:
        stage = job.input_of(channel)
        if stage is None or stage.kind != "pulse" or channel.measurand not in COUNTED:
            continue
        if channel.road is None and channel.engine is None:
            yield _said(
                channel,
                "note",
                "not_counted",
                "It is not told yet what the pulses stand for.",
                "",
                "Enter where it is sensed and how many pulses a turn.",
            )
            continue
        try:
            ratio = shown_over_true(job, channel)
        except BadInput as fault:
            yield _said(
                channel,
                "note",
                "setting_missing",
                f"What it will show is not known: {fault.message[0].lower()}{fault.message[1:]}",
                "",
                "Enter it on the Scaling page.",
            )
            continue
        yield from (_road if channel.road else _engine)(job, channel, ratio)


def _road(job: Job, channel: MeasuringChain, ratio: float) -> Iterator[Finding]:
    road = channel.road
    assert road is not None
    stage = job.input_of(channel)
    counted = road_pulses_of(job, road)
    limit = road.limit_hz or (stage.limit_hz if stage else None)
    for finding in input_findings(
        counted.pulses, road.pulses_per_rev, top_kmh=road.top_kmh, limit_hz=limit, subject=channel.name
    ):
        yield _said(channel, finding.grade, finding.code, finding.reason, finding.figure, finding.remedy)
    for true in (40.0, 80.0, 120.0):
        shown = true * ratio
        if shown < true - 1e-6:
            yield _said(
                channel,
                "caution",
                "reads_under",
                f"By {counted.how} it shows {shown:.1f} at {true:g} km/h: under the true speed, which no speedometer may.",
                f"{shown - true:+.1f} km/h",
                "Take the new setting: it is rounded to the side that reads over.",
            )
            break
        if shown > true * 1.1 + 4:
            yield _said(
                channel,
                "caution",
                "reads_far_over",
                f"By {counted.how} it shows {shown:.1f} at {true:g} km/h: more than a tenth and 4 km/h over.",
                f"{shown - true:+.1f} km/h",
                "Take the new setting.",
            )
            break
    yield from _driven(job, channel, road, counted)


def _driven(job: Job, channel: MeasuringChain, road: RoadCount, counted: Counted) -> Iterator[Finding]:
    """What the runs say, or that there are none; and whether they go with the tyre."""
    if not road.runs:
        yield _said(
            channel,
            "note",
            "not_driven_yet",
            f"The setting rests on {'the cable' if counted.how == 'cable' else counted.how}; nobody has driven it against GPS.",
            "",
            "Drive three steady runs with a passenger reading, or record one drive.",
        )
    if (
        road.runs
        and (road.circumference_m is not None or job.vehicle.driveline.tyre)
        and road.sensed != "cable"
    ):
        try:
            off = counted.pulses.per_km / _by_size(job, road).pulses.per_km - 1
        except BadInput:
            return
        for times, code, words, remedy in (
            (
                2.0,
                "pulses_doubled",
                "twice the pulses that tyre and sender give: each is counted twice, or the sender has twice the teeth",
                "Count the teeth or magnets; a pull-up or a filter where the edge rings.",
            ),
            (
                0.5,
                "pulses_halved",
                "half the pulses that tyre and sender give: every other one is lost, or the sender has half the teeth",
                "Look at gap, wire and input limit; count the teeth or magnets.",
            ),
        ):
            if abs((off + 1) / times - 1) <= 2 * CLOSE_SHARE:
                yield _said(
                    channel,
                    "caution",
                    code,
                    f"By the runs the display counts {words}.",
                    f"{off + 1:.2f} times",
                    remedy,
                )
                return
        if abs(off) > CLOSE_SHARE:
            yield _said(
                channel,
                "note",
                "runs_against_tyre",
                f"The runs say {100 * off:+.1f} % against the tyre: another tyre, axle ratio or pulse count than entered?",
                f"{100 * off:+.1f} %",
                "Check tyre, axle ratio and pulses a turn on the Brief and here.",
            )


def _engine(job: Job, channel: MeasuringChain, ratio: float) -> Iterator[Finding]:
    count = channel.engine
    assert count is not None
    pulses = engine_pulses_of(job, count)
    if abs(ratio - 1) > CLOSE_SHARE:
        yield _said(
            channel,
            "caution",
            "wrong_pulse_setting",
            f"Set to {count.setting:g} pulses a turn where {pulses.per_rev:g} come: it shows {ratio:.2f} times the true speed.",
            f"{ratio:.2f} times",
            f"Set it to {pulses.per_rev:g}.",
        )
    if count.shown_rpm is not None and count.true_rpm is not None and count.setting is not None:
        for finding in doubt_of(pulses, count.shown_rpm, count.true_rpm, count.setting):
            if finding.code == "wrong_pulse_setting":
                continue  # said above
            yield _said(channel, finding.grade, "tach_off", finding.reason, finding.figure, finding.remedy)
    high = channel.scaling.high
    if (
        high is not None
        and job.vehicle.engine.redline_rpm is not None
        and high < job.vehicle.engine.redline_rpm
    ):
        yield _said(
            channel,
            "caution",
            "scale_below_redline",
            f"The face ends at {high:g} rpm, the engine goes to {job.vehicle.engine.redline_rpm:g}.",
            f"{high:g} rpm",
            "Choose a face that goes beyond the redline.",
        )


def _said(channel: MeasuringChain, grade: str, code: str, reason: str, figure: str, remedy: str) -> Finding:
    return Finding(
        grade,  # type: ignore[arg-type]
        code,
        channel.name,
        reason,
        figure,
        remedy,
        "scaling",
        channel.id,
        about=f"channel {channel.id}",
    )
