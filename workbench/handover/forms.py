"""Closing words, and the handing over itself."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.job import Closing
from workbench.jobs.fields import NumberField, as_typed

__all__ = ["ClosingForm", "HandOverForm"]


def _lines(label: str, help_text: str) -> forms.CharField:
    return forms.CharField(
        label=label,
        required=False,
        max_length=4000,
        widget=forms.Textarea(attrs={"rows": 3}),
        help_text=help_text,
    )


class ClosingForm(forms.Form):
    """What is said when the job is closed. Lists hold one thing a line."""

    hours = NumberField(label="Hours worked", low=0, high=10_000, required=False)
    km = NumberField(label="Odometer, km", low=0, high=5_000_000, required=False)
    km_a_week = NumberField(
        label="Driven a week, km",
        low=1,
        high=10_000,
        required=False,
        help_text="For the day of the 500 km recheck",
    )
    left_in_box = _lines("Left in the box", "One a line: spare terminals, the old sender")
    open_items = _lines("Still open", "One a line: dimmer not connected, tyre sensors to come")
    hindsight = forms.CharField(
        label="What you would do another way",
        required=False,
        max_length=4000,
        widget=forms.Textarea(attrs={"rows": 2}),
    )

    @staticmethod
    def start(closing: Closing) -> dict[str, Any]:
        """What stands in the form."""
        return {
            "hours": as_typed(closing.hours),
            "km": as_typed(closing.km),
            "km_a_week": as_typed(closing.km_a_week),
            "left_in_box": "\n".join(closing.left_in_box),
            "open_items": "\n".join(closing.open_items),
            "hindsight": closing.hindsight,
        }

    def clean_left_in_box(self) -> list[str]:
        return self._rows("left_in_box")

    def clean_open_items(self) -> list[str]:
        return self._rows("open_items")

    def _rows(self, name: str) -> list[str]:
        rows = [line.strip() for line in str(self.cleaned_data.get(name, "")).splitlines() if line.strip()]
        if any(len(row) > 120 for row in rows):
            raise forms.ValidationError("At most 120 characters a line.")
        return rows


class HandOverForm(forms.Form):
    """To whom, and why all the same where something bars it."""

    to = forms.CharField(label="Handed to", max_length=120)
    reason = forms.CharField(
        label="Why it is handed over all the same",
        required=False,
        max_length=2000,
        widget=forms.Textarea(attrs={"rows": 2}),
    )
