"""A sender's law, a display's table."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.scaling.best_rows import MOST_ROWS
from metrolex.senders import Curve
from metrolex.senders.pasted import read_points
from workbench.jobs.fields import NumberField, refuse
from workbench.scaling.services import Asked

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
    """A sender's law; ``clean`` leaves the core's curve in ``self.curve``."""

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

    def __init__(
        self, *args: Any, x_unit: str, y_unit: str, x_range: tuple[float, float] | None = None, **kwargs: Any
    ) -> None:
        super().__init__(*args, **kwargs)
        self.x_unit, self.y_unit, self.x_range = x_unit, y_unit, x_range
        self.curve: Curve | None = None

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
        for name in ("low", "high", "warn_low", "warn_high", "true_stopped", "true_running"):
            self.fields[name].unit = unit  # type: ignore[attr-defined]


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
