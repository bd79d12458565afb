"""What colour-blind drivers see, against the library colorspacious and its own Machado tables."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from colorspacious import cspace_convert, deltaE

from metrolex.dash.colours import alike_for, as_seen, difference
from metrolex.tables import load_table

COLOURS = {name: rgb for name, rgb in load_table("faces")["colours"].items() if name != "apart"}
KINDS = {"red": "protanomaly", "green": "deuteranomaly"}


@pytest.mark.parametrize("lacking", KINDS)
@pytest.mark.parametrize("name", COLOURS)
def test_as_seen_without_a_cone(name, lacking):
    space = {"name": "sRGB1+CVD", "cvd_type": KINDS[lacking], "severity": 100}
    theirs = np.clip(cspace_convert(np.array(COLOURS[name]) / 255, space, "sRGB1"), 0, 1) * 255
    assert as_seen(COLOURS[name], lacking) == pytest.approx(theirs, abs=0.6)


@pytest.mark.parametrize(("one", "two"), list(itertools.combinations(COLOURS, 2)))
def test_difference_in_lab(one, two):
    theirs = deltaE(
        np.array(COLOURS[one]), np.array(COLOURS[two]), input_space="sRGB255", uniform_space="CIELab"
    )
    assert difference(COLOURS[one], COLOURS[two]) == pytest.approx(float(theirs), rel=0.01)


def test_green_beside_amber_and_red_are_mixed_up_and_blue_never():
    assert alike_for("amber", "green") == ("red",)
    assert alike_for("green", "red") == ("green",)
    assert not any(alike_for("blue", other) for other in COLOURS)
    assert alike_for("red", "red") == ()
