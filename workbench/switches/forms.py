"""Forms of a switch: what it is, into which wire it goes, which two readings it shows by turns."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.harness.cut_list import end_words
from metrolex.job import Job, Switch
from metrolex.quantities import CURRENT, LENGTH, RESISTANCE, VOLTAGE
from workbench.jobs.fields import QuantityField, as_typed, field_ids, set_choices

__all__ = ["KINDS", "IntoWireForm", "ShareForm", "SwitchForm"]

KINDS = {
    "on_off": "on and off",
    "changeover": "changeover, one or the other",
    "momentary": "push button, springs back",
    "relay": "relay",
}


class SwitchForm(forms.Form):
    """A switch or relay as it lies in the hand."""

    switch = forms.CharField(widget=forms.HiddenInput, max_length=60, required=False)
    name = forms.CharField(label="Switch", max_length=120, help_text="Like: backlight of the gauges")
    kind = forms.ChoiceField(label="Kind", choices=list(KINDS.items()))
    poles = forms.IntegerField(label="Poles", min_value=1, max_value=4, initial=1)
    at_rest = forms.CharField(label="At rest it says", max_length=120, required=False)
    thrown = forms.CharField(label="Thrown it says", max_length=120, required=False)
    place = forms.CharField(label="Where it sits", max_length=120, required=False)
    limit_a = QuantityField(CURRENT, "A", label="A contact carries", low=0.01, high=500)
    contact_ohm = QuantityField(RESISTANCE, "ohm", label="Contact, resistance", low=1e-5, high=10)
    coil_ohm = QuantityField(RESISTANCE, "ohm", label="Coil of a relay", low=1, high=10_000)
    pulls_v = QuantityField(VOLTAGE, "V", label="It pulls from", low=0.5, high=60)

    @staticmethod
    def of(switch: Switch) -> SwitchForm:
        """The form of a switch as it stands."""
        says = (*switch.positions, "", "")
        start: dict[str, Any] = {
            "switch": switch.id,
            "name": switch.name,
            "kind": switch.kind,
            "poles": switch.poles,
            "at_rest": says[0],
            "thrown": says[1],
            "place": switch.place,
            "limit_a": as_typed(switch.limit_a, "A"),
            "contact_ohm": as_typed(switch.contact_ohm, "ohm"),
            "coil_ohm": as_typed(switch.coil_ohm, "ohm"),
            "pulls_v": as_typed(switch.pulls_v, "V"),
        }
        return SwitchForm(initial=start, auto_id=field_ids("sw", switch.id))

    @staticmethod
    def new() -> SwitchForm:
        """The form of a switch more, as most are."""
        blank = Switch("new", "new")
        start = {**SwitchForm.of(blank).initial, "switch": "", "name": ""}
        return SwitchForm(initial=start, auto_id=field_ids("sw"))

    @staticmethod
    def typed(data: Any) -> SwitchForm:
        """The form as it was sent."""
        return SwitchForm(data, auto_id=field_ids("sw", data.get("switch", "")))

    def facts(self) -> dict[str, Any]:
        """What was said, by the core's names."""
        data = self.cleaned_data
        says = [data["at_rest"], data["thrown"]]
        names = ("name", "kind", "poles", "place", "limit_a", "contact_ohm", "coil_ohm", "pulls_v")
        return {name: data[name] for name in names} | {"positions": says if any(says) else []}


class IntoWireForm(forms.Form):
    """A switch put into a wire that is there."""

    name = forms.CharField(label="Switch", max_length=120, help_text="Like: backlight of the gauges")
    wire = forms.ChoiceField(label="Into wire")
    kind = forms.ChoiceField(label="Kind", choices=[(k, KINDS[k]) for k in ("on_off", "momentary")])
    to_m = QuantityField(
        LENGTH,
        "m",
        label="Up to the switch",
        required=False,
        low=0.01,
        high=100,
        help_text="Empty: along its run as before",
    )
    after_m = QuantityField(LENGTH, "m", label="From the switch on", required=False, low=0.01, high=100)

    def __init__(self, job: Job, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"auto_id": "into-%s"} | kwargs)
        wires = [(w.id, f"{w.id}: {end_words(job, w.a)} to {end_words(job, w.b)}") for w in job.conductors]
        set_choices(self, "wire", wires)

    def facts(self) -> dict[str, Any]:
        """What was said of the switch, by the core's names."""
        return {name: self.cleaned_data[name] for name in ("name", "kind")}


class ShareForm(forms.Form):
    """Two readings on one dial."""

    first = forms.ChoiceField(label="On the dial of")
    other = forms.ChoiceField(label="also")
    name = forms.CharField(
        label="Switch", max_length=120, required=False, help_text="Empty: named after both"
    )

    def __init__(self, job: Job, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"auto_id": "share-%s"} | kwargs)
        free = [(c.id, c.name) for c in job.chains if job.shown_by(c) is None]
        set_choices(self, "first", free)
        set_choices(self, "other", free)
