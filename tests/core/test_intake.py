"""The one gate every input passes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from metrolex.errors import BadInput
from metrolex.intake import Positive, Title, dump, parse_json, read
from metrolex.senders import Curve


@dataclass(frozen=True)
class Part:
    name: Title
    ohm: Positive
    colour: Literal["red", "blue"] = "red"
    tags: tuple[str, ...] = ()
    with_: float | None = None
    count: int = 1
    on: bool = False


REFUSED = [
    ({"name": "a"}, "ohm", "The key 'ohm' is missing"),
    ({"name": "a", "ohm": -1}, "ohm", "a number above 0"),
    ({"name": "a", "ohm": "5"}, "ohm", "Expected a number"),
    ({"name": "a", "ohm": True}, "ohm", "Expected a number"),
    ({"name": "a", "ohm": float("nan")}, "ohm", "Expected a number"),
    ({"name": "a", "ohm": 10**400}, "ohm", "Expected a number"),
    ({"name": "", "ohm": 1}, "name", "1 to 120 characters"),
    ({"name": "x" * 10_000, "ohm": 1}, "name", "1 to 120 characters"),
    ({"name": "a", "ohm": 1, "colour": "blu"}, "colour", "Did you mean 'blue'?"),
    ({"name": "a", "ohm": 1, "omh": 2}, "omh", "Did you mean 'ohm'?"),
    ({"name": "a", "ohm": 1, "tags": "x"}, "tags", "Expected a list, but got a text"),
    ({"name": "a", "ohm": 1, "tags": ["x", 3]}, "tags[1]", "Expected a text"),
    ({"name": "a", "ohm": 1, "count": 1.5}, "count", "a whole number"),
    ({"name": "a", "ohm": 1, "on": 1}, "on", "true or false"),
    ([], "input", "Expected an object, but got a list"),
]


@pytest.mark.parametrize(("data", "field", "words"), REFUSED)
def test_refusals_name_the_place(data, field, words):
    with pytest.raises(BadInput) as refusal:
        read(Part, data)
    assert refusal.value.field == field
    assert words in refusal.value.message + refusal.value.allowed


def test_reads_and_dumps_without_loss():
    part = Part("a", 2.0, "blue", ("x",), 3.0, 2, True)
    assert dump(part) == {
        "name": "a",
        "ohm": 2.0,
        "colour": "blue",
        "tags": ["x"],
        "with": 3.0,
        "count": 2,
        "on": True,
    }
    assert read(Part, dump(part)) == part
    assert dump(Part("a", 2.0)) == {"name": "a", "ohm": 2.0}


def test_a_union_is_told_apart_by_its_kind():
    with pytest.raises(BadInput) as refusal:
        read(Curve, {"kind": "tabel", "points": []}, "curve")
    assert refusal.value.field == "curve.kind"
    assert "Did you mean 'table'?" in refusal.value.message
    with pytest.raises(BadInput, match="'kind' is missing"):
        read(Curve, {"points": []})


TEXTS = [
    ("", "not complete JSON"),
    ('{"a": 1', "not complete JSON"),
    ("[1]", "got a list"),
    ('{"a": NaN}', "NaN is not a number"),
    ('{"a": 1, "a": 2}', "stands twice"),
    ("[" * 100_000, "nested too deeply"),
    ('{"a": Infinity}', "Infinity"),
]


@pytest.mark.parametrize(("text", "words"), TEXTS)
def test_broken_json_is_refused_in_words(text, words):
    with pytest.raises(BadInput) as refusal:
        parse_json(text)
    assert words in refusal.value.message


@pytest.mark.thorough
@given(
    st.recursive(
        st.none() | st.booleans() | st.floats() | st.text(),
        lambda inner: st.lists(inner) | st.dictionaries(st.text(), inner),
    )
)
def test_anything_at_all_is_read_or_refused(data):
    with pytest.raises(BadInput):
        read(Part, {"name": "a", "ohm": data if not isinstance(data, float) else -abs(data)})
