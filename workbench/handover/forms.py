"""Closing words, and the handing over itself."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django import forms

from metrolex.acts.later import Told
from metrolex.acts.ports import offered_senders
from metrolex.job import Closing, Job, Sender
from metrolex.quantities import VOLUME
from workbench.jobs.fields import NumberField, QuantityField, as_typed, set_choices

__all__ = ["ClosingForm", "HandOverForm", "LaterForm", "SenderForm", "SoftwareForm", "TankForm", "TyresForm"]


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


class LaterForm(forms.Form):
    """What every change after the handing over has: at how many km, and what else there is to say."""

    km = NumberField(label="Odometer, km", low=0, high=5_000_000, required=False)
    note = forms.CharField(label="Note", max_length=2000, required=False)

    def told(self, day: str) -> Told:
        """The same for the core."""
        return Told(day, self.cleaned_data["km"], self.cleaned_data["note"])


class TyresForm(LaterForm):
    """Other tyres."""

    tyre = forms.CharField(label="New tyres", max_length=60, help_text="As on the side wall: 215/60R17 96H")
    field_order = ("tyre", "km", "note")


class SoftwareForm(LaterForm):
    """New software in a display."""

    display = forms.ChoiceField(label="Display")
    version = forms.CharField(label="Version in it now", max_length=60)
    field_order = ("display", "version", "km", "note")

    def __init__(self, job: Job, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        set_choices(self, "display", [("", "choose"), *((one.id, one.name) for one in job.displays)])


class SenderForm(LaterForm):
    """Another sender for a reading."""

    of = forms.ChoiceField(label="Reading")
    sender = forms.ChoiceField(label="New sender")
    field_order = ("of", "sender", "km", "note")

    def __init__(self, job: Job, library: Mapping[str, Sender], *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        mine = [chain for chain in job.measured if chain.sender]
        set_choices(self, "of", [(chain.channel, chain.name) for chain in mine])
        names = dict.fromkeys(name for chain in mine for name in offered_senders(job, chain, library))
        set_choices(self, "sender", [("", "choose"), *((name, name) for name in names)])


class TankForm(LaterForm):
    """Another tank."""

    of = forms.ChoiceField(label="Reading")
    capacity_l = QuantityField(VOLUME, "L", label="It holds", low=0.1, high=20_000)
    field_order = ("of", "capacity_l", "km", "note")

    def __init__(self, job: Job, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        set_choices(self, "of", [(chain.id, chain.name) for chain in job.chains if chain.tank])
