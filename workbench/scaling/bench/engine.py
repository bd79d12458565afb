"""Engine speed: pick-up, pulses a turn, what a wrong reading says; shift lamps."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.acts import counting as acts
from metrolex.errors import BadInput
from metrolex.job import EngineCount, Job, MeasuringChain, ShiftPlan
from metrolex.quantities import parse_number
from metrolex.scaling.counting import engine_pulses_of, shown_over_true
from metrolex.scaling.shift_lamps import shift_table
from metrolex.senders.pasted import points_text, read_points
from metrolex.speed.engine import PICKUP_TURNS, doubt_of, jumps_findings
from workbench.jobs.fields import NumberField, as_typed
from workbench.jobs.look import Look

__all__ = ["EngineForm", "ShiftForm", "context"]

PICKUPS = [
    ("coil_negative", "coil, negative side"),
    ("wasted_spark_coil", "wasted-spark coil"),
    ("plug_lead", "turns round a plug lead"),
    ("wasted_spark_plug_lead", "turns round a lead of a wasted-spark coil"),
    ("ecu", "output of the ECU or ignition box"),
]


class EngineForm(forms.Form):
    """How engine speed is picked up."""

    pickup = forms.ChoiceField(label="Picked up at", choices=PICKUPS)
    cylinders = forms.IntegerField(label="Cylinders", min_value=1, max_value=24)
    strokes = forms.ChoiceField(label="Strokes", choices=[("4", "four"), ("2", "two")])
    pulses_per_rev = NumberField(label="Pulses a turn, if known", required=False, low=0.1, high=200)
    setting = NumberField(label="Display set to, pulses a turn", required=False, low=0.1, high=200)
    turns = NumberField(
        label="Turns round the lead", required=False, low=0, high=40, help_text=f"start with {PICKUP_TURNS}"
    )
    redline = NumberField(unit="rpm", label="Redline, rpm", required=False, low=500, high=30000)
    shown = NumberField(unit="rpm", label="It shows, rpm", required=False, low=1, high=60000)
    true = NumberField(
        unit="rpm",
        label="Truly, rpm",
        required=False,
        low=1,
        high=60000,
        help_text="by a strobe, a second tachometer or the ECU",
    )

    readings = forms.CharField(
        label="Or: readings one after the other",
        required=False,
        max_length=200,
        help_text="at that steady speed, with spaces between: tells noise from lost pulses",
    )

    @staticmethod
    def of(job: Job, count: EngineCount | None) -> dict[str, Any]:
        start: dict[str, Any] = {
            "cylinders": job.vehicle.engine.cylinders,
            "strokes": str(job.vehicle.engine.strokes),
            "redline": as_typed(job.vehicle.engine.redline_rpm),
        }
        if count is None:
            return start
        return start | {
            "pickup": count.pickup,
            "pulses_per_rev": as_typed(count.pulses_per_rev),
            "setting": as_typed(count.setting),
            "turns": as_typed(count.turns),
            "shown": as_typed(count.shown_rpm),
            "true": as_typed(count.true_rpm),
            "readings": " ".join(as_typed(rpm) for rpm in count.readings_rpm),
        }

    def put(self, job: Job, key: str) -> Job:
        """The job with what was typed. Raises BadInput."""
        data = self.cleaned_data
        readings = _numbers("readings", data["readings"])
        if readings and data["true"] is None:
            raise BadInput(
                "true",
                None,
                "the true speed at which they were read",
                "Give the true speed at which they were read.",
            )
        if not readings and (data["shown"] is None) != (data["true"] is None):
            raise BadInput(
                "true" if data["true"] is None else "shown",
                None,
                "both what it shows and the true speed",
                "Give both: what it shows and what is true.",
            )
        count = EngineCount(
            data["pickup"],
            data["pulses_per_rev"],
            data["setting"],
            data["turns"],
            data["shown"],
            data["true"],
            readings,
        )
        return acts.set_engine(
            job, key, count, data["cylinders"], 2 if data["strokes"] == "2" else 4, data["redline"]
        )


class ShiftForm(forms.Form):
    """Shift lamps from power, gearing and reaction."""

    power = forms.CharField(
        label="Power over engine speed",
        max_length=2000,
        widget=forms.Textarea(attrs={"rows": 6, "class": "figures"}),
        help_text="One a line: rpm, then kW; three lines or more",
    )
    ratios = forms.CharField(label="Gear ratios", max_length=120, help_text="From first up: 3.2 1.9 1.3 1.0")
    axle = NumberField(label="Axle ratio", low=0.2, high=30)
    mass = NumberField(unit="kg", label="Mass with driver, kg", low=50, high=60000)
    redline = NumberField(unit="rpm", label="Redline, rpm", low=500, high=30000)
    lamps = forms.IntegerField(label="Lamps", min_value=1, max_value=24)
    reaction = NumberField(unit="s", label="Driver reacts in, s", low=0, high=2)
    step = NumberField(unit="s", label="Lamps apart, s", low=0.02, high=2)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"auto_id": "shift-%s"} | kwargs)

    @staticmethod
    def of(job: Job, channel: MeasuringChain) -> dict[str, Any]:
        display, vehicle = job.display(channel.display), job.vehicle
        has = display.screen.shift_lamps if display else 0
        plan = channel.shift or (ShiftPlan(lamps=min(has, 24)) if has else ShiftPlan())
        return {
            "power": points_text(plan.power),
            "ratios": " ".join(as_typed(r) for r in vehicle.driveline.gear_ratios),
            "axle": as_typed(vehicle.driveline.axle_ratio),
            "mass": as_typed(vehicle.identity.mass_kg),
            "redline": as_typed(vehicle.engine.redline_rpm),
            "lamps": plan.lamps,
            "reaction": as_typed(plan.reaction_s),
            "step": as_typed(plan.step_s),
        }

    def put(self, job: Job, key: str) -> Job:
        """The job with what was typed. Raises BadInput."""
        data = self.cleaned_data
        ratios = _numbers("ratios", data["ratios"])
        plan = ShiftPlan(
            read_points(data["power"], "rpm", "kW"), data["lamps"], data["reaction"], data["step"]
        )
        return acts.set_shift(job, key, plan, ratios, data["axle"], data["mass"], data["redline"])


def context(look: Look, channel: MeasuringChain, refused: forms.Form | None = None) -> dict[str, Any]:
    """Figures of an engine speed channel."""
    job, count = look.job, channel.engine
    stage = job.input_of(channel)
    found: dict[str, Any] = {
        "count": count,
        "pulsed": stage is not None and stage.kind == "pulse",
        "form": refused if isinstance(refused, EngineForm) else EngineForm(initial=EngineForm.of(job, count)),
        "shift_form": refused
        if isinstance(refused, ShiftForm)
        else ShiftForm(initial=ShiftForm.of(job, channel)),
    }
    if count is not None:
        try:
            pulses = engine_pulses_of(job, count)
            found |= {
                "pulses": pulses,
                "at_redline": pulses.hertz(job.vehicle.engine.redline_rpm or 7000.0),
                "at_idle": pulses.hertz(job.vehicle.engine.idle_rpm or 850.0),
            }
            found["ratio"] = shown_over_true(job, channel)
        except BadInput as fault:
            found["missing"] = fault.message
        if count.shown_rpm is not None and count.true_rpm is not None and "pulses" in found:
            found["doubts"] = doubt_of(found["pulses"], count.shown_rpm, count.true_rpm, count.setting)
        if count.readings_rpm and count.true_rpm is not None:
            found["doubts"] = [*found.get("doubts", ()), *jumps_findings(count.readings_rpm, count.true_rpm)]
    if channel.shift is not None and channel.shift.power:
        try:
            found["shifts"] = shift_table(job, channel)
        except BadInput as fault:
            found["shift_missing"] = fault.message
    return found


def _numbers(field: str, text: str) -> tuple[float, ...]:
    """Numbers with spaces between. Raises BadInput naming the word that is none."""
    found = []
    for word in text.replace(";", " ").replace("/", " ").split():
        try:
            found.append(parse_number(word))
        except BadInput:
            raise BadInput(
                field, word, "numbers with spaces between", f"'{word:.20}' is not a number."
            ) from None
    return tuple(found)
