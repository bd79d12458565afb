"""Forms of a display: an entry of its menu, an input as its maker describes it."""

from __future__ import annotations

from typing import get_args

from django import forms

from metrolex.job import MenuEntry
from metrolex.job.display import Asks

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
