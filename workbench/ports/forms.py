"""What was found at a place, the flow paths, what counts, what ran out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django import forms

from metrolex.errors import BadInput
from metrolex.fittings.stack import end_called
from metrolex.job import Antenna, Port
from metrolex.job.place import FlowPath
from metrolex.job.within import value_within
from metrolex.ports.compare import CRITERIA
from metrolex.ports.facts import Facts
from metrolex.quantities import LENGTH, TEMPERATURE, VOLUME, in_unit
from workbench.jobs.fields import NumberField, QuantityField, as_typed

ENTRIES = [
    ("existing", "a mouth that is there"),
    ("replaces", "in place of a part"),
    ("held_on", "held on, nothing opened"),
    ("cut_hose", "in a hose that is cut"),
    ("cut_line", "in a line that is cut or parted"),
    ("drilled", "drilled and tapped"),
    ("welded", "welded bung"),
]
MATERIALS = [
    ("", "as the path says"),
    ("cast_iron", "cast iron"),
    ("steel", "steel"),
    ("aluminium", "aluminium"),
    ("sheet", "sheet metal"),
    ("brass", "brass"),
    ("plastic", "plastic"),
    ("rubber", "rubber"),
]
ACCESS = [
    ("", "as usual"),
    ("4", "by hand from above"),
    ("3", "fair"),
    ("2", "from below"),
    ("1", "hard"),
    ("0", "parts off"),
]
_MM = ("at_m", "wall_mm", "bore_mm", "straight_mm", "room_mm", "distance_mm", "target_mm")


class PortForm(forms.Form):
    """Facts of a place on this vehicle. Lengths are read in any unit; a bare number is millimetres."""

    pin = forms.CharField(max_length=60, widget=forms.HiddenInput)
    name = forms.CharField(label="Place", max_length=120)
    thread = forms.CharField(
        label="Open mouth there",
        max_length=60,
        required=False,
        help_text="Like 1/8-27 NPT, M12x1.5, hose 38 mm, tube 3/8 in",
    )
    entry = forms.ChoiceField(label="How it is opened", choices=ENTRIES)
    way_in = forms.CharField(label="Way in, in words", max_length=120, required=False)
    path = forms.ChoiceField(label="On the path", required=False)
    at_m = QuantityField(LENGTH, "mm", label="Along it", required=False, low=0, high=100)
    material = forms.ChoiceField(label="Wall of", choices=MATERIALS, required=False)
    wall_mm = QuantityField(LENGTH, "mm", into="mm", label="Wall", required=False, low=0, high=100)
    bore_mm = QuantityField(LENGTH, "mm", into="mm", label="Bore", required=False, low=0, high=1000)
    straight_mm = QuantityField(
        LENGTH, "mm", into="mm", label="Straight stretch", required=False, low=0, high=5000
    )
    room_mm = QuantityField(
        LENGTH, "mm", into="mm", label="Room above the mouth", required=False, low=0, high=2000
    )
    peak_degc = QuantityField(TEMPERATURE, "C", label="Gets as hot as", required=False, low=-60, high=1200)
    access = forms.ChoiceField(label="Access", choices=ACCESS, required=False)
    tip_angle_deg = NumberField(unit="°", label="Tip above level, °", required=False, low=-90, high=90)
    bias = NumberField(
        label="Reads off by",
        required=False,
        low=-1e6,
        high=1e6,
        help_text="In the channel's unit: + reads higher than what you want to know",
    )
    distance_mm = QuantityField(
        LENGTH, "mm", into="mm", label="Distance to the tread", required=False, low=0, high=2000
    )
    target_mm = QuantityField(
        LENGTH, "mm", into="mm", label="Width of the tread", required=False, low=0, high=1000
    )
    grounded = forms.BooleanField(label="Metal all the way to the engine", required=False)
    hangs_lowest = forms.BooleanField(label="Hangs lowest", required=False)
    moving_near = forms.BooleanField(label="Something moves close by", required=False)
    why = forms.CharField(
        label="Why here", max_length=2000, required=False, widget=forms.Textarea(attrs={"rows": 2})
    )

    def __init__(self, *args: Any, paths: Sequence[FlowPath] = (), **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["path"].choices = [("", "none")] + [(path.id, path.name) for path in paths]  # type: ignore[attr-defined]

    @staticmethod
    def start(port: Port, facts: Facts) -> dict[str, Any]:
        """What stands in the form for a place: its own facts; the path's stand behind them."""
        plain = {
            name: value_within(port, name)
            for name in (
                "name",
                "thread",
                "way_in",
                "grounded",
                "hangs_lowest",
                "moving_near",
                "why",
                "material",
            )
        }
        for name in _MM:
            value = value_within(port, name)
            plain[name] = as_typed(
                in_unit(value, "m", "mm") if name == "at_m" and value is not None else value, "mm"
            )
        plain["peak_degc"] = as_typed(port.spot.wall.peak_degc, "C")
        plain["tip_angle_deg"] = as_typed(port.spot.tip_angle_deg)
        plain["bias"] = as_typed(port.bias) if port.bias else ""
        return plain | {
            "pin": port.id,
            "entry": facts.entry,
            "path": port.spot.path or "",
            "access": "" if port.spot.access is None else str(port.spot.access),
        }

    def clean_thread(self) -> str:
        """The thread by its proper name."""
        written = str(self.cleaned_data["thread"]).strip()
        if not written:
            return ""
        try:
            end = end_called(written, "thread", "female")
        except BadInput as fault:
            raise forms.ValidationError(fault.message) from None
        return end.connection.name if end.gender == "female" else end.words()

    def clean_wall_mm(self) -> float | None:
        return self._above_zero("wall_mm", "A wall of 0 holds no thread: leave it empty if it is not known.")

    def clean_bore_mm(self) -> float | None:
        return self._above_zero(
            "bore_mm", "A bore of 0 lets nothing through: leave it empty if it is not known."
        )

    def _above_zero(self, name: str, words: str) -> float | None:
        value = self.cleaned_data.get(name)
        if value is not None and value <= 0:
            raise forms.ValidationError(words)
        return value

    def facts(self) -> dict[str, Any]:
        """Facts as the core keeps them."""
        clean = dict(self.cleaned_data)
        clean.pop("pin")
        for name in _MM:
            clean[name] = clean[name] or None if name != "at_m" else clean[name]
        clean["access"] = int(clean["access"]) if clean["access"] != "" else None
        clean["bias"] = clean["bias"] or 0.0
        clean["path"] = clean["path"] or None
        return clean


ABOVE = ("open sky", "plain glass", "coated glass", "plastic", "metal or carbon")


class PinForm(forms.Form):
    """A place of the fitter's own."""

    name = forms.CharField(label="Place", max_length=120)
    path = forms.ChoiceField(label="On the path", required=False)
    at_m = QuantityField(LENGTH, "mm", label="Along it", required=False, low=0, high=100)

    def __init__(self, *args: Any, paths: Sequence[FlowPath] = (), **kwargs: Any) -> None:
        super().__init__(*args, **{"auto_id": "own-place-%s"} | kwargs)
        self.fields["path"].choices = [("", "none")] + [(path.id, path.name) for path in paths]  # type: ignore[attr-defined]


class WeightsForm(forms.Form):
    """How much each criterion counts, 0 to 5."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"auto_id": "weight-%s"} | kwargs)
        for key, name in CRITERIA.items():
            self.fields[key] = NumberField(label=name, low=0, high=5)
            self.fields[key].widget = forms.NumberInput(
                attrs={"type": "range", "min": "0", "max": "5", "step": "0.5"}
            )


class PathForm(forms.Form):
    """A flow path: its measured length, what it goes on in, its parts and stretches as lines; ``drawn`` is the sum of those lines as they were shown."""

    id = forms.CharField(max_length=60, widget=forms.HiddenInput)
    drawn = forms.CharField(max_length=40, widget=forms.HiddenInput, required=False)
    name = forms.CharField(label="Path", max_length=120)
    length_m = QuantityField(
        LENGTH,
        "mm",
        label="Length along it",
        required=False,
        low=0.001,
        high=100,
        help_text="Tape along the pipe, bends and all",
    )
    into = forms.ChoiceField(label="Goes on in", required=False)
    measured = forms.BooleanField(label="Measured on this vehicle", required=False)
    parts = forms.CharField(
        label="Parts along it",
        required=False,
        max_length=4000,
        widget=forms.Textarea(attrs={"rows": 7, "class": "figures"}),
        help_text="One a line: part, where it begins, how long it is. Like: turbine 380 mm 80 mm",
    )
    stretches = forms.CharField(
        label="What it is made of",
        required=False,
        max_length=4000,
        widget=forms.Textarea(attrs={"rows": 5, "class": "figures"}),
        help_text="One a line: from, to, material, wall, bore, hottest, straight or bend, name. Like: 0 380 mm cast_iron 7 mm 42 mm 900 C bend manifold",
    )

    def __init__(self, *args: Any, paths: Sequence[FlowPath] = (), **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["into"].choices = [("", "nothing")] + [(path.id, path.name) for path in paths]  # type: ignore[attr-defined]


class NewPathForm(forms.Form):
    """One more path."""

    name = forms.CharField(label="Path", max_length=60)
    kind = forms.ChoiceField(
        label="Of",
        choices=[
            ("exhaust", "exhaust gas"),
            ("intake", "intake air"),
            ("coolant", "coolant"),
            ("engine_oil", "engine oil"),
            ("gearbox_oil", "gearbox oil"),
            ("fuel", "fuel"),
            ("water", "pump water"),
        ],
    )
    length_m = QuantityField(LENGTH, "mm", label="Length along it", required=False, low=0.001, high=100)


class FluidForm(forms.Form):
    """What really went out and came back."""

    fluid = forms.CharField(max_length=60, widget=forms.HiddenInput)
    lost = QuantityField(VOLUME, "L", label="Went out", required=False, low=0, high=500)
    returned = QuantityField(VOLUME, "L", label="Came back", required=False, low=0, high=500)
    kind = forms.CharField(label="Which fluid", required=False, max_length=120)


class AntennaForm(forms.Form):
    """Where the GPS antenna sits."""

    where = forms.CharField(
        label="Antenna at", max_length=120, required=False, help_text="Like: roof, rear left"
    )
    above = forms.ChoiceField(
        label="Above it",
        required=False,
        choices=[("", "not said"), *((word, word) for word in ABOVE)],
    )
    lead_m = QuantityField(LENGTH, "m", label="Its lead", required=False, low=0.1, high=30)

    @staticmethod
    def of(antenna: Antenna | None) -> AntennaForm:
        """As it stands."""
        start = (
            {"where": antenna.where, "above": antenna.above, "lead_m": as_typed(antenna.lead_m, "m")}
            if antenna
            else {}
        )
        return AntennaForm(initial=start, auto_id="antenna-%s")
