"""The sun's height against the library astral, and how often it stands where."""

from __future__ import annotations

import datetime

import numpy as np
import pytest
from astral import Observer
from astral.sun import elevation, noon

from metrolex.mount.sun import declination_deg, highest_deg, hours_near, sun_height_deg


@pytest.mark.parametrize("latitude", [-35.0, 0.0, 47.0, 54.0, 68.0])
def test_the_sun_s_height_against_astral(latitude):
    """Within a quarter of a degree, hour by hour of a day of every month; astral's noon tells solar time. Refraction is left out."""
    where = Observer(latitude, 0.0)
    for month in range(1, 13):
        day = datetime.date(2025, month, 15)
        highest = noon(where, date=day)
        for hour in (-4, -2, 0, 1.5, 3.5):
            at = highest + datetime.timedelta(hours=hour)
            ours = float(sun_height_deg(latitude, day.timetuple().tm_yday, 12 + hour))
            assert ours == pytest.approx(elevation(where, at, with_refraction=False), abs=0.25)


def test_declination_at_the_turns_of_the_year():
    """23.44 degrees at the solstices, none at the equinox of 20 March 2025 (astronomical almanac), within a tenth."""
    assert float(declination_deg(172)) == pytest.approx(23.44, abs=0.1)
    assert float(declination_deg(355)) == pytest.approx(-23.44, abs=0.1)
    assert float(declination_deg(79)) == pytest.approx(0.0, abs=0.1)


def test_half_of_a_year_the_sun_is_up():
    """Over all heights together: 4,380 hours within one per cent wherever one is."""
    for latitude in (0.0, 30.0, 54.0):
        up = sum(hours_near(latitude, height, 0.5) for height in np.arange(0.5, 90.0, 1.0))
        assert up == pytest.approx(4380, rel=0.01)


def test_no_higher_than_the_latitude_allows():
    assert highest_deg(54.0) == pytest.approx(90 - 54 + 23.44, abs=0.1)
    assert highest_deg(10.0) == pytest.approx(90.0, abs=0.3)
    assert hours_near(54.0, 75.0, 5.0) == 0.0
