"""Survey before work, cluster items, kit."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.brief.estimate import looms
from metrolex.job import Survey, VehicleState
from metrolex.quantities import VOLTAGE
from workbench.jobs.fields import NumberField, QuantityField, as_typed


def _lines(label: str, help_text: str = "") -> forms.CharField:
    return forms.CharField(
        label=label,
        required=False,
        max_length=2000,
        widget=forms.Textarea(attrs={"rows": 3}),
        help_text=help_text,
    )


class SurveyForm(forms.Form):
    """What the vehicle is like before anyone touches it. Lists hold one thing a line."""

    day = forms.CharField(label="Day", required=False, max_length=40)
    rest_v = QuantityField(VOLTAGE, "V", label="Battery at rest", required=False, low=3, high=32)
    charging_v = QuantityField(
        VOLTAGE,
        "V",
        label="Charging",
        required=False,
        low=3,
        high=34,
        help_text="Engine at fast idle, lamps on",
    )
    lamps_lit = _lines("Lamps lit with the engine running", "One a line. None: leave it empty.")
    stored_faults = _lines("Stored faults")
    old_wiring = _lines("Old wiring", "Alarms, twisted joints, doubled senders")
    leaks = _lines("Leaks seen")
    brittle = _lines("Brittle trim")
    readings = _lines(
        "Factory readings now", "One a line: name = reading, like: coolant = a needle below half"
    )
    notes = forms.CharField(
        label="Notes", required=False, max_length=2000, widget=forms.Textarea(attrs={"rows": 2})
    )
    looked_after = forms.BooleanField(label="Looked again at handover", required=False)
    lamps_after = _lines("Lamps lit after the work")
    readings_after = _lines("Factory readings after the work", "Same names as before")

    @staticmethod
    def start(survey: Survey, state: VehicleState) -> dict[str, Any]:
        """What stands in the form."""
        plain: dict[str, Any] = {
            name: "\n".join(getattr(survey, name))
            for name in ("lamps_lit", "stored_faults", "old_wiring", "leaks", "brittle")
        }
        for name in ("rest_v", "charging_v"):
            value = getattr(state, name)
            plain[name] = as_typed(value, "V")
        return plain | {
            "day": survey.day,
            "notes": survey.notes,
            "readings": "\n".join(f"{r.name} = {r.before}" for r in survey.readings),
            "looked_after": survey.lamps_after is not None,
            "lamps_after": "\n".join(survey.lamps_after or ()),
            "readings_after": "\n".join(f"{r.name} = {r.after}" for r in survey.readings if r.after),
        }

    def _rows(self, name: str) -> list[str]:
        rows = [line.strip() for line in str(self.cleaned_data.get(name, "")).splitlines() if line.strip()]
        if any(len(row) > 120 for row in rows):
            raise forms.ValidationError("At most 120 characters a line.")
        return rows

    def clean_lamps_lit(self) -> list[str]:
        return self._rows("lamps_lit")

    def clean_stored_faults(self) -> list[str]:
        return self._rows("stored_faults")

    def clean_old_wiring(self) -> list[str]:
        return self._rows("old_wiring")

    def clean_leaks(self) -> list[str]:
        return self._rows("leaks")

    def clean_brittle(self) -> list[str]:
        return self._rows("brittle")

    def clean_lamps_after(self) -> list[str]:
        return self._rows("lamps_after")

    def clean_readings(self) -> dict[str, str]:
        return self._pairs("readings")

    def clean_readings_after(self) -> dict[str, str]:
        return self._pairs("readings_after")

    def _pairs(self, name: str) -> dict[str, str]:
        found = {}
        for row in self._rows(name):
            what, equals, reading = row.partition("=")
            if not equals or not what.strip():
                raise forms.ValidationError(
                    f"'{row[:40]}': write name = reading, like: coolant = a needle below half."
                )
            found[what.strip()] = reading.strip()
        return found

    def volts(self) -> dict[str, float | None]:
        """How the vehicle stands."""
        return {name: self.cleaned_data[name] for name in ("rest_v", "charging_v")}

    def data_of(self) -> dict[str, Any]:
        """What the core reads of the survey."""
        clean = self.cleaned_data
        after = clean["readings_after"]
        names = list(dict.fromkeys([*clean["readings"], *after]))
        data = {
            name: clean[name]
            for name in (
                "day",
                "lamps_lit",
                "stored_faults",
                "old_wiring",
                "leaks",
                "brittle",
                "notes",
            )
        }
        data["readings"] = [
            {"name": name, "before": clean["readings"].get(name, ""), "after": after.get(name, "")}
            for name in names
        ]
        data["lamps_after"] = clean["lamps_after"] if clean["looked_after"] else None
        return data


class KitForm(forms.Form):
    """How many are at hand."""

    item = forms.CharField(max_length=60, widget=forms.HiddenInput)
    have = NumberField(label="At hand", low=0, high=10_000, required=False)
    price = NumberField(label="Costs each", low=0, high=1e6, required=False)


class RateForm(forms.Form):
    """What an hour costs, in which money, and how the loom is bought."""

    currency = forms.CharField(label="Money", max_length=6, required=False, help_text="Like: EUR, kr, CHF")
    rate_per_h = NumberField(label="An hour costs", low=0, high=10_000, required=False)
    loom = forms.ChoiceField(
        label="Loom", required=False, choices=[("", "as usual: bare wire"), *looms().items()]
    )


class AlternativeForm(forms.Form):
    """Another way to do the job."""

    name = forms.CharField(label="The other way", max_length=120, help_text="Like: convert the old cluster")
    parts = NumberField(label="Its parts", low=0, high=1e7, required=False)
    hours = NumberField(label="Its hours", low=0, high=1000, required=False)
