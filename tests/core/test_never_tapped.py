"""Names that slipped through, and names refused for nothing; the kind of place and what was measured beside the words."""

from __future__ import annotations

import pytest

from metrolex.feeds.safety import standing_of


@pytest.mark.parametrize(
    ("name", "system"),
    [
        ("A/BAG", "restraint"),
        ("ST relay", "engine control"),
        ("Mechatronic", "gearbox control"),
        ("Zündung Spule", "engine control"),
        ("Cuscino d'aria", "restraint"),
        ("Steering lock, at column", "steering"),
        ("Airbag under the steering column", "restraint"),
        ("ABS at the dash", "brakes"),
        ("AT ECU", "gearbox control"),
    ],
)
@pytest.mark.parametrize("place", ["fuse", "ignition switch"])
def test_what_is_never_tapped_is_refused_wherever_it_is(name, system, place):
    assert (standing_of(name, place=place).grade, standing_of(name).system) == ("never", system)


@pytest.mark.parametrize(
    ("name", "place"),
    [
        ("Radio wire at the dash", "wire"),
        ("Lighter socket at the console", "fuse"),
        ("Power for gauge at column", "wire"),
        ("Ignition switch, run terminal", "ignition switch"),
        ("Ignition switch, key-on out", "ignition switch"),
        ("Distribution block, tied to the battery", "block"),
        ("Heater blower relay coil", "relay socket"),
        ("Alternator stud", "post"),
    ],
)
def test_where_it_lies_is_not_what_it_feeds(name, place):
    assert standing_of(name, place=place).grade != "never"


@pytest.mark.parametrize("name", ["Airbag", "Brake lamps", "Power steering"])
@pytest.mark.parametrize("place", ["fuse", "block", "post", "ignition switch", "wire"])
def test_no_kind_of_place_and_no_word_of_the_fitter_opens_what_holds_stops_or_steers(name, place):
    for said in ("", "comfort", "nothing"):
        standing = standing_of(name, place=place, said=said)
        assert standing.grade == "never"
        assert standing.final


def test_what_was_found_to_be_fed_settles_a_guess_and_softens_a_clear_word():
    assert standing_of("Ignition").grade == "never"
    assert standing_of("Ignition", said="comfort").grade == "fair"
    assert standing_of("Motor", said="comfort").grade == "fair"
    assert standing_of("Fuel pump", said="comfort").grade == "avoid"
