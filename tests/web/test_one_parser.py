"""Every number field of every page reads every unit of its kind, and only through the one parser."""

from __future__ import annotations

import importlib
import pkgutil

import pytest
from django import forms

import workbench
from metrolex.quantities import dimension_of, in_unit
from workbench.jobs.fields import NumberField, QuantityField


def number_fields():
    """(form, name, field) of every number field of the site."""
    for module in pkgutil.walk_packages(workbench.__path__, "workbench."):
        if ".settings" in module.name or ".migrations" in module.name or module.name.endswith("wsgi"):
            continue
        for thing in vars(importlib.import_module(module.name)).values():
            if isinstance(thing, type) and issubclass(thing, forms.Form) and thing.__module__ == module.name:
                yield from ((thing.__name__, name, field) for name, field in thing.base_fields.items())


FIELDS = list(number_fields())
WITH_UNIT = [
    (form, name, field) for form, name, field in FIELDS if isinstance(field, NumberField) and field.unit
]


def test_the_walk_finds_them():
    assert len(WITH_UNIT) > 70


def test_no_field_reads_numbers_by_itself():
    strangers = [
        (form, name)
        for form, name, field in FIELDS
        if isinstance(field, (forms.FloatField, forms.DecimalField))
    ]
    assert strangers == []


@pytest.mark.parametrize(
    ("form", "name", "field"), WITH_UNIT, ids=[f"{form}.{name}" for form, name, _ in WITH_UNIT]
)
def test_a_field_reads_every_unit_of_its_kind(form, name, field):
    kind = field.dimension if isinstance(field, QuantityField) else dimension_of(field.unit)
    assert kind is not None
    low = field.low if field.low is not None else 1.0
    high = field.high if field.high is not None else low + 100.0
    shown = field.shown_unit if kind.unit(field.shown_unit) else field.unit
    for unit in kind.words().split(", "):
        middle = (low + min(high, low + 1000)) / 2
        typed = in_unit(middle, shown, unit)
        assert field.clean(f"{typed!r} {unit}") == pytest.approx(middle, rel=1e-9, abs=1e-12)
        decimal_comma = f"{typed:.12f}{unit}".replace(".", ",", 1)
        assert field.clean(decimal_comma) == pytest.approx(middle, rel=1e-6, abs=1e-9)
