"""A run with its segments, a wire."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any
from urllib.parse import quote

from django import forms

from metrolex.errors import BadInput
from metrolex.harness.conductors import gauges
from metrolex.harness.plan import Lengths, RunLength
from metrolex.harness.protection import cover_words
from metrolex.harness.supports import passed_words, support_words
from metrolex.job import Beside, Run, Segment
from metrolex.quantities import LENGTH, TEMPERATURE, parse
from metrolex.tables import load_table
from workbench.jobs.fields import (
    NumberField,
    OpenChoiceField,
    OpenMultipleChoiceField,
    QuantityField,
    RecordForm,
    as_typed,
    set_choices,
)

SIZES = [(f"{gauge.size:g}", gauge.words) for gauge in gauges("mm2")] + [
    (f"{gauge.size:g} awg", gauge.words) for gauge in gauges("awg")
]
COLOURS = [("", "not said"), *[(code, f"{code} {name}") for code, name in load_table("colours").items()]]

INSULATIONS = [
    ("", "as its run asks"),
    *[
        (row["name"], f"class {row['name']}, {row['max_degc']} °C")
        for row in load_table("insulation")["classes"]
    ],
]


class RunForm(forms.Form):
    """What belongs to the whole run."""

    name = forms.CharField(label="Run", max_length=120)
    supplied_m = QuantityField(
        LENGTH,
        "m",
        label="Supplied lead",
        required=False,
        low=0.01,
        high=100,
        help_text="Empty: none, cut it yourself",
    )
    slack_pct = NumberField(unit="%", label="Slack, %", low=0, high=100)
    ends_m = QuantityField(
        LENGTH, "m", label="Both ends together", low=0, high=20, help_text="To strip, to terminate, to turn"
    )
    service_loop_m = QuantityField(
        LENGTH,
        "m",
        label="Service loop",
        low=0,
        high=5,
        required=False,
        help_text="Kept behind the plug for a repair",
    )
    cable_mm = QuantityField(
        LENGTH,
        "mm",
        into="mm",
        label="Its wires in a cable of",
        required=False,
        low=0.5,
        high=60,
        help_text="Thickness; empty: single wires",
    )
    spare = forms.ChoiceField(
        label="What is over",
        required=False,
        choices=[("", "not said"), ("cut off", "is cut off"), ("coiled", "is coiled and tied")],
    )
    spare_at = forms.CharField(label="Coiled at", max_length=120, required=False)
    pulling_wire = forms.BooleanField(label="A pulling wire stays in", required=False)

    def values(self) -> dict[str, Any]:
        """The run's fields."""
        return {**self.cleaned_data, "service_loop_m": self.cleaned_data["service_loop_m"] or 0.0}

    @staticmethod
    def own(run: Run) -> dict[str, Any]:
        """What the form starts with."""
        return {
            "name": run.name,
            "supplied_m": as_typed(run.supplied_m, "m"),
            "slack_pct": as_typed(run.slack_pct),
            "ends_m": as_typed(run.ends_m, "m"),
            "service_loop_m": as_typed(run.service_loop_m, "m") if run.service_loop_m else "",
            "cable_mm": as_typed(run.cable_mm, "mm"),
            "spare": run.spare,
            "spare_at": run.spare_at,
            "pulling_wire": run.pulling_wire,
        }


class BesideForm(RecordForm):
    """What a stretch of lead meets: what it is tied to and passes, what is over it, how its heat is known."""

    tied_to = OpenMultipleChoiceField(label="Tied to", required=False)
    passes = OpenMultipleChoiceField(label="Passes", required=False)
    over = OpenChoiceField(label="Over it", required=False)
    shielded = forms.BooleanField(label="Behind a shield", required=False)
    heat_measured = forms.BooleanField(label="Heat was read", required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        good, never = support_words()
        for name, choices in (
            ("tied_to", [*((w, w) for w in good), *((w, f"{w} (never)") for w in never)]),
            ("passes", [(w, w) for w in passed_words()]),
            ("over", [("", "nothing yet"), *((w, w) for w in cover_words())]),
        ):
            self.fields[name].choices = choices  # type: ignore[attr-defined]


class SegmentForm(BesideForm):
    """A stretch of the way."""

    name = forms.CharField(label="From, to", max_length=120, required=False)
    length_m = QuantityField(LENGTH, "m", label="Length", required=False, low=0, high=100)
    peak_degc = QuantityField(
        TEMPERATURE, "degC", label="Hottest beside it", required=False, low=-60, high=1200
    )
    moving = forms.BooleanField(label="Moves", required=False)
    wet = forms.BooleanField(label="Wet", required=False)
    ROW = ("name", "length_m", "peak_degc", "moving", "DELETE")
    MORE = ("tied_to", "passes", "over", "wet", "shielded", "heat_measured")

    def row(self) -> list[forms.BoundField]:
        """The fields in the row of the table."""
        return [self[name] for name in self.ROW if name in self.fields]

    def more(self) -> list[forms.BoundField]:
        """Those folded under it."""
        return [self[name] for name in self.MORE]

    def says_more(self) -> bool:
        """Whether anything is said there, or refused."""
        return any(self.initial.get(name) for name in self.MORE) or any(
            name in self.errors for name in self.MORE
        )

    def segment(self) -> Segment:
        """The stretch as typed."""
        clean = self.cleaned_data
        beside = Beside(tuple(clean["passes"]), clean["over"], clean["shielded"], clean["heat_measured"])
        return Segment(
            clean["name"],
            clean["length_m"],
            60.0 if clean["peak_degc"] is None else clean["peak_degc"],
            clean["moving"],
            clean["wet"],
            tuple(clean["tied_to"]),
            beside,
        )

    @staticmethod
    def of(segment: Segment) -> dict[str, Any]:
        """What the form starts with."""
        return {
            "name": segment.name,
            "length_m": as_typed(segment.length_m, "m"),
            "peak_degc": as_typed(segment.peak_degc, "C"),
            "moving": segment.moving,
            "wet": segment.wet,
            "tied_to": list(segment.tied_to),
            "passes": list(segment.beside.passes),
            "over": segment.beside.over,
            "shielded": segment.beside.shielded,
            "heat_measured": segment.beside.heat_measured,
        }

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


if TYPE_CHECKING:  # Django's class takes its form for the type checker only
    _FormSet = forms.BaseFormSet[forms.Form]
else:
    _FormSet = forms.BaseFormSet


class SegmentForms(_FormSet):
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
    stripe_2 = forms.ChoiceField(label="Second stripe", choices=COLOURS, required=False)
    mark = forms.ChoiceField(label="Marked by tape", choices=COLOURS, required=False)
    twist = forms.CharField(
        label="Twisted with", max_length=60, required=False, help_text="The same name on both wires of a pair"
    )
    shield = forms.BooleanField(label="Under a shield", required=False)
    insulation = forms.ChoiceField(label="Insulation", choices=INSULATIONS, required=False)
    temperature_degc = QuantityField(
        TEMPERATURE,
        "C",
        label="Conductor at",
        required=False,
        low=-60,
        high=250,
        help_text="20 °C unless said",
    )
    length_m = QuantityField(
        LENGTH, "m", label="Measured length", required=False, low=0.01, high=100, help_text="Empty: the run's"
    )
    run = forms.ChoiceField(label="Along run", required=False)

    def __init__(self, *args: Any, runs: list[tuple[str, str]], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        set_choices(self, "run", [("", "none"), *runs])

    def values(self) -> dict[str, Any]:
        """The wire's fields."""
        size, _, system = self.cleaned_data["size"].partition(" ")
        warm = self.cleaned_data.get("temperature_degc")
        return {
            **self.cleaned_data,
            "temperature_degc": 20.0 if warm is None else warm,
            "size": float(size),
            "system": system or "mm2",
            "run": self.cleaned_data["run"] or None,
        }


class NewWireForm(WireForm):
    """A wire between two places."""

    a = forms.ChoiceField(label="From")
    b = forms.ChoiceField(label="To")
    field_order = ["a", "b", "size", "colour", "length_m", "run"]

    def __init__(self, *args: Any, ends: list[tuple[str, str]], **kwargs: Any) -> None:
        super().__init__(*args, **{"auto_id": "new-wire-%s"} | kwargs)
        for name in ("stripe", "stripe_2", "mark", "twist", "shield", "insulation", "temperature_degc"):
            del self.fields[name]
        for name in ("a", "b"):
            set_choices(self, name, ends)


#: With more runs than this each is measured on its own.
MOST_RUNS_ASKED = 12


class LayForm(forms.Form):
    """What is measured before the missing wires are laid: the ways nobody has measured yet, then feeds, ground and joint."""

    feed_m = QuantityField(
        LENGTH,
        "m",
        label="Feeds to the gauges",
        required=False,
        low=0.05,
        high=100,
        help_text="Empty: along its run, or not known yet",
    )
    ground_m = QuantityField(LENGTH, "m", label="Ground point to them", required=False, low=0.05, high=100)
    tail_m = QuantityField(LENGTH, "m", label="Joint to each of them", required=False, low=0.05, high=20)

    plug_m = QuantityField(LENGTH, "m", label="Old plug to them", required=False, low=0.05, high=20)

    def __init__(self, data: Any = None, *, runs: Sequence[Run] = (), plugs: bool = False) -> None:
        usual = Lengths()
        start = {"ground_m": as_typed(usual.ground_m, "m"), "tail_m": as_typed(usual.tail_m, "m")}
        super().__init__(data, initial=start, auto_id="lay-%s")
        self.runs = {f"run-{quote(run.id, safe='')}": run for run in runs[:MOST_RUNS_ASKED]}
        for name, run in self.runs.items():
            self.fields[name] = QuantityField(
                LENGTH, "m", label=run.name, required=False, low=0.05, high=100, help_text="Along its way"
            )
        if not plugs:
            del self.fields["plug_m"]
        self.order_fields([*self.runs, "feed_m", "ground_m", "tail_m"])

    def lengths(self) -> Lengths:
        """What was measured."""
        clean = {name: value for name, value in self.cleaned_data.items() if value is not None}
        ways = tuple(RunLength(run.id, clean.pop(name)) for name, run in self.runs.items() if name in clean)
        return Lengths(**clean, runs=ways)


class MoveForm(forms.Form):
    """An end of a wire led to another place."""

    end = forms.ChoiceField(label="Move", choices=[("a", "its first end"), ("b", "its other end")])
    to = forms.ChoiceField(label="to")

    def __init__(self, *args: Any, ends: list[tuple[str, str]], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        set_choices(self, "to", ends)


class OpeningForm(forms.Form):
    """A hole that leads pass."""

    id = forms.CharField(max_length=60, required=False, widget=forms.HiddenInput)
    name = forms.CharField(label="Opening", max_length=120, help_text="Like: bulkhead, left of the pedals")
    hole_mm = QuantityField(LENGTH, "mm", into="mm", label="Hole inside the grommet", low=0.5, high=300)
    edge = forms.ChoiceField(
        label="Its edge",
        choices=[("grommet", "grommet"), ("slit grommet", "grommet, slit"), ("bare", "bare sheet")],
    )
    made = forms.ChoiceField(
        label="It is",
        required=False,
        choices=[
            ("there", "there already"),
            ("unused", "an unused hole"),
            ("enlarged", "a hole that is there, made wider"),
            ("plate", "in a plate that can be replaced"),
            ("new", "to be drilled"),
        ],
    )
    there_mm = QuantityField(
        LENGTH,
        "mm",
        into="mm",
        label="Passes there already",
        required=False,
        low=0,
        high=300,
        help_text="Thickness of the loom that is there",
    )
    runs = forms.MultipleChoiceField(
        label="Runs that go through", required=False, widget=forms.CheckboxSelectMultiple
    )
    plugs = forms.CharField(
        label="Plugs that must pass",
        required=False,
        max_length=1000,
        widget=forms.Textarea(attrs={"rows": 2}),
        help_text="One a line: name, width x height. Like: gauge plug, 18 x 12 mm",
    )

    def __init__(self, *args: Any, runs: list[tuple[str, str]], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        set_choices(self, "runs", runs)

    def clean_plugs(self) -> list[dict[str, Any]]:
        """Plugs as the core reads them; an error names the line."""
        found = []
        for number, line in enumerate(self.cleaned_data["plugs"].splitlines(), 1):
            if not line.strip():
                continue
            name, _, size = line.rpartition(",")
            wide, cross, high = size.replace("×", "x").partition("x")
            try:
                if not name.strip() or not cross:
                    raise BadInput("plugs", line, "name, width x height")
                unit = high.strip().lstrip("0123456789.,/ ") or "mm"
                sizes = [parse(part, LENGTH, unit, "mm") for part in (wide, high)]
                if min(sizes) <= 0:
                    raise BadInput("plugs", line, "sizes above 0")
            except BadInput:
                raise forms.ValidationError(
                    f"Line {number}, '{line[:40]}': write name, width x height, like: gauge plug, 18 x 12 mm."
                ) from None
            found.append({"name": name.strip(), "w_mm": sizes[0], "h_mm": sizes[1]})
        return found

    def data_of(self, key: str) -> dict[str, Any]:
        """What the core reads."""
        clean = self.cleaned_data
        return {
            "id": key,
            "name": clean["name"],
            "hole_mm": clean["hole_mm"],
            "edge": clean["edge"],
            "made": clean["made"] or "there",
            "runs": clean["runs"],
            "plugs": clean["plugs"],
            "there_mm": clean["there_mm"] or 0.0,
        }
