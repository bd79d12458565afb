"""The section at a place: every word on its sheet and clear of every other, whatever stands in whichever wall."""

from __future__ import annotations

from dataclasses import replace
from xml.etree import ElementTree

import pytest

from metrolex.fittings.library import generic_fittings
from metrolex.jobfile import EXAMPLES
from metrolex.ports.compare import candidates_for
from metrolex.ports.facts import facts_of
from metrolex.ports.section import section_of
from tests.core.test_ports_rules import FIT, job_with
from tests.jobs import a_port, shipped
from workbench.ports.section_drawing import section_drawing

SVG = "{http://www.w3.org/2000/svg}"
LIBRARY = generic_fittings()


def boxes(root):
    """The words with the room they take: about 0.54 em a letter in the sans, 0.6 in the mono face."""
    for text in root.iter(SVG + "text"):
        size, letters = float(text.get("font-size")), text.text or ""
        wide = size * len(letters) * (0.6 if "mono" in (text.get("font-family") or "").lower() else 0.54)
        x = float(text.get("x")) - {"end": wide, "middle": wide / 2}.get(text.get("text-anchor"), 0.0)
        yield letters, x, float(text.get("y")) - 0.7 * size, x + wide, float(text.get("y"))


def legible(drawing):
    root = ElementTree.fromstring(str(drawing))
    width, height = (float(v) for v in root.get("viewBox").split()[2:])
    found = list(boxes(root))
    for words, x0, y0, x1, y1 in found:
        assert (x0 >= -1, y0 >= 0, x1 <= width + 4, y1 <= height) == (True,) * 4, words
    for i, (words, x0, y0, x1, y1) in enumerate(found):
        for other, a0, b0, a1, b1 in found[i + 1 :]:
            assert not (x0 < a1 - 1 and a0 < x1 - 1 and y0 < b1 - 1 and b0 < y1 - 1), (words, other)
    return {words for words, *_ in found}


def drawn(job, channel, port):
    section = section_of(job, channel, port, job.sender(channel.sender))
    return section, section_drawing(section, facts_of(job, channel, port).material, "Section at A")


@pytest.mark.parametrize(
    "name", [n for n in EXAMPLES if n != "sidecar"]
)  # a ring under a plug has no section
def test_every_place_of_the_examples_is_legible(name):
    job = shipped(name)
    seen = 0
    for channel in job.chains:
        sender = job.sender(channel.sender)
        for candidate in candidates_for(job, channel, LIBRARY):
            port = replace(candidate.port, stack=candidate.fittings or ())
            if sender is None or not sender.body.thread or not port.thread:
                continue
            section, drawing = drawn(job, channel, port)
            if section.stack.found:
                legible(drawing)
                seen += 1
    assert seen >= {"van": 8, "single_seater": 12, "fire_tender": 4}[name]


@pytest.mark.parametrize("wall_mm", [None, 2.0, 7.0, 25.0])
@pytest.mark.parametrize("bore_mm", [None, 8.0, 14.0, 42.0, 79.0, 200.0])
def test_any_wall_and_bore_is_legible(wall_mm, bore_mm):
    for thread, stack in (("1/8-27 NPT", ()), ("M12x1.5", (FIT["Adapter M12x1.5 to 1/8-27 NPT"],))):
        port = a_port(
            "p",
            "Plug",
            "head plug",
            thread=thread,
            stack=stack,
            wall_mm=wall_mm,
            bore_mm=bore_mm,
            entry="existing",
        )
        job, channel = job_with("coolant_temperature", port)
        words = legible(drawn(job, channel, port)[1])
        assert {f"{bore_mm:g} mm" if bore_mm else "?", "bore", "wall"} <= words
        assert (f"{wall_mm:g} mm" if wall_mm else "?") in words


def test_a_plate_shows_its_rim_and_the_oil_behind_it():
    plate = FIT["Sandwich plate, 20 mm stud, three 1/8-27 NPT mouths"]
    port = a_port(
        "p", "Plate", "sandwich plate", thread="filter 20 mm", stack=(plate,), wall_mm=10.0, entry="held_on"
    )
    job, channel = job_with("oil_temperature", port)
    words = legible(drawn(job, channel, port)[1])
    assert {"14 mm", "rim", "12 mm", "to stud", "8.0 mm", "in the stream"} <= words
    assert "Section at A in sandwich plate, all parts to one scale" in words
