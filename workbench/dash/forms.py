"""Forms of pages: a page, a face, an output."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.dash.faces import FaceNow
from metrolex.job import FACES, Face, Page, Pin
from metrolex.kit import measurands
from metrolex.quantities import CURRENT
from metrolex.tables import load_table
from workbench.jobs.fields import (
    NumberField,
    OpenChoiceField,
    QuantityField,
    RecordForm,
    as_typed,
    set_choices,
)

__all__ = ["FaceForm", "OutputForm", "PageForm"]

USES = [
    ("", "not said"),
    ("driving", "driving"),
    ("hard driving", "hard driving"),
    ("working", "working: pump, winch"),
    ("setting up", "setting up"),
]


class PageForm(forms.Form):
    """A page."""

    name = forms.CharField(label="Page", max_length=120)
    use = forms.ChoiceField(label="It is on while", required=False, choices=USES)

    @staticmethod
    def of(page: Page) -> dict[str, Any]:
        return {"name": page.name, "use": page.use}


class FaceForm(RecordForm):
    """A face: its kind, its cells, its scale and zone."""

    kind = forms.ChoiceField(label="Drawn as", choices=list(FACES.items()))
    label = forms.CharField(label="Called", required=False, max_length=120)
    low = NumberField(label="Scale from", required=False)
    high = NumberField(label="Scale to", required=False)
    normal_low = NumberField(label="All is well from", required=False)
    normal_high = NumberField(label="All is well to", required=False)
    column = forms.IntegerField(label="Column", min_value=1, max_value=12)
    row = forms.IntegerField(label="Row", min_value=1, max_value=12)
    columns = forms.IntegerField(label="Cells wide", min_value=1, max_value=12)
    rows = forms.IntegerField(label="Cells high", min_value=1, max_value=12)
    lamp = OpenChoiceField(label="Tell-tale for", required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["lamp"].choices = [  # type: ignore[attr-defined]
            ("", "the warning of its channel"),
            *((key, row["name"]) for key, row in load_table("cluster").items() if row["kind"] == "lamp"),
        ]

    @staticmethod
    def of(face: Face) -> dict[str, Any]:
        return {
            name: getattr(face, name)
            for name in ("kind", "label", "column", "row", "columns", "rows", "lamp")
        } | {
            name: as_typed(value) if (value := getattr(face, name)) is not None else ""
            for name in ("low", "high", "normal_low", "normal_high")
        }

    def hint(self, now: FaceNow) -> None:
        """What stands there where nothing is typed."""
        for name, value in (
            ("low", now.low),
            ("high", now.high),
            ("normal_low", now.normal[0] if now.normal else None),
            ("normal_high", now.normal[1] if now.normal else None),
        ):
            if value is not None:
                self.fields[name].widget.attrs["placeholder"] = f"{value:g}"


class OutputForm(RecordForm):
    """An output: what it is for, what it carries, what works it, what else works the load."""

    function = OpenChoiceField(label="For", required=False)
    limit_a = QuantityField(CURRENT, "A", label="Carries", required=False, low=0.001, high=100)
    drives_a = QuantityField(CURRENT, "A", label="Hangs on it", required=False, low=0, high=200)
    works_by = forms.ChoiceField(
        label="Worked by",
        required=False,
        choices=[
            ("", "not said"),
            ("screen switch", "a switch on the screen"),
            ("warning", "a warning"),
            ("level", "a level of a reading"),
        ],
    )
    works_on = forms.ChoiceField(label="Of", required=False)
    backed_by = forms.ChoiceField(
        label="Besides it works",
        required=False,
        choices=[
            ("", "not said"),
            ("nothing", "nothing else"),
            ("thermo switch", "a thermo switch"),
            ("engine control", "the engine control"),
            ("hand switch", "a hand switch"),
        ],
    )
    when_dark = forms.ChoiceField(
        label="While the display is dark",
        required=False,
        choices=[("", "not said"), ("off", "it is off"), ("on", "it runs: relay rests closed")],
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["function"].choices = [  # type: ignore[attr-defined]
            ("", "not said"),
            *((key, row["words"]) for key, row in load_table("functions").items() if row["role"] == "output"),
        ]
        set_choices(self, "works_on", [("", "not said"), *((facts.id, facts.name) for facts in measurands())])

    @staticmethod
    def of(pin: Pin) -> dict[str, Any]:
        return {
            "function": pin.function,
            "limit_a": as_typed(pin.limit_a, "A") if pin.limit_a is not None else "",
            "drives_a": as_typed(pin.drives_a, "A") if pin.drives_a else "",
            "works_by": pin.drive.works_by,
            "works_on": pin.drive.works_on or "",
            "backed_by": pin.drive.backed_by,
            "when_dark": pin.drive.when_dark,
        }

    def facts(self) -> dict[str, Any]:
        data = self.cleaned_data
        return {
            "function": data["function"],
            "limit_a": data["limit_a"],
            "drives_a": data["drives_a"] or 0.0,
            "drive": {
                "works_by": data["works_by"],
                "works_on": data["works_on"] or None,
                "backed_by": data["backed_by"],
                "when_dark": data["when_dark"],
            },
        }
