"""Panels, slots and wires, taps, ground points, what lamp wires do."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.feeds.panel_lines import MOST_IN_LINE
from metrolex.job import Circuit, GroundPoint, Job, Panel, Tap
from metrolex.job.within import value_within
from metrolex.quantities import CURRENT, LENGTH, RESISTANCE, VOLTAGE
from metrolex.tables import load_table
from workbench.jobs.fields import NumberField, OpenChoiceField, QuantityField, RecordForm, as_typed, field_ids

__all__ = ["CircuitForm", "GroundForm", "LayOutForm", "LightingForm", "PanelForm", "TapForm"]

FORMS = [("", "not known")] + [
    (form, form) for form in ("mini", "regular", "low-profile mini", "micro 2", "micro 3", "maxi", "other")
]
FOUND_AT = [("", "")] + [
    (word, word)
    for word in (
        "radio plug",
        "ignition switch",
        "lamp switch",
        "accessory socket",
        "spare connector",
        "elsewhere",
    )
]
SIDES = [("", "not found yet"), ("left", "left"), ("right", "right"), ("top", "top"), ("bottom", "bottom")]


def colour_choices() -> list[tuple[str, str]]:
    return [("", ""), *((code, f"{code} {name}") for code, name in load_table("colours").items())]


class JobForm(RecordForm):
    """A form whose choices are parts of the job. ``ids`` tells its fields' ids from those of another form on the page."""

    ids = "id_%s"

    def __init__(self, job: Job, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"auto_id": self.ids} | kwargs)
        zones = [("", "not on the plan"), *((zone.id, zone.name) for zone in job.zones)]
        panels = [("", "none"), *((panel.id, panel.name) for panel in job.panels)]
        for name, choices in (("zone", zones), ("panel", panels)):
            if name in self.fields:
                self.fields[name].choices = choices  # type: ignore[attr-defined]


class PanelForm(JobForm):
    """A fuse panel as it lies."""

    ids = field_ids("panel")

    name = forms.CharField(label="Panel", max_length=120, help_text="Like: cabin, left of the wheel")
    zone = forms.ChoiceField(label="Where on the plan", required=False)
    lid_mm = QuantityField(
        LENGTH,
        "mm",
        into="mm",
        label="Room under the lid",
        required=False,
        low=1,
        high=300,
        help_text="Above a seated fuse, in mm",
    )
    pitch_mm = QuantityField(
        LENGTH,
        "mm",
        into="mm",
        label="From slot to slot",
        required=False,
        low=3,
        high=100,
        help_text="Along a row, in mm",
    )

    def values(self) -> dict[str, Any]:
        """The panel's fields."""
        clean = self.cleaned_data
        return {
            "name": clean["name"],
            "zone": clean["zone"] or None,
            "lid_mm": clean["lid_mm"],
            "pitch_mm": clean["pitch_mm"],
        }

    @staticmethod
    def of(panel: Panel) -> dict[str, Any]:
        """What the form starts with for a panel that is there."""
        mm = {
            name: as_typed(value, "mm")
            for name, value in (("lid_mm", panel.lid_mm), ("pitch_mm", panel.pitch_mm))
        }
        return {"name": panel.name, "zone": panel.zone or "", **mm}


class LayOutForm(JobForm):
    """Many slots of a panel at once: lines, or rows by columns."""

    ids = field_ids("lay-out")

    panel = forms.ChoiceField(label="Panel", required=False)
    lines = forms.CharField(
        label="Its slots, one a line",
        required=False,
        max_length=20000,
        widget=forms.Textarea(
            attrs={
                "rows": 7,
                "class": "figures",
                "spellcheck": "false",
                "placeholder": "F1 10 Radio\nF2 15 Rear wiper\nF3 -",
            }
        ),
        help_text="Slot, ampere, what the lid says; an empty line begins the next row",
    )
    in_row = NumberField(
        label="In a row",
        required=False,
        low=1,
        high=MOST_IN_LINE,
        help_text="Where no empty line parts them",
    )
    rows = NumberField(
        label="Rows",
        required=False,
        low=1,
        high=MOST_IN_LINE,
        help_text="Instead of lines",
    )
    first = forms.CharField(
        label="First slot", max_length=40, required=False, help_text="Numbered on from it"
    )

    def clean_in_row(self) -> int | None:
        return _whole(self.cleaned_data["in_row"])

    def clean_rows(self) -> int | None:
        return _whole(self.cleaned_data["rows"])

    def values(self) -> dict[str, Any]:
        """What the act takes."""
        return {**self.cleaned_data, "first": self.cleaned_data["first"] or "F1"}


def _whole(value: float | None) -> int | None:
    if value is not None and value != int(value):
        raise forms.ValidationError(f"Expected a whole number, but got {value:g}.")
    return None if value is None else int(value)


class CircuitForm(JobForm):
    """A fuse slot, a bare wire, a distribution block or the battery, as found in the vehicle."""

    id = forms.CharField(label="Slot", max_length=60, help_text="Like F22")
    purpose = forms.CharField(
        label="Name", max_length=120, required=False, help_text="As the lid or the diagram says"
    )
    feeds = forms.ChoiceField(
        label="Found to feed",
        required=False,
        help_text="What went dead, whatever its name says",
        choices=[
            ("", "not looked yet"),
            ("comfort", "comfort: radio, seats, windows"),
            ("lighting", "headlamps, fog lamps"),
            ("module", "a shared module"),
            ("old cluster", "the old cluster"),
            ("engine or gearbox", "engine or gearbox"),
            ("safety", "brakes, belts, steering, turn lamps, alarm"),
            ("nothing", "nothing: a spare"),
        ],
    )
    kind = forms.ChoiceField(
        label="It is",
        choices=[(key, row["words"]) for key, row in load_table("feed_places").items()],
    )
    panel = forms.ChoiceField(label="Panel", required=False)
    rating_a = QuantityField(CURRENT, "A", label="Fuse", required=False, low=0.5, high=200)
    form = OpenChoiceField(label="Form", choices=FORMS, required=False)
    row = forms.IntegerField(label="Row", min_value=1, max_value=40, initial=1)
    column = forms.IntegerField(label="Column", min_value=1, max_value=40, initial=1)
    fed = forms.ChoiceField(
        label="Fed side", choices=SIDES, required=False, help_text="Live with the fuse out"
    )
    load_a = QuantityField(CURRENT, "A", label="Vehicle draws", required=False, low=0, high=200)
    taken_by = forms.CharField(
        label="Tapped already by",
        max_length=120,
        required=False,
        help_text="An earlier job, an alarm, a radio",
    )
    taken_a = QuantityField(CURRENT, "A", label="That draws", required=False, low=0, high=200)
    found_at = OpenChoiceField(label="Found at", choices=FOUND_AT, required=False)
    colour = forms.ChoiceField(label="Colour", choices=colour_choices, required=False)
    zone = forms.ChoiceField(label="Where on the plan", required=False)
    later_min = NumberField(
        unit="min",
        label="Late reading, min",
        required=False,
        low=1,
        high=600,
        help_text="Minutes after key-off",
    )

    def values(self) -> dict[str, Any]:
        """The circuit's fields as entered; what was left empty and has a default is left out."""
        clean = dict(self.cleaned_data)
        clean["panel"], clean["zone"] = clean["panel"] or None, clean["zone"] or None
        for name in ("load_a", "taken_a", "later_min"):
            if clean[name] is None:
                del clean[name]
        clean["empty"] = clean["kind"] == "empty slot"
        if clean["empty"]:
            clean["kind"] = "fuse"
        if clean["kind"] != "fuse":
            clean["form"] = ""
        return clean

    @staticmethod
    def of(circuit: Circuit) -> dict[str, Any]:
        """What the form starts with for a circuit that is there."""
        plain = ("id", "purpose", "feeds", "taken_by", "form", "row", "column", "fed", "found_at", "colour")
        return {
            **{name: value_within(circuit, name) for name in plain},
            "kind": circuit.place,
            "panel": circuit.slot.panel or "",
            "zone": circuit.where.zone or "",
            "rating_a": as_typed(circuit.rating_a),
            "load_a": as_typed(circuit.load_a),
            "taken_a": as_typed(circuit.taken_a),
            "later_min": as_typed(circuit.later_min),
        }


class TapForm(forms.Form):
    """A tap as fitted."""

    fuse_a = QuantityField(CURRENT, "A", label="Added fuse", required=False, low=0.5, high=100)
    limit_a = QuantityField(CURRENT, "A", label="Tap carries", low=0.5, high=100)
    fuse_at_m = QuantityField(
        LENGTH,
        "m",
        label="Tap to fuse",
        required=False,
        low=0,
        high=20,
        help_text="Along the wire; nothing if it sits in the tap",
    )
    why = forms.CharField(label="Why here", max_length=120, required=False)

    @staticmethod
    def of(tap: Tap) -> dict[str, Any]:
        """What the form starts with."""
        return {
            "fuse_a": as_typed(tap.fuse_a),
            "limit_a": as_typed(tap.limit_a),
            "why": tap.why,
            "fuse_at_m": as_typed(tap.fuse_at_m, "m"),
        }


class GroundForm(JobForm):
    """A bolt or stud used as ground."""

    ids = field_ids("ground")

    name = forms.CharField(label="Ground point", max_length=120)
    where = forms.ChoiceField(
        label="Metal of",
        choices=[("body", "the body"), ("engine", "the engine"), ("battery", "battery negative")],
    )
    surface = forms.CharField(
        label="Surface", max_length=120, required=False, help_text="Like bare steel, star washer"
    )
    shared_with = forms.CharField(
        label="Shared with", max_length=120, required=False, help_text="Motors, lamps, modules"
    )
    terminal = forms.ChoiceField(
        label="Wire's end",
        required=False,
        choices=[
            ("", ""),
            ("ring", "ring terminal"),
            ("spade", "spade"),
            ("bare wire", "bare wire wound round"),
        ],
    )
    zone = forms.ChoiceField(label="Where on the plan", required=False)
    reads_v = QuantityField(
        VOLTAGE,
        "V",
        label="Battery positive to it",
        required=False,
        low=-60,
        high=60,
        help_text="No load: proves it for the meter",
    )
    drop_v = QuantityField(
        VOLTAGE, "V", label="Drop under load", required=False, low=0, high=20, help_text="To battery negative"
    )
    drop_load_a = QuantityField(
        CURRENT,
        "A",
        label="Load then",
        required=False,
        low=0.1,
        high=100,
        help_text="A 55 W lamp draws 4.5 A",
    )
    contact_ohm = QuantityField(
        RESISTANCE,
        "ohm",
        label="Contact",
        required=False,
        low=0.000001,
        high=1000,
        help_text="If known and no drop was read",
    )

    def values(self) -> dict[str, Any]:
        """The point's fields as entered."""
        clean = {**self.cleaned_data, "zone": self.cleaned_data["zone"] or None}
        if clean["contact_ohm"] is None:
            del clean["contact_ohm"]
        return clean

    @staticmethod
    def of(point: GroundPoint) -> dict[str, Any]:
        """What the form starts with for a point that is there."""
        plain = ("name", "where", "surface", "shared_with", "terminal")
        numbers = {
            name: "" if (value := getattr(point, name)) is None else as_typed(value)
            for name in ("reads_v", "drop_v", "drop_load_a", "contact_ohm")
        }
        return {**{name: getattr(point, name) for name in plain}, "zone": point.zone or "", **numbers}


class LightingForm(forms.Form):
    """What a display's lamp wire does."""

    display = forms.CharField(widget=forms.HiddenInput, max_length=60)
    lighting = forms.ChoiceField(
        label="When its lamp wire goes live it",
        required=False,
        choices=[
            ("", "not looked up yet"),
            ("dims", "dims"),
            ("lights", "lights up, dark before"),
            ("follows", "follows the volts on it"),
            ("sensor", "does nothing: it has a light sensor"),
        ],
    )
    no_dimmer = forms.BooleanField(label="Its maker forbids a dimmer on that wire", required=False)
