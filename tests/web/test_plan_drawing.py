"""The plan's drawing: the vehicle the right way round, leads square and clear of the names."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest

from metrolex.job import Job
from metrolex.jobfile import EXAMPLES
from metrolex.layout.templates import layout_called, layouts
from tests.jobs import a_vehicle, shipped
from workbench.harness.plan_drawing import plan_drawing
from workbench.harness.plan_paths import boxes_of, paths_of


def bare(layout):
    return Job("Bare", a_vehicle("Vehicle"), zones=layout.zones, ways=layout.ways, openings=layout.openings)


JOBS = {name: shipped(name) for name in EXAMPLES} | {
    f"layout {key}": bare(layout_called(key)) for key, _ in layouts()
}


@pytest.mark.parametrize("name", JOBS)
def test_the_left_side_is_at_the_bottom_and_the_front_to_the_left(name):
    """Seen from above with the nose to the left, the left hand is at the bottom: as one stands over the vehicle itself."""
    boxes = boxes_of(JOBS[name].zones)
    for box in boxes.values():
        for other in boxes.values():
            if box.zone.y + box.zone.h <= other.zone.y:  # nearer to the left side
                assert box.y >= other.y + other.h
            if box.zone.x + box.zone.w <= other.zone.x:
                assert box.x + box.w <= other.x


@pytest.mark.parametrize("name", JOBS)
def test_every_way_runs_square_from_zone_to_zone(name):
    job = JOBS[name]
    boxes, paths = boxes_of(job.zones), paths_of(job.zones, job.ways)
    assert paths.keys() == {way.id for way in job.ways}
    for way in job.ways:
        path = paths[way.id]
        assert (path[0], path[-1]) == (boxes[way.a].anchor, boxes[way.b].anchor)
        assert all((x1 == x2) != (y1 == y2) for (x1, y1), (x2, y2) in pairwise(path))


@pytest.mark.parametrize("name", JOBS)
def test_no_lead_runs_across_a_name(name):
    job = JOBS[name]
    names = {key: box.name for key, box in boxes_of(job.zones).items()}
    crossed = [
        (way, key)
        for way, path in paths_of(job.zones, job.ways).items()
        for (x1, y1), (x2, y2) in pairwise(path)
        for key, (left, top, right, bottom) in names.items()
        if min(x1, x2) < right and left < max(x1, x2) and min(y1, y2) < bottom and top < max(y1, y2)
    ]
    assert not crossed


def test_a_zone_alone_and_no_zone_at_all_are_drawn():
    van = JOBS["van"]
    alone = replace(van, zones=van.zones[:1], ways=(), runs=(), openings=())
    assert van.zones[0].name.split()[0] in str(plan_drawing(alone))
    assert "<svg" in str(plan_drawing(replace(alone, zones=())))
