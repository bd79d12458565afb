"""How figures are printed and how forms read what a fitter writes."""

from __future__ import annotations

import pytest
from django.core.exceptions import ValidationError
from django.template import Context, Template

from metrolex.quantities import CURRENT, LENGTH, VOLTAGE
from workbench.jobs.fields import NumberField, QuantityField

PRINTED = [
    ("{{ v|fig:2 }}", 1.005, "1.01"),
    ("{{ v|fig:0 }}", 90.5, "91"),
    ("{{ v|fig:1 }}", -0.01, "0.0"),
    ("{{ v|fig }}", None, "--"),
    ("{{ v|fig:1 }}", "", "--"),
    ("{{ v|short }}", 0.5, "0.5"),
    ("{{ v|short }}", 150.0, "150"),
    ("{{ v|short }}", None, "--"),
    ("{{ v|metres }}", 3.866, "3.87 m"),
    ("{{ v|metres }}", None, "--"),
    ("{{ v|unit }}", "degC", "°C"),
    ("{{ v|unit }}", "ohm", "Ω"),
    ("{{ v|unit }}", "bar", "bar"),
    ("{{ v|said }}", "ignition_crank", "run and crank"),
    ("{{ v|said }}", "lead_short", "lead short"),
    ("{{ v|millivolts }}", 0.0234, "23"),
    ("{{ v|millivolts }}", None, "--"),
    ("{{ v|percent }}", 0.545, "55"),
    ("{{ v|typed }}", 12.0, "12"),
    ("{{ v|typed }}", "live", "live"),
    ("{{ v|typed }}", None, ""),
    ("{{ v|signed }}", 3.0, "+3"),
    (
        "{{ v|unbroken }}",
        "51.0 mm (2 1/64 in), 4.4 turns",
        "51.0\u00a0mm (2\u00a01/64\u00a0in), 4.4\u00a0turns",
    ),
    ("{{ v|unbroken }}", "then 2 to 3 turns of 9 lives", "then 2 to 3\u00a0turns of 9 lives"),
    ("{{ v|signed }}", -5.0, "−5"),
    ('{{ v|fig_for:"V" }}', 12.345, "12.35"),
    ('{{ v|fig_for:"ohm" }}', 235.6, "236"),
    ('{{ v|fig_for:"bar" }}', 3.46, "3.5"),
]


@pytest.mark.parametrize(("template", "value", "printed"), PRINTED)
def test_printed(template, value, printed):
    assert Template(template).render(Context({"v": value})) == printed


@pytest.mark.parametrize("state", ["open", "settled", "caution", "stop", "proved", "as expected", "off"])
def test_a_state_is_a_sign_and_a_word(state):
    page = Template("{% mark v %}").render(Context({"v": state}))
    assert "#mark-" in page
    assert f">{state}<" in page
    assert Template("{% mark v %}").render(Context({"v": "none"})) == ""


READ = [
    (QuantityField(LENGTH, "m"), "33 in", 0.8382),
    (QuantityField(LENGTH, "m"), "1,2", 1.2),
    (QuantityField(VOLTAGE, "V"), "12.4V", 12.4),
    (QuantityField(CURRENT, "A"), "350 mA", 0.35),
    (QuantityField(LENGTH, "m", required=False), "", None),
    (NumberField(), "-3,5", -3.5),
    (NumberField(required=False), " ", None),
]


@pytest.mark.parametrize(("field", "typed", "value"), READ)
def test_read(field, typed, value):
    assert field.clean(typed) == (pytest.approx(value) if value is not None else None)


REFUSED = [
    (QuantityField(LENGTH, "m", low=0, high=100), "-2 m", "Expected 0 to 100 m, but got -2."),
    (QuantityField(LENGTH, "m", low=0), "-2", "Expected 0 or more m"),
    (QuantityField(LENGTH, "m", high=5), "6", "Expected 5 at the most m"),
    (QuantityField(LENGTH, "m"), "2 psi", "not a unit of length"),
    (QuantityField(LENGTH, "m"), "", "required"),
    (NumberField(low=0, high=100), "200", "Expected 0 to 100, but got 200."),
    (NumberField(), "1e999", "too large"),
    (NumberField(), "9" * 61, "at most 60"),
]


@pytest.mark.parametrize(("field", "typed", "words"), REFUSED)
def test_refused(field, typed, words):
    with pytest.raises(ValidationError, match=words):
        field.clean(typed)
