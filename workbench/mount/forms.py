"""Forms of mounting: the site and what stands before it, a part of the dash, a display in the hand and in its hole."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.acts.edit import in_old_order
from metrolex.errors import BadInput
from metrolex.job import FACES, RANKS, Display, Fixture, Mounting, Site
from metrolex.mount.held import holds, materials
from metrolex.mount.trace import outline_text, read_outline
from metrolex.quantities import LENGTH
from metrolex.tables import load_table
from workbench.jobs.fields import (
    NumberField,
    OpenChoiceField,
    OpenMultipleChoiceField,
    QuantityField,
    RecordForm,
    as_typed,
)

__all__ = ["FixtureForm", "HoleForm", "HousingForm", "SiteForm", "TracedForm"]

KINDS = [
    ("dash", "dash"),
    ("binnacle", "binnacle"),
    ("pillar", "pillar"),
    ("column", "steering column"),
    ("console", "console"),
    ("handlebar", "handlebar"),
]
PARTS = [
    ("instrument", "instrument"),
    ("tell-tale", "tell-tale"),
    ("switch", "switch"),
    ("vent", "vent"),
    ("airbag", "airbag"),
    ("seam", "tear seam of an airbag"),
    ("other", "something else"),
]


def _mm(
    label: str, *, needed: bool = False, low: float = -3000, high: float = 3000, help_text: str = ""
) -> QuantityField:
    return QuantityField(
        LENGTH, "mm", into="mm", label=label, required=needed, low=low, high=high, help_text=help_text
    )


def _deg(label: str, low: float, high: float, help_text: str = "") -> NumberField:
    return NumberField(label=label, low=low, high=high, required=False, help_text=help_text)


class SiteForm(RecordForm):
    """A site: what it is, how it leans, where the eye is, what stands between."""

    name = forms.CharField(label="Name", max_length=120)
    kind = forms.ChoiceField(label="It is a", choices=KINDS)
    made_of = OpenChoiceField(label="Made of", required=False)
    airbag = forms.ChoiceField(
        label="Airbag",
        required=False,
        choices=[("", "not asked yet"), ("none", "none here"), ("there", "one sits here")],
    )
    tilt_deg = _deg("Its top leans away, °", -30, 90, "0 upright, 90 lying flat")
    turned_right_deg = _deg("Turned to the right, °", -80, 80, "A left pillar faces right")
    eye_back_mm = _mm("Eye, back from the point", needed=True, low=50)
    eye_up_mm = _mm("Eye, up", needed=True)
    eye_right_mm = _mm("Eye, to the right", needed=True)
    driver = forms.ChoiceField(
        label="Who drives",
        choices=[("any", "anyone: all usual seats"), ("one", "one driver, measured in the seat")],
    )
    between = forms.ChoiceField(
        label="Between eye and panel",
        required=False,
        choices=[("", "nothing"), ("wheel", "a wheel"), ("bar", "a bar")],
    )
    hub_back_mm = _mm("Its middle, back", needed=True)
    hub_up_mm = _mm("Its middle, up", needed=True)
    hub_right_mm = _mm("Its middle, to the right", needed=True)
    across_mm = _mm("Across, rim to rim", needed=True, low=100, high=1500)
    thick_mm = _mm("Rim or bar thick", needed=True, low=5, high=120)
    rake_deg = _deg("Leans from upright, °", -10, 90, "A van's lies flatter")
    spokes_deg = forms.CharField(
        label="Spokes at, °",
        required=False,
        max_length=80,
        help_text="Straight ahead: 0 right, 90 up, 180 left",
    )
    spoke_mm = _mm("Spokes wide", needed=True, low=5, high=200)
    turned_deg = _deg("Turned while one reads, ±°", 0, 180)
    body = forms.ChoiceField(
        label="Cabin", choices=[("closed", "closed, with windows"), ("open", "open to the sky")]
    )
    screen_rake_deg = _deg("Windscreen from level, °", 10, 90)
    screen_ahead_mm = _mm("Windscreen before the panel", low=0)
    hood = forms.BooleanField(label="A hood keeps light off the windscreen", required=False)
    latitude_deg = _deg("Used at latitude, °", -90, 90, "For the sun's height")
    measured = forms.BooleanField(
        label="Measured on this vehicle", required=False, help_text="Until then what is seen is not judged"
    )

    NUMBERS = (
        "tilt_deg",
        "turned_right_deg",
        "rake_deg",
        "turned_deg",
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["made_of"].choices = [("", "not said"), *((one.key, one.words) for one in materials())]  # type: ignore[attr-defined]

    def clean_spokes_deg(self) -> list[float]:
        """Angles with commas or blanks between."""
        words = self.cleaned_data["spokes_deg"].replace(";", " ").replace(",", " ").split()
        try:
            return [float(word) for word in words]
        except ValueError:
            raise forms.ValidationError(
                f"Write angles with commas between, 0, 180: '{self.cleaned_data['spokes_deg']}' is not."
            ) from None

    def facts(self) -> dict[str, Any]:
        """What was said, by the core's names."""
        data = self.cleaned_data
        return data | {name: data[name] or 0.0 for name in self.NUMBERS}

    @staticmethod
    def of(site: Site) -> dict[str, Any]:
        """What the form starts with."""
        found: dict[str, Any] = {
            "name": site.name,
            "kind": site.kind,
            "made_of": site.made_of,
            "airbag": site.airbag,
            "measured": site.measured,
            "driver": site.eye.driver,
            "between": site.steering.between,
            "spokes_deg": ", ".join(f"{angle:g}" for angle in site.steering.spokes_deg),
            "body": site.glass.body,
            "hood": site.glass.hood,
        }
        for record in (site, site.eye, site.steering, site.glass):
            for name in SiteForm.base_fields:
                value = getattr(record, name, None)
                if name.endswith("_mm"):
                    found.setdefault(name, as_typed(value, "mm")) if hasattr(
                        record, name
                    ) and value is not None else None
                elif name.endswith("_deg") and name != "spokes_deg" and value is not None:
                    found.setdefault(name, as_typed(value))
        return found


class OutlineForm(forms.Form):
    """The outline, a point a line."""

    outline = forms.CharField(
        label="Outline",
        widget=forms.Textarea(attrs={"rows": 8, "class": "figures"}),
        max_length=8000,
        help_text="Once round it, a point a line: mm to the right, mm up, from the point you measure from",
    )

    def clean_outline(self) -> list[list[float]]:
        try:
            return [list(point) for point in read_outline(self.cleaned_data["outline"])]
        except BadInput as fault:
            raise forms.ValidationError(fault.message) from None

    @staticmethod
    def of(site: Site) -> dict[str, Any]:
        return {"outline": outline_text(site.outline)}


class TracedForm(forms.Form):
    """Dots on the photograph: two known distances and the outline."""

    first = forms.CharField(label="First distance: its two dots", max_length=80, required=False)
    first_mm = _mm("First distance", low=1)
    second = forms.CharField(label="Second distance: its two dots", max_length=80, required=False)
    second_mm = _mm("Second distance", low=1)
    dots = forms.CharField(
        label="Dots once round it",
        widget=forms.Textarea(attrs={"rows": 4, "class": "figures"}),
        max_length=8000,
    )


class FixtureForm(RecordForm):
    """A part of the dash."""

    name = forms.CharField(label="What", max_length=120)
    kind = forms.ChoiceField(label="Kind", choices=PARTS)
    rank = forms.ChoiceField(label="It", choices=list(RANKS.items()))
    x = _mm("Middle, to the right", needed=True)
    y = _mm("Middle, up", needed=True)
    wide_mm = _mm("Wide", needed=True, low=0.1, high=2000)
    high_mm = _mm("High", needed=True, low=0.1, high=2000)
    disc = forms.BooleanField(label="Round", required=False)
    function = OpenChoiceField(
        label="Part of the old cluster", required=False, help_text="It goes when the cluster does"
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["function"].choices = [  # type: ignore[attr-defined]
            ("", "no"),
            *((key, row["name"]) for key, row in load_table("cluster").items()),
        ]

    @staticmethod
    def of(fixture: Fixture) -> dict[str, Any]:
        return {name: getattr(fixture, name) for name in ("name", "kind", "rank", "disc", "function")} | {
            name: as_typed(getattr(fixture, name), "mm") for name in ("x", "y", "wide_mm", "high_mm")
        }


class HousingForm(RecordForm):
    """A display as it lies in the hand."""

    shape = forms.ChoiceField(
        label="Body",
        required=False,
        choices=[("", "not measured yet"), ("round", "round"), ("square", "square")],
    )
    body_mm = _mm("Body wide", low=0.1, high=2000, help_text="What goes into the hole")
    body_high_mm = _mm("Body high", low=0.1, high=2000, help_text="Where it is not round")
    bezel_mm = _mm("Bezel wide", low=0.1, high=2000)
    bezel_high_mm = _mm("Bezel high", low=0.1, high=2000)
    depth_mm = _mm("Deep behind the panel", low=0.1, high=2000)
    mass_g = NumberField(label="Weight, g", required=False, low=0.1, high=20000)
    grip_from_mm = _mm("Clamp takes panels from", low=0, high=500)
    grip_to_mm = _mm("Clamp takes panels to", low=0, high=500)
    plug_wide_mm = _mm("Moulded plug wide", low=0.1, high=2000)
    plug_high_mm = _mm("Moulded plug high", low=0.1, high=2000)
    bend_mm = _mm("Plug and bend of the wires", low=0, high=500, help_text="Room they take behind it")
    screen_mm = _mm("What is read, wide", low=0.1, high=2000)
    screen_high_mm = _mm("What is read, high", low=0.1, high=2000)
    figure_mm = _mm("Largest figures high", low=0.1, high=500)
    columns = forms.IntegerField(label="Cells across", min_value=1, max_value=12)
    rows = forms.IntegerField(label="Cells down", min_value=1, max_value=12)
    holds_pages = forms.IntegerField(label="Pages it holds", min_value=1, max_value=40)
    sweep_deg = _deg("Needle from end to end, °", 30, 350)
    warning_lamps = forms.IntegerField(label="Warning lamps in it", min_value=0, max_value=64, required=False)
    shift_lamps = forms.IntegerField(label="Shift lamps in it", min_value=0, max_value=64, required=False)
    faces = forms.MultipleChoiceField(
        label="It can draw", required=False, widget=forms.CheckboxSelectMultiple, choices=list(FACES.items())
    )
    lens = forms.ChoiceField(
        label="Its glass",
        required=False,
        choices=[("", "not said"), ("clear", "clear, it mirrors"), ("matt", "matt")],
    )
    light = forms.ChoiceField(
        label="Glows by night",
        required=False,
        choices=[("", "not said"), *((word, word) for word in ("white", "amber", "green", "blue", "red"))],
    )

    def facts(self) -> dict[str, Any]:
        data = self.cleaned_data
        return data | {
            "bend_mm": data["bend_mm"] or 0.0,
            "sweep_deg": data["sweep_deg"] or 240.0,
            "warning_lamps": data["warning_lamps"] or 0,
            "shift_lamps": data["shift_lamps"] or 0,
            "faces": tuple(in_old_order(self.initial.get("faces") or (), data["faces"])),
        }

    @staticmethod
    def of(display: Display) -> dict[str, Any]:
        found: dict[str, Any] = {}
        for record in (display.housing, display.grip, display.screen):
            for name in HousingForm.base_fields:
                if hasattr(record, name):
                    value = getattr(record, name)
                    mm = name.endswith("_mm") and value is not None
                    found[name] = as_typed(value, "mm") if mm else "" if value is None else value
        found["faces"] = list(display.screen.faces)
        found["sweep_deg"] = as_typed(display.screen.sweep_deg)
        if display.housing.mass_g is not None:
            found["mass_g"] = as_typed(display.housing.mass_g)
        return found


class HoleForm(RecordForm):
    """A display in its place: the hole, the panel, what stands behind, how it is held and aimed."""

    x = _mm("Middle, to the right", needed=True)
    y = _mm("Middle, up", needed=True)
    stands_mm = _mm(
        "Face before the panel", needed=True, low=0, high=300, help_text="8 mm is flush; a cup stands further"
    )
    room_mm = _mm("Room behind the panel", low=0, high=3000, help_text="To the first thing in the way")
    panel_mm = _mm("Panel thick", low=0, high=500)
    hole_mm = _mm("Hole wide, if it is there", low=0.1, high=2000)
    hole_high_mm = _mm("Hole high", low=0.1, high=2000)
    packed_mm = _mm("Packed round the body", low=0, high=50)
    turn_deg = _deg("Turned clockwise, °", -180, 180)
    up_deg = _deg("Aimed up, °", -60, 60)
    right_deg = _deg("Aimed right, °", -60, 60)
    pod = forms.CharField(
        label="In a pod with others", required=False, max_length=120, help_text="The pod's name"
    )
    held_by = OpenMultipleChoiceField(label="Held by", required=False, widget=forms.CheckboxSelectMultiple)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["held_by"].choices = [(one.key, one.words) for one in holds()]  # type: ignore[attr-defined]

    def facts(self) -> dict[str, Any]:
        data = self.cleaned_data
        return data | {name: data[name] or 0.0 for name in ("packed_mm", "turn_deg", "up_deg", "right_deg")}

    @staticmethod
    def of(mounting: Mounting) -> dict[str, Any]:
        found: dict[str, Any] = {"pod": mounting.pod, "held_by": list(mounting.held_by)}
        for record in (mounting, mounting.hole):
            for name in HoleForm.base_fields:
                value = getattr(record, name, None)
                if isinstance(value, (int, float)):
                    found[name] = as_typed(value, "mm" if name.endswith("_mm") or name in "xy" else "")
        return found
