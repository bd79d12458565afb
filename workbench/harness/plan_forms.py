"""A run along the plan, a way, a zone."""

from __future__ import annotations

from typing import Any, get_args

from django import forms

from metrolex.errors import BadInput
from metrolex.job import Job, Run, Way, Zone
from metrolex.job.plan import ZoneKind
from metrolex.quantities import LENGTH, TEMPERATURE, parse, parse_number
from workbench.harness.forms import BesideForm, RunForm
from workbench.jobs.fields import NumberField, QuantityField, as_typed

__all__ = ["LaidRunForm", "WayForm", "ZoneForm"]


def _zones(job: Job, empty: str) -> list[tuple[str, str]]:
    return [("", empty), *((zone.id, zone.name) for zone in job.zones)]


class LaidRunForm(RunForm):
    """A run along the plan: its ends besides what every run has."""

    start = forms.ChoiceField(label="Begins in", required=False)
    finish = forms.ChoiceField(label="Ends in", required=False)
    thermocouple_type = forms.ChoiceField(
        label="Lead", required=False, choices=[("", "copper"), ("K", "thermocouple, type K")]
    )
    field_order = [
        "name",
        "start",
        "finish",
        "supplied_m",
        "slack_pct",
        "ends_m",
        "thermocouple_type",
        "plug",
    ]
    plug = forms.ChoiceField(
        label="Its plug lies in", required=False, help_text="The one that parts for a new sender"
    )

    def __init__(self, job: Job, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name, empty in (
            ("start", "not on the plan"),
            ("finish", "not on the plan"),
            ("plug", "not said"),
        ):
            self.fields[name].choices = _zones(job, empty)  # type: ignore[attr-defined]

    def values(self) -> dict[str, Any]:
        """The run's fields."""
        clean = super().values()
        return {**clean, **{name: clean[name] or None for name in ("start", "finish", "plug")}}

    @staticmethod
    def of(run: Run) -> dict[str, Any]:
        """What the form starts with."""
        return {
            **RunForm.own(run),
            "start": run.start or "",
            "finish": run.finish or "",
            "thermocouple_type": run.thermocouple_type,
            "plug": run.plug or "",
        }


class WayForm(BesideForm):
    """A way from zone to zone as measured."""

    name = forms.CharField(label="Name", max_length=120, required=False)
    a = forms.ChoiceField(label="From")
    b = forms.ChoiceField(label="To")
    length_m = QuantityField(LENGTH, "m", label="Length", low=0, high=100)
    peak_degc = QuantityField(TEMPERATURE, "degC", label="Hottest beside it", low=-60, high=1200)
    moving = forms.BooleanField(label="Moves", required=False)
    wet = forms.BooleanField(label="Wet", required=False)
    opening = forms.ChoiceField(label="Through", required=False)

    def __init__(self, job: Job, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name in ("a", "b"):
            self.fields[name].choices = _zones(job, "")  # type: ignore[attr-defined]
        self.fields["opening"].choices = [("", "no opening"), *((o.id, o.name) for o in job.openings)]  # type: ignore[attr-defined]

    def values(self) -> dict[str, Any]:
        """The way's fields."""
        return {**self.cleaned_data, "opening": self.cleaned_data["opening"] or None}

    @staticmethod
    def of(way: Way) -> dict[str, Any]:
        """What the form starts with."""
        return {
            "name": way.name,
            "a": way.a,
            "b": way.b,
            "length_m": as_typed(way.length_m, "m"),
            "peak_degc": as_typed(way.peak_degc, "C"),
            "moving": way.moving,
            "wet": way.wet,
            "opening": way.opening or "",
            "tied_to": list(way.tied_to),
            "passes": list(way.beside.passes),
            "over": way.beside.over,
            "shielded": way.beside.shielded,
            "heat_measured": way.beside.heat_measured,
        }


class SheetField(NumberField):
    """A place on the plan's sheet, 100 from end to end of the vehicle; or a length of the vehicle itself, once that is known."""

    vehicle_m: float | None = None

    def read(self, text: str) -> float:
        try:
            return parse_number(text)
        except BadInput:
            length_m = parse(text, LENGTH)
        if self.vehicle_m is None:
            raise BadInput(
                "",
                text,
                "0 to 100",
                "The sheet is 100 from end to end: give the vehicle's length on Brief to write lengths here.",
            )
        return round(100 * length_m / self.vehicle_m, 2)


class ZoneForm(forms.Form):
    """A zone: where it lies on the sheet of 100 by 60, what is asked of it."""

    name = forms.CharField(label="Zone", max_length=120)
    kind = forms.ChoiceField(label="Kind", choices=[(kind, kind) for kind in get_args(ZoneKind)])
    x = SheetField(label="From the front", low=0, high=98, help_text="0 to 100, or a length")
    y = SheetField(label="From the left side", low=0, high=58, help_text="0 to 60")
    w = SheetField(label="Long", low=2, high=100)
    h = SheetField(label="Wide", low=2, high=60)
    airbag = forms.ChoiceField(
        label="Airbag",
        required=False,
        choices=[("", "not asked yet"), ("none", "none here"), ("there", "one sits here")],
    )
    pedals = forms.BooleanField(label="Pedals here", required=False)

    def __init__(self, job: Job, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name in ("x", "y", "w", "h"):
            self.fields[name].vehicle_m = job.vehicle.identity.length_m  # type: ignore[attr-defined]

    @staticmethod
    def of(zone: Zone) -> dict[str, Any]:
        """What the form starts with."""
        return {name: getattr(zone, name) for name in ("name", "kind", "airbag", "pedals")} | {
            name: as_typed(getattr(zone, name)) for name in ("x", "y", "w", "h")
        }
