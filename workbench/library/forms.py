"""A fitting of the workshop's own."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.errors import BadInput
from metrolex.fittings.stack import end_called
from metrolex.quantities import LENGTH
from workbench.jobs.fields import QuantityField

_END = "Like 1/8-27 NPT male, M12x1.5 female, hose 38 mm male, AN6 flare male"


class FittingForm(forms.Form):
    """Two ends with their gender, a length, what it is."""

    name = forms.CharField(label="Fitting", max_length=120, help_text="What it says on your drawer")
    one = forms.CharField(label="One end", max_length=60, help_text=_END)
    two = forms.CharField(label="Other end", max_length=60)
    length = QuantityField(
        LENGTH,
        "mm",
        into="mm",
        label="Adds in length",
        low=0,
        high=2000,
        help_text="As screwed in: 12 mm, 1/2 in",
    )
    sort = forms.ChoiceField(
        label="Sort",
        initial="adapter",
        choices=[
            (s, s)
            for s in (
                "adapter",
                "bush",
                "extender",
                "tee",
                "remote hose",
                "sandwich plate",
                "hose adapter",
                "hose tee",
                "hose",
                "compression tee",
                "quick tee",
                "probe fitting",
                "weld bung",
                "bolt adapter",
                "banjo",
                "sump plug",
            )
        ],
    )
    spanner = QuantityField(LENGTH, "mm", into="mm", label="Spanner", required=False, low=3, high=80)
    spare_ports = forms.IntegerField(
        label="Mouths left over", required=False, min_value=0, max_value=6, initial=0
    )
    rim = QuantityField(
        LENGTH,
        "mm",
        into="mm",
        label="Rim at its mouth",
        required=False,
        low=0.5,
        high=100,
        help_text="Of a plate: from the mouth's face to the oil",
    )
    stream = QuantityField(
        LENGTH,
        "mm",
        into="mm",
        label="Free width inside",
        required=False,
        low=0.5,
        high=300,
        help_text="Of a plate: from the rim to the stud",
    )
    cut = QuantityField(
        LENGTH,
        "mm",
        into="mm",
        label="Cut out of the line",
        required=False,
        low=1,
        high=300,
        help_text="Of a tee: stop to stop inside it",
    )

    def clean(self) -> dict[str, Any]:
        clean = super().clean() or {}
        ends = {}
        for field, default in (("one", "male"), ("two", "female")):
            if field not in clean:
                continue
            try:
                ends[field] = end_called(clean[field], field, default)  # type: ignore[arg-type]
            except BadInput as fault:
                self.add_error(field, fault.message)
        if len(ends) == 2:
            names: dict[str, str] = {}
            for end in ends.values():
                names["other_" + end.gender if end.gender in names else end.gender] = end.connection.name
            clean["ends"] = names
        return clean

    def data_of(self) -> dict[str, Any]:
        """What the core reads."""
        clean = self.cleaned_data
        data = {
            "name": clean["name"],
            **clean["ends"],
            "length_mm": clean["length"],
            "sort": clean["sort"],
        }
        for field, key in (
            ("spanner", "spanner_mm"),
            ("rim", "rim_mm"),
            ("stream", "stream_mm"),
            ("cut", "cut_mm"),
        ):
            if clean[field] is not None:
                data[key] = clean[field]
        return data | ({"spare_ports": clean["spare_ports"]} if clean["spare_ports"] else {})


class StockForm(forms.Form):
    """How many lie on the shelf."""

    name = forms.CharField(max_length=120, widget=forms.HiddenInput)
    stock = forms.IntegerField(label="In stock", min_value=0, max_value=10_000)
