"""A new job, typed or from a file."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django import forms

from metrolex.acts.quick import QUICK
from metrolex.faults.complaints import WORDS
from metrolex.kit import measurands
from metrolex.quantities import VOLTAGE
from metrolex.tables import load_table
from workbench.accounts.zones import ZONES
from workbench.brief.vehicle_forms import VehicleForm
from workbench.jobs.fields import QuantityField, set_choices


class NewJobForm(VehicleForm):
    """A new job in one short page."""

    name = forms.CharField(label="Job", max_length=120, help_text="Like: coolant gauge in the pod")
    owner = forms.CharField(label="Owner", max_length=120, required=False)
    wants = forms.CharField(
        label="What the owner wants to see, and why",
        max_length=2000,
        required=False,
        widget=forms.Textarea(attrs={"rows": 2}),
    )
    channels = forms.MultipleChoiceField(
        label="Show",
        required=False,
        widget=forms.CheckboxSelectMultiple,
        choices=[(facts.id, facts.name) for facts in measurands()],
    )

    display = forms.ChoiceField(
        label="On",
        required=False,
        widget=forms.RadioSelect,
        initial="gauges",
        choices=[
            ("gauges", "round gauges with a lamp wire, one for each"),
            ("plain", "round gauges without a lamp wire"),
            ("dash", "one dash with several inputs"),
        ],
    )
    earlier = forms.ChoiceField(
        label="Stands on an earlier job",
        required=False,
        help_text="Its panels and readings, taps in use, grounds, plan and openings are taken over",
    )

    zone = forms.ChoiceField(
        label="Time zone of the workshop",
        required=False,
        choices=[(name, name.replace("_", " ")) for name in ZONES],
        help_text="Hours of work and days are counted in it",
    )

    def __init__(
        self, *args: Any, jobs: Sequence[tuple[int, str]] = (), asks_zone: bool = False, **kwargs: Any
    ) -> None:
        super().__init__(*args, **kwargs)
        if not asks_zone:
            del self.fields["zone"]
        earlier = self.fields["earlier"]
        assert isinstance(earlier, forms.ChoiceField)
        earlier.choices = [
            ("", "none: a vehicle not seen before"),
            *((str(key), words) for key, words in jobs),
        ]
        if not jobs:
            del self.fields["earlier"]

    field_order = [
        "name",
        "vehicle",
        "channels",
        "display",
        "system_v",
        "burns",
        "induction",
        "earlier",
        "zone",
        "owner",
        "wants",
        "described",
        "cylinders",
        "gearbox",
        "layout",
        "cooling",
        "fuel_feed",
        "fuel_line_bar",
        "length_m",
        "maker",
        "model",
        "year",
    ]


class JobFileForm(forms.Form):
    """A job file to open as a new job."""

    file = forms.FileField(label="Job file", help_text="JSON, as written by Handover or bin/metrolex")


def _said(word: str) -> str:
    said: str = load_table("complaints")[word]["words"]
    return said


class QuickForm(forms.Form):
    """One gauge that is wrong, in five answers."""

    measurand = forms.ChoiceField(
        label="The gauge shows", choices=[(one.id, one.name) for one in measurands() if one.id in QUICK]
    )
    sender = forms.ChoiceField(label="Its sender", required=False)
    lit = forms.BooleanField(label="It has a lamp wire", required=False, initial=True)
    rest_v = QuantityField(VOLTAGE, "V", label="Battery, engine stopped", low=6, high=32, initial="12.6")
    word = forms.ChoiceField(label="What it does", choices=[(word, _said(word)) for word in WORDS])

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"auto_id": "quick-%s"} | kwargs)
        names = dict.fromkeys(name for one in measurands() if one.id in QUICK for name in one.senders)
        set_choices(self, "sender", [("", "the usual one, or not known"), *((name, name) for name in names)])
