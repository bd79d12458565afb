"""Form fields that read what a fitter writes, and forms that keep what was typed."""

from __future__ import annotations

from typing import Any

from django import forms
from django.core.exceptions import ValidationError

from metrolex.errors import BadInput
from metrolex.quantities import Dimension, parse, parse_number

__all__ = ["NumberField", "QuantityField", "as_typed", "refuse"]


class NumberField(forms.CharField):
    """A plain number; a decimal comma is a decimal point. Its clean value lies within ``low`` and ``high``."""

    unit = ""

    def __init__(self, *, low: float | None = None, high: float | None = None, **kwargs: Any) -> None:
        self.low, self.high = low, high
        kwargs.setdefault("max_length", 40)
        super().__init__(**kwargs)
        self.widget.attrs.setdefault("inputmode", "decimal")

    def clean(self, value: Any) -> Any:
        text = super().clean(value)
        if text in self.empty_values:
            return None
        try:
            found = self.read(str(text))
        except BadInput as fault:
            raise ValidationError(fault.message) from None
        return _within(found, self.low, self.high, self.unit)

    def read(self, text: str) -> float:
        """The number in the text. Raises BadInput."""
        return parse_number(text)


class QuantityField(NumberField):
    """A quantity in the fitter's spelling; its clean value is in the dimension's inner unit."""

    def __init__(self, dimension: Dimension, unit: str, **kwargs: Any) -> None:
        self.dimension, self.unit = dimension, unit
        super().__init__(**{"max_length": 60, **kwargs})

    def read(self, text: str) -> float:
        return parse(text, self.dimension, self.unit)


def as_typed(value: float | None) -> str:
    """A number as it is typed into a field, '' for none."""
    return "" if value is None else f"{value:.10g}"


def _within(value: float, low: float | None, high: float | None, unit: str) -> float:
    if (low is not None and value < low) or (high is not None and value > high):
        if high is None:
            allowed = f"{low:g} or more"
        elif low is None:
            allowed = f"{high:g} at the most"
        else:
            allowed = f"{low:g} to {high:g}"
        raise ValidationError(f"Expected {allowed} {unit}".rstrip() + f", but got {value:g}.")
    return value


def refuse(form: forms.Form, fault: BadInput, fields: dict[str, str] | None = None) -> None:
    """Put a core complaint on the field it belongs to, on the form where none fits."""
    leaf = fault.field.rsplit(".", 1)[-1].split("[")[0]
    field = (fields or {}).get(leaf, leaf)
    form.add_error(field if field in form.fields else None, fault.message)
