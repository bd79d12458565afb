"""Drawings taller than a sheet: nothing is lost, no word is cut."""

from __future__ import annotations

import itertools
import re

import pytest

from metrolex.job import State
from metrolex.twin import build, solve
from tests.big import full_job
from tests.jobs import shipped
from workbench.drawing import Drawing
from workbench.harness.wiring_drawing import TALL, WIDE, wiring_diagram, wiring_strips
from workbench.strips import strips_of

RUN = State("run")


def words(svg):
    return re.findall(r"<text[^>]*>([^<]*)<", svg)


def seen(svg):
    _, top, width, height = (float(word) for word in re.search(r'viewBox="([^"]+)"', svg)[1].split())
    return top, top + height, width


@pytest.mark.parametrize("most", [TALL, WIDE])
@pytest.mark.parametrize("job", [shipped("single_seater"), full_job(0)], ids=lambda job: job.name)
def test_each_word_stands_whole_on_a_sheet(job, most):
    network = build(job)
    whole = str(wiring_diagram(job, solve(network, RUN)))
    strips = wiring_strips(network, RUN, most)
    begins, ends, wide = seen(whole)
    assert len(strips) >= (ends - begins) / (most * wide)
    reach = [seen(strip) for strip in strips]
    assert (reach[0][0], reach[-1][1]) == (begins, ends)
    assert all(low - high <= most * wide + 0.01 for high, low, _ in reach)
    assert all(low > following for (_, low, _), (following, _, _) in itertools.pairwise(reach)), (
        "the same line stands at the foot of one and at the head of the next"
    )
    assert {word for strip in strips for word in words(strip)} == set(words(whole))
    for y, size, word in re.findall(r'<text x="[^"]+" y="([^"]+)" font-size="([^"]+)"[^>]*>([^<]*)<', whole):
        above, below = float(y) - float(size), float(y) + 0.4 * float(size)
        assert any(high <= above and below <= low for high, low, _ in reach), word


def test_what_fits_is_one_sheet_as_it_was():
    network = build(shipped("van"))
    drawing = wiring_diagram(network.job, solve(network, RUN))
    assert strips_of(drawing, TALL) == [drawing.safe()]


def test_what_is_turned_or_bent_stands_on_every_strip():
    drawing = Drawing(100, 300, "bent")
    drawing.arc(50, 50, 20, (30, 50))
    drawing.group(transform="rotate(90)")
    drawing.text(0, 0, "turned")
    drawing.end()
    drawing.text(0, 290, "below")
    first, *_, last = strips_of(drawing, 1.0)
    assert "turned" in first
    assert "turned" in last
    assert "A20" in last
    assert "below" in last
    assert "below" not in first
