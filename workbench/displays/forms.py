"""Forms of a display or box: the whole of it, a pin, an input and an output as its maker describes them."""

from __future__ import annotations

from typing import Any, get_args, get_type_hints

from django import forms

from metrolex.job import Display, Input, Output, Pin, Tolerance
from metrolex.job.display import DATA_OUT, OUTPUT_ROLES
from metrolex.kit import measurand_facts, measurands
from metrolex.quantities import CURRENT, LENGTH, RESISTANCE, VOLTAGE
from metrolex.senders import LinearCurve, TableCurve
from metrolex.senders.pasted import points_text, read_points
from metrolex.tables import load_table
from workbench.jobs.fields import (
    NumberField,
    OpenChoiceField,
    QuantityField,
    RecordForm,
    as_typed,
    field_ids,
    set_choices,
)

__all__ = ["GIVES", "KINDS", "ROLES", "DisplayForm", "InputForm", "OutputForm", "PinForm"]

KINDS = {
    "pull_up": "a resistance, by a pull-up",
    "volts": "volts",
    "pulse": "pulses",
    "thermocouple": "a thermocouple",
    "loop": "a 4 to 20 mA loop",
    "supply": "its own supply",
    "data": "data",
    "own_lead": "a sensor on its maker's own lead",
}
#: What comes out of an output.
GIVES = {"volt": "volts", "ohm": "ohms, as a sender would", "hertz": "pulses, Hz"}
#: What a pin is for, as one says it.
ROLES = {
    "ignition": "ignition feed, it lives by it",
    "memory": "constant feed, for its memory",
    "lamps": "lamp feed, tells it the lights are on",
    "ground": "ground",
    "signal": "signal of an input",
    "return": "return of a sender",
    "sensor_supply": "supply to a sender",
    "signal_out": "signal out, to a display or an engine control",
    "lamp_input": "lamp input, a tell-tale",
    "output": "output, pulls to ground",
    "can_high": "data, high",
    "can_low": "data, low",
    "data_in": "data in, from the one before",
    "data_out": "data out, to the next one",
}
#: What stands for the law of a number that is sent as it is.
NUMBERS = ((0.0, -10_000.0), (5.0, 10_000.0))
STRAIGHT = 2  # points of a straight line
LONGEST_LAW = 10_000  # letters: a few hundred points
assert set(KINDS) == set(get_args(get_type_hints(Input)["kind"]))
assert set(ROLES) == set(get_args(get_type_hints(Pin)["role"]))


class DisplayForm(forms.Form):
    """What belongs to the whole display."""

    name = forms.CharField(label="Display", max_length=120)
    position = forms.CharField(label="Where it sits", max_length=120, required=False)
    lead_m = QuantityField(LENGTH, "m", label="Lead it came with", required=False, low=0, high=100)
    min_v = QuantityField(VOLTAGE, "V", label="Lives down to", low=0.1, high=60)
    rides_through_ms = NumberField(
        label="Without volts for, ms", required=False, low=0, high=1e5, help_text="Before it starts anew"
    )
    needs_crank = forms.BooleanField(label="To stay lit while cranking", required=False)
    face = forms.BooleanField(
        label="Has a face the driver reads", required=False, help_text="A controller or converter has none"
    )
    own_battery = forms.BooleanField(label="Runs on a battery of its own", required=False)
    forgets = forms.CharField(
        label="Forgets without memory volts",
        max_length=120,
        required=False,
        help_text="Peaks, trip, its settings",
    )
    buttons = forms.CharField(
        label="Buttons",
        max_length=400,
        required=False,
        help_text="By their names, with commas between: set, mode",
    )

    @staticmethod
    def of(display: Display) -> dict[str, Any]:
        """What the form starts with."""
        supply = display.supply
        return {
            "name": display.name,
            "position": display.position,
            "lead_m": as_typed(display.lead_m, "m") if display.lead_m is not None else "",
            "min_v": as_typed(supply.min_v, "V"),
            "rides_through_ms": as_typed(supply.rides_through_ms) if supply.rides_through_ms else "",
            "needs_crank": supply.needs_crank,
            "face": display.face,
            "own_battery": supply.own_battery,
            "forgets": supply.forgets,
            "buttons": ", ".join(display.buttons),
        }

    def facts(self) -> dict[str, Any]:
        """What was said, by the core's names."""
        data = self.cleaned_data
        buttons = tuple(word.strip() for word in data["buttons"].split(",") if word.strip())
        return data | {"rides_through_ms": data["rides_through_ms"] or 0.0, "buttons": buttons}


class PinForm(RecordForm):
    """A pin: its number, what it is for, what it draws."""

    pin = forms.CharField(widget=forms.HiddenInput, max_length=60, required=False)
    number = forms.CharField(label="Pin", max_length=60)
    name = forms.CharField(label="Called", max_length=120, required=False, help_text="As its leaflet does")
    role = forms.ChoiceField(label="For", choices=list(ROLES.items()))
    colour = OpenChoiceField(
        label="Colour of its wire",
        required=False,
        choices=[
            ("", "not said"),
            *((code, f"{code} {name}") for code, name in load_table("colours").items()),
        ],
    )
    load_a = QuantityField(CURRENT, "A", label="Draws", required=False, low=0, high=100)
    load_kind = forms.ChoiceField(
        label="As volts change",
        choices=[("resistive", "more at more volts"), ("constant", "the same at any volts")],
    )
    peak_a = QuantityField(CURRENT, "A", label="Draws at first", required=False, low=0, high=200)
    peak_s = NumberField(unit="s", label="For so many s", required=False, low=0, high=3600)

    @staticmethod
    def of(pin: Pin) -> dict[str, Any]:
        """What the form starts with."""
        return {
            "pin": pin.id,
            "number": pin.id,
            "name": pin.name,
            "role": pin.role,
            "colour": pin.colour,
            "load_a": as_typed(pin.load_a, "A") if pin.load_a else "",
            "load_kind": pin.load_kind,
            "peak_a": as_typed(pin.peak_a, "A") if pin.peak_a else "",
            "peak_s": as_typed(pin.peak_s, "s") if pin.peak_s else "",
        }

    def facts(self) -> dict[str, Any]:
        """What was said, by the core's names."""
        data = self.cleaned_data
        found = {name: data[name] or 0.0 for name in ("load_a", "peak_a", "peak_s")}
        return found | {
            "id": data["number"],
            "name": data["name"],
            "role": data["role"],
            "colour": data["colour"],
            "load_kind": data["load_kind"],
        }


class InputForm(forms.Form):
    """An input of a display: what it reads, at which pin, by which parts, and what its table takes."""

    input = forms.CharField(widget=forms.HiddenInput, max_length=60, required=False)
    called = forms.CharField(label="Input", max_length=60)
    kind = forms.ChoiceField(label="Reads", choices=list(KINDS.items()))
    pin = forms.ChoiceField(label="At its pin", required=False)
    pull_up = QuantityField(RESISTANCE, "ohm", label="Pull-up", required=False, low=1, high=1e7)
    pull_up_tolerance = NumberField(unit="%", label="± %", required=False, low=0, high=50)
    reference = QuantityField(VOLTAGE, "V", label="Reference", required=False, low=0.1, high=30)
    reference_tolerance = NumberField(unit="%", label="± %", required=False, low=0, high=50)
    ratiometric = forms.BooleanField(
        label="Ratiometric", required=False, help_text="It counts against what feeds its sender"
    )
    bits = forms.IntegerField(label="Converter, bits", required=False, min_value=4, max_value=24)
    adc_offset = NumberField(label="off at its zero, ± steps", required=False, low=0, high=1000)
    input_ohm = QuantityField(
        RESISTANCE, "ohm", label="Loads the line with", required=False, low=1, high=1e12
    )
    rows = forms.IntegerField(label="Rows in its table", required=False, min_value=2, max_value=256)
    x_step = NumberField(label="comes in, in steps of", required=False, low=0)
    y_step = NumberField(label="shown, in steps of", required=False, low=0)
    first = forms.ChoiceField(label="Typed first", choices=[("x", "what comes in"), ("y", "what is shown")])
    limit = NumberField(unit="Hz", label="Counts up to, Hz", required=False, low=1, high=1e6)
    thermocouple_type = forms.ChoiceField(
        label="Thermocouple type",
        required=False,
        choices=[("", "none"), *((t, f"type {t}") for t in ("K", "J", "N", "T"))],
    )
    cold_junction = NumberField(label="its cold junction, ± °C", required=False, low=0, high=50)

    def __init__(self, display: Display, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        signals = [(p.id, f"{p.id} {p.name}".strip()) for p in display.pins if p.role == "signal"]
        set_choices(self, "pin", [("", "none: it has no wire"), *signals])

    @staticmethod
    def of(display: Display, stage: Input) -> InputForm:
        """The form of an input as it stands."""
        words = {
            "pull_up_tolerance": stage.circuit.pull_up_tolerance_pct,
            "reference_tolerance": stage.circuit.reference_tolerance_pct,
            "x_step": stage.table.x_step or None,
            "y_step": stage.table.y_step or None,
            "limit": stage.limit_hz,
            "adc_offset": stage.converter.adc_offset_lsb,
            "cold_junction": stage.cold_junction_k,
        }
        start: dict[str, Any] = {name: as_typed(value) for name, value in words.items()}
        start |= {
            "pull_up": as_typed(stage.circuit.pull_up_ohm, "ohm") if stage.circuit.pull_up_ohm else "",
            "reference": as_typed(stage.circuit.reference_v, "V") if stage.circuit.reference_v else "",
        }
        start |= {
            "input": stage.id,
            "called": stage.id,
            "pin": stage.pin or "",
            "kind": stage.kind,
            "ratiometric": stage.converter.ratiometric,
            "bits": stage.converter.adc_bits,
            "rows": stage.table.rows,
            "first": stage.table.first,
            "thermocouple_type": stage.thermocouple_type or "",
            "input_ohm": as_typed(stage.circuit.input_ohm, "ohm"),
        }
        return InputForm(display, initial=start, auto_id=field_ids("in", stage.id))

    @staticmethod
    def new(display: Display) -> InputForm:
        """The form of an input more, as most are."""
        start = {"kind": "volts", "pull_up_tolerance": "1", "reference_tolerance": "1", "adc_offset": "1"}
        return InputForm(display, initial=start | {"cold_junction": "1"}, auto_id=field_ids("in"))

    @staticmethod
    def typed(display: Display, data: Any) -> InputForm:
        """The form as it was sent."""
        return InputForm(display, data, auto_id=field_ids("in", data.get("input", "")))

    def facts(self) -> dict[str, Any]:
        """What was said of the input, by the core's names; a load on the line left empty is not said."""
        data = self.cleaned_data
        found = {
            "id": data["called"],
            "kind": data["kind"],
            "pin": data["pin"] or None,
            "pull_up_ohm": data["pull_up"],
            "reference_v": data["reference"],
            "adc_bits": data["bits"],
            "rows": data["rows"],
            "pull_up_tolerance_pct": data["pull_up_tolerance"] or 0.0,
            "reference_tolerance_pct": data["reference_tolerance"] or 0.0,
            "x_step": data["x_step"] or 0.0,
            "y_step": data["y_step"] or 0.0,
            "first": data["first"],
            "limit_hz": data["limit"],
            "thermocouple_type": data["thermocouple_type"] or None,
            "ratiometric": data["ratiometric"],
            "adc_offset_lsb": data["adc_offset"] or 0.0,
            "cold_junction_k": data["cold_junction"] or 0.0,
        }
        return found | ({"input_ohm": data["input_ohm"]} if data["input_ohm"] else {})

    def names(self) -> dict[str, str]:
        """Where the core's complaints belong."""
        return {
            "id": "called",
            "pull_up_ohm": "pull_up",
            "reference_v": "reference",
            "adc_bits": "bits",
        }


class OutputForm(forms.Form):
    """An output of a box: what it tells, at which pin, by which law, and what stands there until it reads."""

    output = forms.CharField(widget=forms.HiddenInput, max_length=60, required=False)
    called = forms.CharField(label="Output", max_length=60)
    name = forms.CharField(label="Called", max_length=120, required=False, help_text="As its leaflet does")
    measurand = forms.ChoiceField(label="Tells")
    pin = forms.ChoiceField(label="At its pin")
    gives = forms.ChoiceField(label="Gives", choices=list(GIVES.items()))
    points = forms.CharField(
        label="Law",
        required=False,
        max_length=LONGEST_LAW,
        widget=forms.Textarea(attrs={"rows": 3, "class": "figures", "spellcheck": "false"}),
        help_text="One a line: what it gives, then what that means. Two lines make a straight one; none for data",
    )
    tolerance = NumberField(label="True within ±", required=False, low=0, help_text="Of what it tells")
    unready = NumberField(
        label="Until it reads, it gives",
        required=False,
        help_text="Sensor cold, unplugged or broken; empty: not known",
    )
    output_ohm = QuantityField(RESISTANCE, "ohm", label="Behind its pin", required=False, low=0.01, high=1e6)

    def __init__(self, display: Display, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.display = display
        outs = [(p.id, f"{p.id} {p.name}".strip()) for p in display.pins if p.role in OUTPUT_ROLES]
        set_choices(self, "pin", outs)
        stands = self.stands = display.output_called(str(self["output"].value() or ""))
        unsaid = [("", "not said")] if stands is not None and stands.measurand is None else []
        set_choices(self, "measurand", [*unsaid, *((facts.id, facts.name) for facts in measurands())])
        self.fields["measurand"].required = not unsaid
        if stands is not None and not isinstance(stands.curve, (LinearCurve, TableCurve)):
            del self.fields["points"]

    @staticmethod
    def of(display: Display, output: Output) -> OutputForm:
        """The form of an output as it stands."""
        start: dict[str, Any] = {
            "output": output.id,
            "called": output.id,
            "name": output.name,
            "measurand": output.measurand or "",
            "pin": output.pin,
            "gives": output.curve.x_unit,
            "tolerance": as_typed(output.tolerance.y),
            "unready": as_typed(output.unready_x),
            "output_ohm": as_typed(output.output_ohm, "ohm"),
        }
        if isinstance(output.curve, (LinearCurve, TableCurve)) and not display.by_data(output):
            start["points"] = points_text(output.curve.points)
        return OutputForm(display, initial=start, auto_id=field_ids("out", output.id))

    @staticmethod
    def new(display: Display) -> OutputForm:
        """The form of an output more, as most are."""
        start = {"gives": "volt", "output_ohm": "100 ohm"}
        return OutputForm(display, initial=start, auto_id=field_ids("out"))

    @staticmethod
    def typed(display: Display, data: Any) -> OutputForm:
        """The form as it was sent."""
        return OutputForm(display, data, auto_id=field_ids("out", data.get("output", "")))

    def facts(self) -> dict[str, Any]:
        """What was said of the output, by the core's names. Raises BadInput for a law that is none."""
        data = self.cleaned_data
        before = self.stands
        tolerance = Tolerance(before.tolerance.x_pct if before else 0.0, data["tolerance"] or 0.0)
        found = {
            "id": data["called"],
            "name": data["name"],
            "measurand": data["measurand"],
            "pin": data["pin"],
            "tolerance": tolerance,
            "unready_x": data["unready"],
            "curve": self._curve(data),
        }
        return found | ({"output_ohm": data["output_ohm"]} if data["output_ohm"] else {})

    def _curve(self, data: dict[str, Any]) -> Any:
        law = self.stands.curve if self.stands else None
        if "points" not in data:
            return law
        same = self.stands is not None and (self.stands.measurand or "") == data["measurand"]
        unit = law.y_unit if law is not None and same else measurand_facts(data["measurand"]).unit
        by_data = data["pin"] in {pin.id for pin in self.display.pins if pin.role in DATA_OUT}
        if by_data and not data["points"].strip():
            return LinearCurve(NUMBERS, "volt", unit)
        points = read_points(data["points"], data["gives"], unit)
        known = getattr(law, "points", None), getattr(law, "x_unit", None), getattr(law, "y_unit", None)
        if (points, data["gives"], unit) == known:
            return law
        if len(points) <= STRAIGHT:
            return LinearCurve(points, data["gives"], unit)
        between = law.interpolation if isinstance(law, TableCurve) else "linear"
        return TableCurve(points, data["gives"], unit, between)

    def names(self) -> dict[str, str]:
        """Where the core's complaints belong."""
        return {"id": "called", "unready_x": "unready", "curve": "points", "x_range": "points"}
