"""Connectors with their cavities, the data bus."""

from __future__ import annotations

from typing import Any

from django import forms
from django.core.exceptions import ValidationError

from metrolex.characters import whole_number
from metrolex.job import Bus, Connector, Display, Job, Pin
from metrolex.quantities import CURRENT, LENGTH, RESISTANCE
from metrolex.tables import load_table
from workbench.jobs.fields import (
    NumberField,
    OpenChoiceField,
    QuantityField,
    RecordForm,
    as_typed,
    set_choices,
)

__all__ = ["BusForm", "PinForm", "PlugForm"]

MOST_BYTES = 2_000_000
#: So many cavities lie in a row where a list tells none.
IN_A_ROW = 10


def _functions() -> dict[str, str]:
    return {str(row["words"]).lower(): key for key, row in load_table("functions").items()}


class PlugForm(forms.Form):
    """A connector; its cavities one a line: pin, row and column where they are known, colour, function."""

    id = forms.CharField(max_length=60, required=False, widget=forms.HiddenInput)
    name = forms.CharField(label="Plug", max_length=120)
    display = forms.ChoiceField(label="It belongs to", required=False)
    view = forms.ChoiceField(
        label="Drawn from the", choices=[("wire side", "wire side"), ("mating side", "mating side")]
    )
    source = forms.CharField(
        label="Known from", max_length=120, required=False, help_text="Diagram, pin table, hearsay"
    )
    proved = forms.BooleanField(label="Read with the meter", required=False)
    cavities = forms.CharField(
        label="Pins",
        required=False,
        widget=forms.Textarea(attrs={"rows": 8, "spellcheck": "false"}),
        help_text="One a line: pin, its row and column if you know them, colour, function. Like: 1 GN/WH turn left, ground",
    )

    def __init__(self, job: Job, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        displays = [(d.id, f"{d.id}, {d.name}") for d in job.displays]
        set_choices(self, "display", [("", "the vehicle"), *displays])

    def clean_cavities(self) -> list[dict[str, Any]]:
        """The lines as cavities; the line that cannot be read is named."""
        found = []
        for number, line in enumerate(self.cleaned_data["cavities"].splitlines(), 1):
            if line.strip():
                found.append(_cavity(line.split(), number))
        return _in_places(found)

    @staticmethod
    def of(connector: Connector) -> dict[str, Any]:
        """What the form starts with."""
        lines = []
        for c in connector.cavities:
            colour = c.code or "-"
            switched = f", {c.switched}" if c.switched else ""
            lines.append(f"{c.pin} {c.row} {c.column} {colour} {c.function}{switched}".strip())
        return {
            "id": connector.id,
            "name": connector.name,
            "display": connector.display or "",
            "view": connector.view,
            "source": connector.source,
            "proved": connector.proved,
            "cavities": "\n".join(lines),
        }


def _cavity(words: list[str], number: int) -> dict[str, Any]:
    at = [whole_number(word) for word in words[1:3]]
    placed = len(at) == 2 and None not in at
    if not placed and any(count is not None for count in at):
        raise ValidationError(
            f"Line {number}: expected pin, row, column, colour, function, or no row and column at all; got '{' '.join(words)[:60]}'."
        )
    pin, rest = words[0], words[3:] if placed else words[1:]
    colour: list[str] = []
    if (rest and rest[0] == "-") or (rest and (colour := _colour(rest[0], number))):
        rest = rest[1:]
    said, _, switched = " ".join(rest).partition(",")
    switched = switched.strip()
    if switched not in ("", "12 V", "ground"):
        raise ValidationError(
            f"Line {number}: after the comma stands what it is switched to, '12 V' or 'ground'; got '{switched[:40]}'."
        )
    function = said.strip().lower()
    return {
        "pin": pin,
        "row": at[0] if placed else None,
        "column": at[1] if placed else None,
        **dict(zip(("colour", "stripe", "stripe_2"), [*colour, "", "", ""], strict=False)),
        "switched": switched,
        "function": _functions().get(function, function),
    }


def _colour(word: str, number: int) -> list[str]:
    """Colour and up to two stripes, by code or in words: 'GN/WH', 'light-blue/white/red'; empty where the word is no colour."""
    names = {name.replace(" ", "-"): code for code, name in load_table("colours").items()}
    names |= {code.lower(): code for code in load_table("colours")}
    parts = word.lower().split("/")
    if parts[0] not in names:
        if len(parts[0]) == 2 and parts[0].isalpha():
            raise ValidationError(
                f"Line {number}: there is no wire colour '{parts[0].upper()}'. Known: {', '.join(load_table('colours'))}."
            )
        return []
    for part in parts:
        if part not in names:
            raise ValidationError(f"Line {number}: there is no wire colour '{part[:20]}'.")
    if len(parts) > 3:
        raise ValidationError(f"Line {number}: a wire has a colour and two stripes at the most.")
    return [names[part] for part in parts]


def _in_places(cavities: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Cavities without a row and column in places of their own, below those that have one, ten in a row."""
    below = max((c["row"] for c in cavities if c["row"] is not None), default=0)
    free = 0
    for cavity in cavities:
        if cavity["row"] is None:
            cavity["row"], cavity["column"] = below + 1 + free // IN_A_ROW, 1 + free % IN_A_ROW
            free += 1
    return cavities


class PinForm(RecordForm):
    """What a lamp input waits for, or what an output drives."""

    display = forms.CharField(widget=forms.HiddenInput, max_length=60)
    pin = forms.CharField(widget=forms.HiddenInput, max_length=60)
    function = OpenChoiceField(label="For", required=False)
    active = forms.ChoiceField(
        label="Acts by", required=False, choices=[("", "not set"), ("12 V", "12 V"), ("ground", "ground")]
    )
    limit_a = QuantityField(CURRENT, "A", label="Carries", required=False, low=0.01, high=30)
    drives_a = QuantityField(CURRENT, "A", label="Hangs on it", required=False, low=0, high=100)

    def __init__(self, pin: Pin, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        rows = [
            (key, str(row["words"]))
            for key, row in load_table("functions").items()
            if row["role"] == pin.role
        ]
        self.fields["function"].choices = [("", "not used"), *rows]  # type: ignore[attr-defined]
        for name in ("limit_a", "drives_a") if pin.role == "lamp_input" else ("active",):
            del self.fields[name]

    @staticmethod
    def of(display: Display, pin: Pin) -> dict[str, Any]:
        """What the form starts with."""
        return {
            "display": display.id,
            "pin": pin.id,
            "function": pin.function,
            "active": pin.active,
            "limit_a": as_typed(pin.limit_a),
            "drives_a": as_typed(pin.drives_a) if pin.drives_a else "",
        }


class BusForm(forms.Form):
    """What was measured on the data pair; a description to read."""

    pair_ohm = QuantityField(
        RESISTANCE, "ohm", label="Across the pair, power off", required=False, low=0, high=1e7
    )
    tapped_at = forms.CharField(
        label="Tapped at",
        max_length=120,
        required=False,
        help_text="Diagnostic socket, plug of the old cluster",
    )
    stub_m = QuantityField(LENGTH, "m", label="Branch to the display", required=False, low=0, high=50)
    bitrate_kbit = NumberField(label="Speed, kbit/s", low=10, high=8000)
    file = forms.FileField(label="CAN description file", required=False)

    def clean_file(self) -> Any:
        """The file's text. A file too large or not text is refused."""
        file = self.cleaned_data["file"]
        if file is None:
            return None
        if file.size > MOST_BYTES:
            raise ValidationError(f"The file is larger than {MOST_BYTES // 1_000_000} MB.")
        try:
            return file.name, file.read().decode("utf-8-sig")
        except UnicodeDecodeError:
            file.seek(0)
            return file.name, file.read().decode("latin-1")

    @staticmethod
    def of(bus: Bus) -> dict[str, Any]:
        """What the form starts with."""
        return {
            "pair_ohm": as_typed(bus.pair_ohm),
            "tapped_at": bus.tapped_at,
            "stub_m": as_typed(bus.stub_m, "m"),
            "bitrate_kbit": as_typed(bus.bitrate_kbit),
        }
