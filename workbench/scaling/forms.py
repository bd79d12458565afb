"""A sender's law, a display's table."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django import forms

from metrolex.acts.scaling import Asked, Levels
from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import Scaling, Sender, Tolerance
from metrolex.job.within import replaced_within
from metrolex.quantities import TEMPERATURE, unit_words
from metrolex.scaling.best_rows import MOST_ROWS
from metrolex.senders import BetaCurve, Curve, LinearCurve, SteinhartHartCurve, TableCurve, ThermocoupleCurve
from metrolex.senders.pasted import points_text, read_points
from workbench.jobs.fields import NumberField, as_typed, refuse

KINDS = [
    ("table", "points"),
    ("beta", "beta: one resistance and beta"),
    ("steinhart_hart", "Steinhart-Hart a, b, c"),
    ("linear", "a straight line"),
    ("thermocouple", "thermocouple, by its standard"),
]
BETWEEN = [
    ("log_x", "straight over log x (thermistors)"),
    ("linear", "straight"),
    ("pchip", "smooth (PCHIP)"),
]
LONGEST = 150_000  # letters of pasted columns: the 5,000 points the core takes, with room
Points = forms.Textarea(attrs={"rows": 8, "class": "figures", "spellcheck": "false"})


class CurveForm(forms.Form):
    """A sender's law and how far it may be from it; ``clean`` leaves the core's curve in ``self.curve``."""

    kind = forms.ChoiceField(label="Law", choices=KINDS)
    points = forms.CharField(
        label="Points",
        required=False,
        max_length=LONGEST,
        widget=Points,
        help_text="One a line: what the sender gives, then what it measures. Pasted columns do, with any decimal mark and units in the head",
    )
    interpolation = forms.ChoiceField(label="Between points", choices=BETWEEN, required=False)
    r0_ohm = NumberField(unit="ohm", label="Resistance, Ω", required=False)
    t0_degc = NumberField(unit="degC", label="at, °C", required=False)
    beta_k = NumberField(unit="K", label="Beta, K", required=False)
    a = NumberField(label="a", required=False)
    b = NumberField(label="b", required=False)
    c = NumberField(label="c", required=False)
    type = forms.ChoiceField(label="Type", required=False, choices=[(t, t) for t in ("K", "J", "N", "T")])
    tolerance_pct = NumberField(
        unit="%", label="Tolerance, ± % of what it gives", required=False, low=0, high=50
    )
    tolerance_y = NumberField(required=False, low=0)
    dissipation = NumberField(
        label="Warms itself: mW for each °C",
        required=False,
        low=0.01,
        high=1e5,
        help_text="Its dissipation constant, where its maker gives it: 40 in liquid, 8 for an open tip in air are typical",
    )
    own_reference = forms.BooleanField(
        label="It has a reference of its own: an amplifier or a controller, no share of its 5 V",
        required=False,
    )

    def __init__(self, sender: Sender, *args: Any, by_box: bool = False, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.x_unit, self.y_unit = sender.curve.x_unit, sender.curve.y_unit
        law = sender.curve
        self.x_range = law.x_range if isinstance(law, (BetaCurve, SteinhartHartCurve)) else None
        self.curve: Curve | None = None
        self.fields["tolerance_y"].label = f"and ± {unit_words(self.y_unit)} of what it measures"
        if self.x_unit != "ohm" or TEMPERATURE.unit(self.y_unit) is None:
            del self.fields["dissipation"]
        if by_box or sender.wires != 3 or self.x_unit != "volt":
            del self.fields["own_reference"]

    @staticmethod
    def of(sender: Sender, *, by_box: bool = False) -> CurveForm:
        """The form of a sender as it stands."""
        curve = sender.curve
        start: dict[str, Any] = {
            "kind": curve.kind,
            "t0_degc": "25",
            "tolerance_pct": as_typed(sender.tolerance.x_pct),
            "tolerance_y": as_typed(sender.tolerance.y),
            "dissipation": as_typed(sender.body.dissipation_mw_per_k),
            "own_reference": not sender.output.ratiometric,
        }
        if isinstance(curve, (TableCurve, LinearCurve)):
            start["points"] = points_text(curve.points)
            start["interpolation"] = curve.interpolation if isinstance(curve, TableCurve) else "linear"
        elif isinstance(curve, BetaCurve):
            start |= {
                "r0_ohm": as_typed(curve.r0_ohm),
                "t0_degc": as_typed(curve.t0_degc),
                "beta_k": as_typed(curve.beta_k),
            }
        elif isinstance(curve, ThermocoupleCurve):
            start["type"] = curve.type
        elif isinstance(curve, SteinhartHartCurve):
            start |= {"a": repr(curve.a), "b": repr(curve.b), "c": repr(curve.c)}
        return CurveForm(sender, initial=start, by_box=by_box)

    def typed_into(self, sender: Sender) -> Sender:
        """The sender as it was typed."""
        data = self.cleaned_data
        assert self.curve is not None
        sender = replace(
            sender,
            curve=self.curve,
            tolerance=Tolerance(data["tolerance_pct"] or 0.0, data["tolerance_y"] or 0.0),
        )
        if "dissipation" in data:
            sender = replaced_within(sender, {"dissipation_mw_per_k": data["dissipation"]})
        if "own_reference" in data:
            sender = replaced_within(sender, {"ratiometric": not data["own_reference"]})
        return sender

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if self.errors:
            return data
        try:
            self.curve = read(Curve, self._plain(data))  # type: ignore[arg-type]
        except BadInput as fault:
            refuse(self, fault, {"x_range": "points"})
        return data

    def _plain(self, data: dict[str, Any]) -> dict[str, Any]:
        kind = data["kind"]
        if kind in ("table", "linear"):
            plain = {
                "kind": kind,
                "x_unit": self.x_unit,
                "y_unit": self.y_unit,
                "points": read_points(data["points"], self.x_unit, self.y_unit),
            }
            return plain | ({"interpolation": data["interpolation"] or "linear"} if kind == "table" else {})
        if kind == "thermocouple":
            return {"kind": kind, "type": data["type"] or "K"}
        wanted = ("r0_ohm", "t0_degc", "beta_k") if kind == "beta" else ("a", "b", "c")
        return (
            {"kind": kind}
            | {name: data[name] for name in wanted if data[name] is not None}
            | self._law_range()
        )

    def _law_range(self) -> dict[str, Any]:
        return {"x_range": list(self.x_range)} if self.x_range else {}


class ScalingForm(forms.Form):
    """What is entered in the display, and where the driver is warned."""

    table = forms.CharField(
        label="Table",
        required=False,
        max_length=LONGEST,
        widget=Points,
        help_text="One row a line: what comes in, what is shown",
    )
    x_unit = forms.ChoiceField(
        label="comes in as",
        choices=[
            ("ohm", "Ω"),
            ("volt", "V"),
            ("millivolt", "mV"),
            ("milliampere", "mA"),
            ("hertz", "Hz"),
            ("millisecond", "ms low"),
        ],
    )
    decimals = forms.IntegerField(label="Digits after the point", min_value=0, max_value=4)
    low = NumberField(label="Shows from", required=False)
    high = NumberField(label="to", required=False)
    warn_low = NumberField(label="Warn below", required=False)
    warn_high = NumberField(label="Warn above", required=False)
    true_stopped = NumberField(label="Really there, engine stopped", required=False)
    true_running = NumberField(label="engine running, warm", required=False)

    def __init__(self, *args: Any, unit: str, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.unit = unit
        for name in ("low", "high", "warn_low", "warn_high", "true_stopped", "true_running"):
            self.fields[name].unit = unit  # type: ignore[attr-defined]

    def values(self) -> tuple[Scaling, Levels]:
        """What is entered in the display, and the levels. Raises BadInput for rows that cannot be read."""
        data = self.cleaned_data
        rows = read_points(data["table"], data["x_unit"], self.unit)
        scaling = Scaling(rows, data["x_unit"], data["decimals"], data["low"], data["high"])
        return scaling, Levels(
            data["warn_low"], data["warn_high"], data["true_stopped"], data["true_running"]
        )


class RowsForm(forms.Form):
    """How the best rows should be placed: as many as the display holds, in its steps."""

    count = forms.IntegerField(label="Rows", min_value=2, max_value=MOST_ROWS)
    x_step = NumberField(label="In steps of", required=False, low=0)
    y_step = NumberField(label="Shown by steps", required=False, low=0)
    near = NumberField(label="Closest about", required=False)

    def asked(self) -> Asked:
        """What was asked, once the form is sound."""
        data = self.cleaned_data
        return Asked(data["count"], data["x_step"] or 0.0, data["y_step"] or 0.0, data["near"])
