"""The vehicle and its electrical supply."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.fuel.systems import fuel_systems
from metrolex.job import Electrics
from metrolex.job.within import value_within
from metrolex.quantities import CURRENT, LENGTH, PRESSURE, RESISTANCE, VOLTAGE, in_unit
from metrolex.tables import load_table
from workbench.jobs.fields import NumberField, OpenChoiceField, QuantityField, RecordForm, as_typed

VEHICLE_FIELDS = (
    "maker",
    "model",
    "year",
    "described",
    "cylinders",
    "burns",
    "induction",
    "gearbox",
    "layout",
    "cooling",
    "fuel_feed",
    "fuel_line_bar",
    "length_m",
    "system_v",
)
SYSTEM_VOLTS = [("", "not said: 12 V"), ("6", "6 V"), ("12", "12 V"), ("24", "24 V")]
FUELS = [
    ("", "not said"),
    ("petrol", "petrol"),
    ("diesel", "diesel"),
    ("E5", "E5"),
    ("E10", "E10"),
    ("E85", "E85"),
    ("E100", "E100"),
    ("blend", "ethanol blend, any"),
    ("methanol", "methanol"),
    ("propane", "propane (LPG)"),
    ("gas", "gas"),
    ("electric", "electric"),
]
INDUCTION = [("", "not said"), ("none", "none"), ("turbo", "turbo"), ("supercharger", "supercharger")]
GEARBOX = [("", "not said"), ("manual", "manual"), ("automatic", "automatic")]
LAYOUT = [
    ("", "not said"),
    ("in-line", "in line"),
    ("vee", "in a vee"),
    ("flat", "flat"),
    ("single", "one cylinder"),
]
COOLING = [("", "not said"), ("water", "water"), ("air", "air")]
FUEL_FEED = [
    ("", "not said"),
    *((key, system.words) for key, system in fuel_systems().items()),
    ("injection", "injection, kind not known"),
]


class VehicleForm(RecordForm):
    """The vehicle, as far as the job needs it."""

    vehicle = forms.CharField(label="Vehicle", max_length=120, help_text="What you call it in the workshop")
    maker = forms.CharField(label="Maker", max_length=120, required=False)
    model = forms.CharField(label="Model", max_length=120, required=False)
    year = forms.IntegerField(label="Year", min_value=1885, max_value=2100, required=False)
    described = forms.CharField(
        label="Engine", max_length=120, required=False, help_text="Like 2.2 four, petrol"
    )
    cylinders = forms.IntegerField(label="Cylinders", min_value=1, max_value=24, required=False)
    burns = OpenChoiceField(label="Fuel", choices=FUELS, required=False)
    induction = OpenChoiceField(label="Forced induction", choices=INDUCTION, required=False)
    gearbox = OpenChoiceField(label="Gearbox", choices=GEARBOX, required=False)
    layout = OpenChoiceField(label="Cylinders lie", choices=LAYOUT, required=False)
    cooling = OpenChoiceField(label="Cooled by", choices=COOLING, required=False)
    fuel_feed = OpenChoiceField(label="Fuel by", choices=FUEL_FEED, required=False)
    fuel_line_bar = QuantityField(
        PRESSURE,
        "bar",
        into="bar",
        label="Fuel supply line",
        required=False,
        low=0.01,
        high=4000,
        help_text="If measured or known: the low-pressure line",
    )
    system_v = forms.TypedChoiceField(
        label="System", choices=SYSTEM_VOLTS, required=False, coerce=int, empty_value=None
    )
    length_m = QuantityField(LENGTH, "m", label="Length, end to end", required=False, low=0.5, high=30)


class BriefForm(VehicleForm):
    """The brief: vehicle, owner, what is wanted, what is waited for."""

    name = forms.CharField(label="Job", max_length=120)
    owner = forms.CharField(label="Owner", max_length=120, required=False)
    wants = forms.CharField(
        label="What the owner wants to see, and why",
        max_length=2000,
        required=False,
        widget=forms.Textarea(attrs={"rows": 3}),
    )
    hours_left = NumberField(unit="h", label="Hours left", required=False, low=0, high=10_000)
    waits_for = forms.CharField(
        label="Waits for", max_length=120, required=False, help_text="A part, curing, the owner"
    )
    rest_v = QuantityField(
        VOLTAGE,
        "V",
        label="Battery at rest",
        required=False,
        low=3,
        high=32,
        help_text="Post to post, key off. 12.6 V is taken until it is read",
    )
    charging_v = QuantityField(
        VOLTAGE,
        "V",
        label="Charging",
        required=False,
        low=3,
        high=34,
        help_text="Engine running, post to post. 14.2 V until it is read",
    )
    cranking_v = QuantityField(
        VOLTAGE,
        "V",
        label="While it cranks",
        required=False,
        low=2,
        high=32,
        help_text="Starter turning, post to post",
    )

    field_order = [
        "name",
        "vehicle",
        "owner",
        "wants",
        "hours_left",
        "waits_for",
        "rest_v",
        "charging_v",
        "cranking_v",
    ]


def _ohms(label: str, help_text: str = "") -> QuantityField:
    return QuantityField(RESISTANCE, "mohm", label=label, low=1e-6, high=10, help_text=help_text)


def _share(label: str, most: float) -> NumberField:
    return NumberField(unit="%", label=label, low=0, high=most)


class SupplyForm(forms.Form):
    """Starter, resistances, straps and standing loads as measured, and how far each may be off; the volts are the brief's."""

    batteries = forms.ChoiceField(
        label="Batteries",
        choices=[
            ("one", "one"),
            ("side by side", "two side by side, as one"),
            ("in series", "two in series"),
            ("a second one, parted", "a second one behind an isolator"),
        ],
        help_text="Negative off on all of them before work",
    )
    rest_tolerance_v = QuantityField(VOLTAGE, "V", label="rest, charging ±", low=0, high=3)
    starter_a = QuantityField(CURRENT, "A", label="Starter draws", low=1, high=2000)
    starter_tolerance_pct = _share("starter ± %", 90)
    start_level = forms.ChoiceField(
        label="A start dips to",
        required=False,
        choices=[("", "not said")]
        + [
            (level, f"{row['dip_v']:g} V: {row['words']}")
            for level, row in load_table("starts")["levels"].items()
        ],
        help_text="ISO 16750-2, at 12 V",
    )
    battery_ohm = _ohms("Battery, inside")
    charge_ohm = _ohms("Battery taking charge")
    alternator_ohm = _ohms("Charge lead")
    inner_tolerance_pct = _share("battery, lead ± %", 90)
    contact_ohm = _ohms("A contact of the key switch")
    negative_to_engine_ohm = _ohms("Negative to engine")
    negative_to_body_ohm = _ohms("Negative to body")
    engine_to_body_ohm = _ohms("Engine to body")
    strap_tolerance_pct = _share("straps ± %", 100)
    run_load_a = QuantityField(CURRENT, "A", label="Draws with the key in run", low=0.01, high=500)
    park_load_a = QuantityField(CURRENT, "A", label="Park lamps draw", low=0.01, high=200)
    head_load_a = QuantityField(CURRENT, "A", label="Headlamps draw", low=0.01, high=200)
    load_tolerance_pct = _share("loads ± %", 90)
    wire_tolerance_k = NumberField(label="wire warmth ± K", low=0, high=100)

    @staticmethod
    def of(electrics: Electrics) -> dict[str, Any]:
        """What the form starts with."""
        found: dict[str, Any] = {}
        for name, field in SupplyForm.base_fields.items():
            value: Any = value_within(electrics, name)
            if isinstance(field, QuantityField) and field.dimension is RESISTANCE:
                value = as_typed(in_unit(value, "ohm", "mohm"), "mΩ")
            elif isinstance(field, NumberField):
                value = as_typed(value, "" if field.unit == "%" else field.unit)
            found[name] = value
        return found
