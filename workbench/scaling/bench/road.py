"""Road speed: tyre, driveline and pulses; runs against GPS; the setting."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.acts import counting as acts
from metrolex.errors import BadInput
from metrolex.job import Job, MeasuringChain, RoadCount, SpeedRun
from metrolex.quantities import LENGTH, SPEED
from metrolex.scaling.counting import (
    Counted,
    calibration_of,
    face_step_kmh,
    meaning_of,
    road_pulses_of,
    roll_out,
    runs_of,
    setting_by_tyre,
    shown_over_true,
)
from metrolex.speed.gps import next_speed_kmh
from metrolex.speed.pulses import Magnets, gap_card, reluctor_volts
from metrolex.speed.tyres import circumference_m, read_tyre, roll_out_m
from workbench.jobs.fields import NumberField, QuantityField, as_typed
from workbench.jobs.look import Look
from workbench.scaling.bench.road_drawing import runs_drawing

__all__ = [
    "GapForm",
    "RecordingForm",
    "RoadForm",
    "RunForm",
    "context",
]

SENSED = [
    ("wheel", "at the wheel"),
    ("driveline", "before the axle"),
    ("cable", "at the speedometer cable drive"),
]
ENTERS = [
    ("pulses_per_km", "pulses a km"),
    ("pulses_per_mile", "pulses a mile"),
    ("circumference_mm", "the wheel's circumference, mm"),
]
MOST_FILE = 30_000_000


class RoadForm(forms.Form):
    """Where it is sensed, what rolls, what the display is told."""

    sensed = forms.ChoiceField(label="Sensed", choices=SENSED)
    pulses_per_rev = NumberField(
        label="Pulses a turn", low=0.001, high=10000, help_text="magnets, teeth or bolt heads that pass"
    )
    tyre = forms.CharField(
        label="Tyre", required=False, max_length=40, help_text="like 205/55R16, 31x10.50R15, 4.00-18"
    )
    wear = NumberField(unit="mm", label="Tread gone, mm", required=False, low=0, high=25)
    axle_ratio = NumberField(label="Axle ratio", required=False, low=0.2, high=30)
    distance = QuantityField(LENGTH, "m", label="Chalk mark: distance", required=False)
    turns = NumberField(label="over turns", required=False, low=0.5, high=1000)
    cable_turns = NumberField(label="Cable turns a km", required=False, low=1, high=10000)
    enters = forms.ChoiceField(label="The display wants", choices=ENTERS)
    setting = NumberField(label="Set now", required=False, low=0.001, high=1e9)
    step = NumberField(label="in steps of", required=False, low=0, high=1e6)
    top = QuantityField(SPEED, "km/h", label="Top speed", required=False, low=1, high=600)
    limit = NumberField(unit="Hz", label="Input counts up to, Hz", required=False, low=1, high=1e6)
    never_under = forms.BooleanField(label="Never show under the true speed", required=False)

    @staticmethod
    def of(job: Job, road: RoadCount | None) -> dict[str, Any]:
        """What the form shows at first."""
        vehicle = job.vehicle
        start: dict[str, Any] = {
            "tyre": vehicle.driveline.tyre,
            "wear": as_typed(vehicle.driveline.tyre_wear_mm or None),
            "axle_ratio": as_typed(vehicle.driveline.axle_ratio),
            "step": "1",
        }
        if road is None:
            return start
        return start | {
            "sensed": road.sensed,
            "pulses_per_rev": as_typed(road.pulses_per_rev),
            "enters": road.enters,
            "setting": as_typed(road.setting),
            "step": as_typed(road.step),
            "distance": as_typed(road.circumference_m, "m") if road.circumference_m else "",
            "turns": "1" if road.circumference_m else "",
            "cable_turns": as_typed(road.cable_turns_per_km),
            "top": as_typed(road.top_kmh, "km/h"),
            "limit": as_typed(road.limit_hz),
            "never_under": road.never_under,
        }

    def put(self, job: Job, key: str) -> Job:
        """The job with what was typed. Raises BadInput."""
        data = self.cleaned_data
        if (data["distance"] is None) != (data["turns"] is None):
            missing = "turns" if data["turns"] is None else "distance"
            raise BadInput(
                missing,
                None,
                "both the distance and the turns of the chalk mark",
                "Give both: the distance and over how many turns.",
            )
        around = None if data["distance"] is None else roll_out_m(data["distance"], data["turns"])
        road = RoadCount(
            data["sensed"],
            data["pulses_per_rev"],
            around,
            data["cable_turns"],
            data["enters"],
            data["setting"],
            1.0 if data["step"] is None else data["step"],
            limit_hz=data["limit"],
            top_kmh=data["top"] or 200.0,
            never_under=data["never_under"],
        )
        return acts.set_road(job, key, road, data["tyre"], data["wear"] or 0.0, data["axle_ratio"])


class RunForm(forms.Form):
    """A steady run, read by a passenger."""

    gps = QuantityField(SPEED, "km/h", label="By GPS", low=1, high=600)
    shown = QuantityField(SPEED, "km/h", label="Shown", low=1, high=600)
    note = forms.CharField(label="Where", required=False, max_length=120)
    setting = NumberField(
        label="Set then", required=False, low=0.001, high=1e9, help_text="Empty: as set now"
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"auto_id": "run-%s"} | kwargs)

    def run(self) -> SpeedRun:
        """The run as it was read."""
        data = self.cleaned_data
        return SpeedRun(data["gps"], data["shown"], data["note"], data["setting"])


class RecordingForm(forms.Form):
    """A recorded drive: GPS and what was shown."""

    recording = forms.FileField(label="GPS recording (NMEA 0183 or GPX)")
    shown = forms.FileField(label="Shown speed (CSV: seconds, km/h)")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"auto_id": "drive-%s"} | kwargs)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        for name in ("recording", "shown"):
            if data.get(name) and data[name].size > MOST_FILE:
                self.add_error(name, f"At most {MOST_FILE // 1_000_000} MB.")
        return data

    def texts(self) -> tuple[str, str]:
        """What both files hold."""
        recording, shown = (self.cleaned_data[name].read() for name in ("recording", "shown"))
        return recording.decode("utf-8", "replace"), shown.decode("utf-8", "replace")


class TyreForm(forms.Form):
    """Other tyres than those calibrated with."""

    other = forms.CharField(label="Other tyres", max_length=40, help_text="like 215/60R16")


class GapForm(forms.Form):
    """Magnets on what turns, and a reluctor's volts measured once."""

    count = forms.IntegerField(label="Magnets", min_value=1, max_value=60, initial=1)
    radius = QuantityField(LENGTH, "mm", label="On a radius of", low=0.005, high=1, initial="100 mm")
    gap = NumberField(unit="mm", label="Gap, mm", low=0.1, high=20, initial="1.5")
    steel = forms.BooleanField(label="on steel", required=False, initial=True)
    volts = NumberField(unit="V", label="Reluctor gives, V", required=False, low=0.001, high=200)
    at = QuantityField(SPEED, "km/h", label="at", required=False, low=1, high=300)


def context(look: Look, channel: MeasuringChain, refused: forms.Form | None = None) -> dict[str, Any]:
    """Figures, runs and drawing of a speed channel."""
    road, job = channel.road, look.job
    found: dict[str, Any] = {
        "road": road,
        "form": refused if isinstance(refused, RoadForm) else RoadForm(initial=RoadForm.of(job, road)),
        "run_form": refused if isinstance(refused, RunForm) else RunForm(),
        "recording_form": refused if isinstance(refused, RecordingForm) else RecordingForm(),
        "gap_form": GapForm(),
        "tyre_form": TyreForm(),
    }
    if road is None:
        return found
    found |= _known(job, channel, road)
    calibration = calibration_of(road, face_step_kmh(channel))
    if calibration is not None:
        ratio = found.get("ratio")
        found |= {
            "calibration": calibration,
            "drawing": runs_drawing(runs_of(road), calibration, ratio),
            "base": road.base,
            "taken": road.setting == calibration.setting,
        }
    found["next_kmh"] = next_speed_kmh(runs_of(road), road.top_kmh) if road.runs else min(60.0, road.top_kmh)
    return found


def _known(job: Job, channel: MeasuringChain, road: RoadCount) -> dict[str, Any]:
    """What can be worked out of it so far, and in words what is missing."""
    found: dict[str, Any] = {}
    try:
        found["around"] = roll_out(job, road)
        found["by_size"] = setting_by_tyre(job, road)
        counted: Counted = road_pulses_of(job, road)
        found |= {
            "counted": counted,
            "at_100": counted.pulses.hertz(100.0),
            "at_top": counted.pulses.hertz(road.top_kmh),
            "at_walk": counted.pulses.hertz(5.0),
        }
        found["ratio"] = shown_over_true(job, channel)
        found["per_100"] = 100 * found["ratio"]
        found["shows"] = [(true, true * found["ratio"]) for true in (50.0, 80.0, 120.0)]
    except BadInput as fault:
        found["missing"] = fault.message
    return found


def with_tyres(job: Job, channel: MeasuringChain, other: str) -> dict[str, Any]:
    """What other tyres do to speed and odometer, and the setting they ask for. Raises BadInput."""
    road = acts.speed_counted(channel)
    if road.sensed == "cable" and road.cable_turns_per_km is None and not job.vehicle.driveline.tyre:
        raise BadInput(
            "other", other, "the tyre it was calibrated with", "Enter the tyre that is on now first."
        )
    before, after = roll_out(job, road), circumference_m(read_tyre(other))
    if before is None:
        raise BadInput(
            "other",
            other,
            "the tyre it was calibrated with",
            "Enter the tyre that is on now, or its roll-out, first.",
        )
    if road.circumference_m is not None and job.vehicle.driveline.tyre:
        # Measured against measured: the new one is taken to roll as much under its catalogue as the old.
        after *= road.circumference_m / circumference_m(
            read_tyre(job.vehicle.driveline.tyre), job.vehicle.driveline.tyre_wear_mm
        )
    change = before / after  # what is shown for one true speed, new over old: a larger tyre turns less
    setting = (
        None
        if road.setting is None
        else road.setting * (change if meaning_of(road) == "pulses_per_distance" else 1 / change)
    )
    return {
        "other": other,
        "change_pct": 100 * (change - 1),
        "per_100": 100 * change,
        "fresh": setting,
        "after": after,
    }


def gap_steps(job: Job, channel: MeasuringChain, data: dict[str, Any]) -> dict[str, Any]:
    """The card of magnets and gap at the channel's top speed, and a reluctor's volts at a walk."""
    road, stage = channel.road, job.input_of(channel)
    around = roll_out(job, road) if road is not None else None
    turns = road.top_kmh / 3.6 / around if road is not None and around is not None else None
    if turns is not None and road is not None and road.sensed == "driveline":
        turns *= job.vehicle.driveline.axle_ratio or 1.0
    limit = (road.limit_hz if road is not None else None) or (stage.limit_hz if stage is not None else None)
    steps = gap_card(Magnets(data["count"], data["radius"], data["gap"], data["steel"]), turns, limit)
    volts = reluctor_volts(data["volts"], data["at"], 5.0) if data["volts"] and data["at"] else None
    return {"steps": steps, "walk_v": volts}
