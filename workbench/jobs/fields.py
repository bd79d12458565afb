"""Form fields that read what a fitter writes, and forms that keep what was typed."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django import forms
from django.core.exceptions import ValidationError

from metrolex.errors import BadInput
from metrolex.quantities import Dimension, parse, parse_in, parse_number
from metrolex.quantities import typed as as_typed
from workbench.markup import id_part

__all__ = [
    "NumberField",
    "OpenChoiceField",
    "OpenMultipleChoiceField",
    "QuantityField",
    "RecordForm",
    "as_typed",
    "field_ids",
    "refuse",
    "set_choices",
]


class NumberField(forms.CharField):
    """A number; a decimal comma is a decimal point. Its clean value lies within ``low`` and ``high``.

    ``unit`` is what it is meant in: any unit of that kind may stand behind it and is turned.
    """

    def __init__(
        self, *, low: float | None = None, high: float | None = None, unit: str = "", **kwargs: Any
    ) -> None:
        self.low, self.high, self.unit = low, high, unit
        kwargs.setdefault("max_length", 60)
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
        return _within(found, self.low, self.high, self.shown_unit)

    def read(self, text: str) -> float:
        """The number in the text. Raises BadInput."""
        return parse_in(text, self.unit) if self.unit else parse_number(text)

    @property
    def shown_unit(self) -> str:
        """The unit its limits are said in."""
        return self.unit


class QuantityField(NumberField):
    """A quantity in the fitter's spelling; a bare number is meant in ``unit``.

    Its clean value and its limits are in ``into``, else in the dimension's inner unit.
    """

    def __init__(self, dimension: Dimension, unit: str, *, into: str = "", **kwargs: Any) -> None:
        super().__init__(unit=unit, **kwargs)
        self.dimension, self.into = dimension, into

    def read(self, text: str) -> float:
        return parse(text, self.dimension, self.unit, self.into)

    @property
    def shown_unit(self) -> str:
        return self.into or INNER_WORDS.get(self.dimension.inner, self.unit)


class _OpenSelect(forms.Select):
    """A list that shows what stands in the record too, where the list lacks it."""

    def optgroups(self, name: str, value: list[str], attrs: dict[str, Any] | None = None) -> Any:
        listed = {str(key) for key, _ in self.choices}
        own = [(word, word) for word in value if word and word not in listed]
        kept, self.choices = self.choices, [*self.choices, *own]
        try:
            return super().optgroups(name, value, attrs)
        finally:
            self.choices = kept


class _OpenSelectMultiple(_OpenSelect, forms.SelectMultiple):
    pass


class OpenChoiceField(forms.ChoiceField):
    """Words to choose from for what the core keeps as free words: another word that stands there (the form's initial) may stay."""

    widget = _OpenSelect
    stands: tuple[str, ...] = ()

    def valid_value(self, value: Any) -> bool:
        return str(value) in self.stands or super().valid_value(value)


class OpenMultipleChoiceField(forms.MultipleChoiceField):
    """The same for several words."""

    widget = _OpenSelectMultiple
    stands: tuple[str, ...] = ()

    def valid_value(self, value: Any) -> bool:
        return str(value) in self.stands or super().valid_value(value)


class RecordForm(forms.Form):
    """A form of a record that is there: what stands in it (its initial) is never refused for not being on a list."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name, field in self.fields.items():
            if isinstance(field, (OpenChoiceField, OpenMultipleChoiceField)):
                stands = self.initial.get(name) or ()
                field.stands = (stands,) if isinstance(stands, str) else tuple(stands)


#: How the inner units are said beside a limit.
INNER_WORDS = {
    "meter": "m",
    "pascal": "Pa",
    "degree_Celsius": "°C",
    "ohm": "Ω",
    "volt": "V",
    "ampere": "A",
    "liter": "L",
    "kilometer/hour": "km/h",
}


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


def field_ids(kind: str, key: str = "new") -> str:
    """How the ids of a form's fields are made, so that those of several forms on a page differ: ``key`` is of the record, as odd as it may be."""
    return f"{kind}-{id_part(key) or 'new'}-%s"


def set_choices(form: forms.Form, name: str, choices: Iterable[tuple[str, str]]) -> None:
    """What one of a form's fields offers."""
    field = form.fields[name]
    assert isinstance(field, (forms.ChoiceField, forms.MultipleChoiceField))
    field.choices = list(choices)


def refuse(form: forms.Form, fault: BadInput, fields: dict[str, str] | None = None) -> None:
    """Put a core complaint on the field it belongs to, on the form where none fits."""
    for path, message in getattr(fault, "complaints", [(fault.field, fault.message)]):
        leaf = path.rsplit(".", 1)[-1].split("[")[0]
        field = (fields or {}).get(leaf, leaf)
        form.add_error(field if field in form.fields else None, message)
