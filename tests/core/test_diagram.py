"""The wiring diagram holds at any size: nothing lies on anything else, no wire crosses a symbol, every end is reached."""

from __future__ import annotations

import itertools

import pytest

from metrolex.harness.diagram import NEAR, lay_out, left_pins, right_pins
from metrolex.job import End
from metrolex.jobfile import EXAMPLES
from metrolex.topology import topology_of
from tests.big import big_job
from tests.jobs import shipped

JOBS = [*(shipped(name) for name in EXAMPLES), big_job(6), big_job(12), big_job(1)]


def segments(sheet):
    """Every line of the drawing: (net, x1, y1, x2, y2)."""
    for i, net in enumerate(sheet.nets):
        for x, (low, high) in ((net.left_x, net.left_span), (net.right_x, net.right_span)):
            if x is not None:
                yield i, x, low, x, high
        if net.lane_y is not None:
            yield i, net.left_x, net.lane_y, net.right_x, net.lane_y
        for _, end in net.ends:
            spot = sheet.spots[end]
            x = net.left_x if spot.side == "left" else net.right_x
            yield i, min(spot.x, x), spot.y, max(spot.x, x), spot.y


@pytest.mark.parametrize("job", JOBS, ids=lambda job: f"{len(job.conductors)} wires")
def test_no_wire_lies_on_another(job):
    lines = list(segments(lay_out(job)))
    for (i, x1, y1, x2, y2), (j, u1, v1, u2, v2) in itertools.combinations(lines, 2):
        if i == j:
            continue
        upright, other = x1 == x2 and y1 != y2, u1 == u2 and v1 != v2
        if upright and other and abs(x1 - u1) < 5:
            assert y2 + NEAR <= v1 + 1e-6 or v2 + NEAR <= y1 + 1e-6
        if not upright and not other and abs(y1 - v1) < NEAR - 1e-6:
            assert x2 <= u1 + 1e-6 or u2 <= x1 + 1e-6


@pytest.mark.parametrize("job", JOBS, ids=lambda job: f"{len(job.conductors)} wires")
def test_no_wire_crosses_a_symbol_and_all_is_on_the_sheet(job):
    sheet = lay_out(job)
    boxes = list(sheet.boxes.values())
    for a, b in itertools.combinations(boxes, 2):
        assert a.x + a.w <= b.x or b.x + b.w <= a.x or a.y + a.h <= b.y or b.y + b.h <= a.y
    for _, x1, y1, x2, y2 in segments(sheet):
        assert 0 <= x1 <= x2 <= sheet.width
        assert 0 <= y1 <= y2 <= sheet.height
        for box in boxes:
            inside_x = x1 < box.x + box.w - 1 and x2 > box.x + 1
            inside_y = y1 < box.y + box.h - 1 and y2 > box.y + 1
            assert not (inside_x and inside_y)


@pytest.mark.parametrize("job", JOBS, ids=lambda job: f"{len(job.conductors)} wires")
def test_every_wire_is_drawn(job):
    sheet = lay_out(job)
    drawn = {wire.id for net in sheet.nets for wire in net.wires}
    assert drawn == {wire.id for wire in job.conductors}
    assert sum(len(net.wires) for net in topology_of(job).nets) == len(job.conductors)


def test_forty_wires_and_more():
    assert len(big_job(6).conductors) >= 40


def test_every_pin_faces_one_side():
    for job in JOBS:
        for display in job.displays:
            assert sorted(p.id for p in (*left_pins(display), *right_pins(display))) == sorted(
                p.id for p in display.pins
            )
            assert End("display", display.id, display.pins[0].id) in lay_out(job).spots
