"""Loom, sleeve, insulation and clips along a run."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.harness.protection import bundle_of, cover_run, loom_for, protection_findings
from metrolex.job import Run, Segment
from tests.jobs import shown_by, van


@pytest.mark.parametrize(
    ("bundle", "loom"), [(3.0, 4.5), (4.1, 6.5), (9.0, 10.0), (9.2, 13.0), (34.5, 38.0), (35.0, None)]
)
def test_loom_takes_the_bundle_with_a_tenth_of_room(bundle, loom):
    assert loom_for(bundle) == loom


@pytest.mark.parametrize(
    ("segment", "cover", "insulation", "clip"),
    [
        (Segment("dash", 1.0, 50), "split loom or cloth tape", "A", 300.0),
        (Segment("bay", 1.0, 110), "split loom for engine bays (nylon), ends taped", "C", 200.0),
        (
            Segment("engine to body", 1.0, 90, True),
            "split loom for engine bays (nylon), ends taped",
            "B",
            150.0,
        ),
        (Segment("past the turbine", 0.3, 220), "glass-fibre sleeve, silicone coated", "G", 200.0),
        (
            Segment("at the collector", 0.3, 400),
            "aluminised glass sleeve over glass fibre, with air around it",
            None,
            200.0,
        ),
        (Segment("in the fire", 0.3, 900), "", None, 200.0),
    ],
)
def test_a_stretch_is_covered_by_its_heat(segment, cover, insulation, clip):
    job = replace(van(), runs=(Run("r", "R", (segment,)),), conductors=(), **shown_by(()), openings=())
    found = cover_run(job, job.runs[0])[0]
    assert (found.cover, found.insulation, found.clip_mm, found.loom_mm) == (cover, insulation, clip, None)
    grades = [f.grade for f in protection_findings(job) if f.code == "sleeve_needed"]
    assert grades == ([] if segment.peak_degc <= 125 else ["caution" if cover else "stop"])


def test_the_bundle_of_a_run_is_that_of_its_wires():
    job = van()
    run = job.run("coolant run")
    wires = [w for w in job.conductors if w.run == run.id]
    assert len(wires) == 1
    assert bundle_of(job, run) == pytest.approx(1.6)  # one wire of 0.5 mm2, ISO 6722 thin wall
    assert bundle_of(job, Run("x", "X")) is None
    assert cover_run(job, run)[0].loom_mm == 4.5
