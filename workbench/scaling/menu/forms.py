"""Forms of a display: an entry of its menu, an input as its maker describes it."""

from __future__ import annotations

from typing import Any, get_args

from django import forms

from metrolex.job import Input, MenuEntry
from metrolex.job.display import Asks
from metrolex.quantities import RESISTANCE, VOLTAGE
from workbench.jobs.fields import NumberField, QuantityField, as_typed

KINDS = [
    ("pull_up", "a resistance, by a pull-up"),
    ("volts", "volts"),
    ("pulse", "pulses"),
    ("thermocouple", "a thermocouple"),
    ("loop", "a 4 to 20 mA loop"),
    ("supply", "its own supply"),
    ("data", "data"),
]
ASKS = {
    "enabled": "whether it is on",
    "function": "what it reads",
    "sender": "which sender",
    "decimals": "digits after the point",
    "low": "range low",
    "high": "range high",
    "bar_low": "bar low",
    "bar_high": "bar high",
    "unit": "unit",
    "warn_low": "low warning",
    "warn_high": "high warning",
    "delay": "delay of the warning",
    "table": "the table",
    "pulses": "pulses",
    "fuel": "fuel",
    "backlight": "backlight",
    "note": "something of its own",
}
assert set(ASKS) == set(get_args(Asks))


class EntryForm(forms.Form):
    """An entry of a menu, in the menu's own word."""

    name = forms.CharField(label="Its word in the menu", max_length=120)
    asks = forms.ChoiceField(label="asks", choices=list(ASKS.items()))
    each = forms.ChoiceField(
        label="once", choices=[("input", "for each input"), ("display", "for the display")]
    )
    choices = forms.CharField(
        label="Words it takes",
        required=False,
        max_length=300,
        help_text="with commas between; any where empty",
    )
    digits = forms.IntegerField(label="Digits after the point", required=False, min_value=0, max_value=4)

    def entry(self) -> MenuEntry:
        """The entry as it was typed."""
        data = self.cleaned_data
        words = tuple(word.strip() for word in data["choices"].split(",") if word.strip())
        return MenuEntry(data["name"], data["asks"], data["each"], words, data["digits"])


class InputForm(forms.Form):
    """An input of a display: what it reads, by which parts, and what its table takes."""

    kind = forms.ChoiceField(label="Reads", choices=KINDS)
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

    @staticmethod
    def of(stage: Input) -> InputForm:
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
            "kind": stage.kind,
            "ratiometric": stage.converter.ratiometric,
            "bits": stage.converter.adc_bits,
            "rows": stage.table.rows,
            "first": stage.table.first,
            "thermocouple_type": stage.thermocouple_type or "",
            "input_ohm": as_typed(stage.circuit.input_ohm, "ohm"),
        }
        return InputForm(initial=start, auto_id=f"in-{stage.id}-%s".replace(" ", "-"))

    def facts(self) -> dict[str, Any]:
        """What was said of the input, by the core's names; a load on the line left empty is not said."""
        data = self.cleaned_data
        found = {
            "kind": data["kind"],
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
        return {"pull_up_ohm": "pull_up", "reference_v": "reference", "adc_bits": "bits", "pin": "kind"}
