"""A slot of the panel, a ground point."""

from __future__ import annotations

from django import forms

from metrolex.quantities import CURRENT, RESISTANCE
from workbench.jobs.fields import QuantityField

FORMS = [
    ("mini", "mini"),
    ("regular", "regular"),
    ("low-profile mini", "low-profile mini"),
    ("micro 2", "micro 2"),
    ("micro 3", "micro 3"),
    ("maxi", "maxi"),
    ("other", "other"),
]


class CircuitForm(forms.Form):
    """A fuse slot, a bare wire or the battery, as found in the vehicle."""

    id = forms.CharField(label="Slot", max_length=60, help_text="Like F22")
    purpose = forms.CharField(
        label="Feeds", max_length=120, required=False, help_text="As the lid or the diagram says"
    )
    kind = forms.ChoiceField(
        label="It is",
        choices=[("fuse", "a fuse slot"), ("wire", "a bare wire"), ("battery", "the battery itself")],
    )
    rating_a = QuantityField(CURRENT, "A", label="Fuse", required=False, low=0.5, high=200)
    form = forms.ChoiceField(label="Form", choices=FORMS)
    panel = forms.CharField(label="Panel", max_length=120, required=False)
    row = forms.IntegerField(label="Row", min_value=1, max_value=40, initial=1)
    column = forms.IntegerField(label="Column", min_value=1, max_value=40, initial=1)


class GroundForm(forms.Form):
    """A bolt or stud used as ground."""

    name = forms.CharField(label="Ground point", max_length=120)
    where = forms.ChoiceField(
        label="Metal of",
        choices=[("body", "the body"), ("engine", "the engine"), ("battery", "battery negative")],
    )
    surface = forms.CharField(
        label="Surface", max_length=120, required=False, help_text="Like bare steel, star washer"
    )
    contact_ohm = QuantityField(
        RESISTANCE,
        "ohm",
        label="Contact",
        required=False,
        low=0.0001,
        high=100,
        help_text="Leave empty for 3 mΩ",
    )
