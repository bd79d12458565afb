"""A run with its segments, a wire."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.harness.conductors import gauges
from metrolex.quantities import LENGTH, TEMPERATURE
from workbench.drawing import WIRE_PAINT
from workbench.jobs.fields import NumberField, QuantityField

SIZES = [(f"{gauge.size:g}", gauge.words) for gauge in gauges("mm2")]
COLOURS = [("", "not said"), *[(code, code) for code in WIRE_PAINT]]


class RunForm(forms.Form):
    """What belongs to the whole run."""

    name = forms.CharField(label="Run", max_length=120)
    supplied_m = QuantityField(
        LENGTH,
        "m",
        label="Supplied lead",
        required=False,
        low=0,
        high=100,
        help_text="Empty: none, cut it yourself",
    )
    slack_pct = NumberField(label="Slack, %", low=0, high=100)
    ends_m = QuantityField(
        LENGTH, "m", label="Both ends together", low=0, high=20, help_text="To strip, to terminate, to turn"
    )


class SegmentForm(forms.Form):
    """A stretch of the way."""

    name = forms.CharField(label="From, to", max_length=120, required=False)
    length_m = QuantityField(LENGTH, "m", label="Length", required=False, low=0, high=100)
    peak_degc = QuantityField(
        TEMPERATURE, "degC", label="Hottest beside it", required=False, low=-60, high=1200
    )
    moving = forms.BooleanField(label="Moves", required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for field in self.fields.values():  # the column's heading is no label
            field.widget.attrs["aria-label"] = field.label

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if (
            (data.get("name") or data.get("peak_degc") is not None)
            and data.get("length_m") is None
            and "length_m" not in self.errors
        ):
            self.add_error("length_m", "How long is it? Like 0.85 m or 33 in.")
        return data


class SegmentForms(forms.BaseFormSet):
    """The stretches of one run."""

    def add_fields(self, form: forms.Form, index: int | None) -> None:
        super().add_fields(form, index)
        form.fields["DELETE"].widget.attrs["aria-label"] = "Drop it"


SegmentFormSet = forms.formset_factory(
    SegmentForm, SegmentForms, extra=2, can_delete=True, max_num=60, absolute_max=80
)


class WireForm(forms.Form):
    """A wire's own facts."""

    size = forms.ChoiceField(label="Size", choices=SIZES)
    colour = forms.ChoiceField(label="Colour", choices=COLOURS, required=False)
    stripe = forms.ChoiceField(label="Stripe", choices=COLOURS, required=False)
    length_m = QuantityField(
        LENGTH, "m", label="Measured length", required=False, low=0.01, high=100, help_text="Empty: the run's"
    )
    run = forms.ChoiceField(label="Along run", required=False)

    def __init__(self, *args: Any, runs: list[tuple[str, str]], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["run"].choices = [("", "none"), *runs]


class NewWireForm(WireForm):
    """A wire between two places."""

    a = forms.ChoiceField(label="From")
    b = forms.ChoiceField(label="To")
    field_order = ["a", "b", "size", "colour", "length_m", "run"]

    def __init__(self, *args: Any, ends: list[tuple[str, str]], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        del self.fields["stripe"]
        for name in ("a", "b"):
            self.fields[name].choices = ends
