"""Points typed or pasted: any decimal mark, any column mark, units in the head or behind the figures."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from metrolex.errors import BadInput
from metrolex.senders.pasted import points_text, read_points

READ = [
    ("577 60", ((577, 60),)),
    ("577\t60", ((577, 60),)),
    ("577;60", ((577, 60),)),
    ("577,60", ((577, 60),)),
    ("577, 60", ((577, 60),)),
    ("  577   60  ", ((577, 60),)),
    ("2,5;40,5", ((2.5, 40.5),)),
    ("2,5\t40,5", ((2.5, 40.5),)),
    ("2,5 40,5", ((2.5, 40.5),)),
    ("2k2 25", ((2200, 25),)),
    ("2.2k  25", ((2200, 25),)),
    ("181  212 F", ((181, 100),)),
    ("1 2\n\n3 4\n", ((1, 2), (3, 4))),
    ("ohm,degC\n10,20\n30,40", ((10, 20), (30, 40))),
    ("R [kohm];T [degF]\n0,577;140", ((577, 60),)),
    ("\ufeffohm\tdegC\n10\t20", ((10, 20),)),
    ("1e3 -20", ((1000, -20),)),
]


@pytest.mark.parametrize(("text", "points"), READ)
def test_what_is_read(text, points):
    found = read_points(text)
    assert found == tuple((pytest.approx(x), pytest.approx(y)) for x, y in points)


REFUSED = [
    ("warm", "Line 1"),
    ("577", "Line 1"),
    ("577 60 3", "Line 1"),
    ("577 60\nabc def", "Line 2"),
    ("577 sixty", "Line 1"),
    ("577  60 bar", "Line 1"),
    ("1 2\n3", "Line 2"),
    ("head words\n1", "Line 2"),
]


@pytest.mark.parametrize(("text", "words"), REFUSED)
def test_what_cannot_be_read_names_its_line(text, words):
    with pytest.raises(BadInput, match=words) as refusal:
        read_points(text)
    assert refusal.value.field == "points"


def test_nothing_is_no_point_and_too_many_are_refused():
    assert read_points("") == ()
    with pytest.raises(BadInput, match="more than"):
        read_points("\n".join(f"{i} {i}" for i in range(1, 5003)))


@given(st.lists(st.tuples(st.floats(0.01, 1e5), st.floats(-200, 1000)), min_size=1, max_size=20))
def test_what_is_written_is_read_back(points):
    assert read_points(points_text(tuple(points))) == tuple(
        (pytest.approx(x, rel=1e-9), pytest.approx(y, rel=1e-9, abs=1e-12)) for x, y in points
    )


def test_units_that_are_not_of_the_library_are_plain_numbers():
    assert read_points("1000 12.5", "rpm", "kW") == ((1000.0, 12.5),)
    assert read_points("0.5 -1", "volt", "bar") == ((0.5, -1.0),)
    assert read_points("500 mV  14.5 psi", "volt", "bar") == ((0.5, pytest.approx(0.99974, rel=1e-4)),)
