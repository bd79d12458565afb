"""Openings in the running pages."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts.harness import remove_run
from tests.jobs import van

FORM = {
    "name": "Boot grommet",
    "hole_mm": "1 in",
    "edge": "grommet",
    "runs": ["coolant run"],
    "plugs": "gauge plug, 18 x 12 mm\nsender plug, 1/2 x 3/8 in",
    "there_mm": "6",
}


def test_an_opening_is_added_changed_and_taken_off(bay, text):
    bay.post("harness/openings/save/", **FORM)
    opening = bay.job.openings[-1]
    assert (opening.id, opening.hole_mm, opening.there_mm, opening.runs) == (
        "boot grommet",
        25.4,
        6.0,
        ("coolant run",),
    )
    assert [(p.name, p.w_mm, p.h_mm) for p in opening.plugs] == [
        ("gauge plug", 18.0, 12.0),
        ("sender plug", 12.7, 9.525),
    ]
    page = text(bay.get("harness/openings/"))
    assert "Passes, plugs and all." in page
    bay.post("harness/openings/save/", **FORM, id="boot grommet", **{})
    bay.post("harness/openings/save/", **(FORM | {"id": "boot grommet", "hole_mm": "12 mm"}))
    assert "their connector does not" in text(bay.get("harness/openings/"))
    bay.post("harness/openings/remove/", opening="boot grommet")
    assert bay.job == van()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"hole_mm": "0 mm"}, "Expected 0.5 to 300 mm"),
        ({"hole_mm": ""}, "required"),
        ({"plugs": "gauge plug"}, "Line 1, 'gauge plug'"),
        ({"plugs": "plug, 0 x 3"}, "Line 1"),
        ({"runs": ["x"]}, "available choices"),
        ({"edge": "sharp"}, "available choices"),
        ({"id": "gone"}, "This opening is gone"),
        ({"there_mm": "-1"}, "Expected 0 to 300 mm"),
    ],
)
def test_an_opening_that_cannot_be_meant_comes_back(change, words, bay, text):
    answer = bay.post("harness/openings/save/", **(FORM | change))
    assert answer.status_code == 422
    assert words in text(answer)
    assert bay.job == van()


def test_a_run_taken_out_leaves_its_openings(bay):
    named = replace(
        bay.job, openings=(replace(bay.job.openings[0], runs=("coolant run",)), *bay.job.openings[1:])
    )
    assert not remove_run(named, "coolant run").openings[0].runs
    bay.post("harness/openings/remove/", opening="x")
    assert bay.job == van()
