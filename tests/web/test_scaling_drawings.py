"""The drawings of Scaling: whole SVG, nothing off the sheet, what they show is what the core says."""

from __future__ import annotations

import re
from dataclasses import replace
from xml.etree import ElementTree

import numpy as np
import pytest

from metrolex.acts.tank import curve_of
from metrolex.job import Measured, SpeedRun, State
from metrolex.scaling.counting import calibration_of, shown_over_true
from metrolex.senders.fit import fit_curve
from metrolex.twin import build
from metrolex.twin.error_budget import channel_budget
from metrolex.warning.drive import replay
from tests.jobs import shipped
from workbench.axes import axis, decades, round_step, ticks
from workbench.scaling.bench.drawing import scaling_drawing
from workbench.scaling.bench.road_drawing import runs_drawing
from workbench.scaling.bench.tank_drawing import tank_drawing
from workbench.scaling.error.drawing import TERM_WORDS, budget_drawing
from workbench.scaling.measured.drawing import measured_drawing
from workbench.scaling.warnings.drawing import replay_drawing

RUN = State("run", "off", "running")
SVG = "{http://www.w3.org/2000/svg}"


def example(name):
    return shipped(name)


def whole(drawing):
    """The parsed drawing, with everything that stands in it on the sheet."""
    root = ElementTree.fromstring(str(drawing))
    _, _, width, height = map(float, root.get("viewBox").split())
    assert root.get("aria-label")
    assert "nan" not in str(drawing).lower().replace("name", "")
    for text in root.iter(f"{SVG}text"):
        x, y, size = (float(text.get(key)) for key in ("x", "y", "font-size"))
        assert 0 <= y <= height
        length = 0.62 * size * len(text.text or "")
        left = {"start": x, "middle": x - length / 2, "end": x - length}[text.get("text-anchor")]
        assert left >= -4
        assert left + length <= width + 30
    for path in root.iter(f"{SVG}path"):
        for x, y in re.findall(r"[ML](-?[\d.]+) (-?[\d.]+)", path.get("d")):
            assert -30 <= float(x) <= width + 30
            assert -30 <= float(y) <= height + 30
    return root


@pytest.mark.parametrize("span", [1e-12, 0.37, 1.0, 33.0, 4000.0, 9.999e11, 1e12, 1e300])
@pytest.mark.parametrize("most", [5, 6, 12, 14])
def test_a_round_step_goes_into_any_span_and_no_lesser_one_does(span, most):
    step = round_step(span, most)
    assert span / step <= most * (1 + 1e-6)
    assert span / (step / 2.5) > most * (1 - 1e-6)
    assert f"{step:.0e}"[0] in "125"


@pytest.mark.parametrize("name", ["van", "single_seater", "sidecar", "fire_tender"])
def test_every_curve_of_the_examples_is_drawn_with_its_rows(name):
    job = example(name)
    for channel in job.chains:
        sender = job.heard(channel)
        if sender is None:
            continue
        root = whole(scaling_drawing(channel, sender, job.input_of(channel), channel.true_running))
        marks = [g for g in root.iter(f"{SVG}g") if g.get("data-row") is not None]
        assert len(marks) == len(channel.scaling.table)
        assert [float(g.get("data-x")) for g in marks] == pytest.approx(
            [x for x, _ in channel.scaling.table], rel=1e-4
        )
        assert all(g.get("role") == "slider" and g.get("tabindex") == "0" for g in marks)


def test_the_scale_of_the_drawing_leads_back_to_the_row():
    """What the page's script does with a pointer: place -> reading and what comes in."""
    job = example("van")
    channel = job.chain("coolant")
    root = whole(scaling_drawing(channel, job.sender(channel.sender), job.input_of(channel), None))
    scale = next(g for g in root.iter(f"{SVG}g") if g.get("data-scale") is not None)
    s = {
        key.removeprefix("data-"): float(value)
        for key, value in scale.attrib.items()
        if key.startswith("data-") and value
    }
    for mark in (g for g in root.iter(f"{SVG}g") if g.get("data-row") is not None):
        box = next(r for r in mark.iter(f"{SVG}rect") if r.get("class") == "row-mark")
        px, py = float(box.get("x")) + 4, float(box.get("y")) + 4
        y = s["low"] + (px - s["left"]) / (s["right"] - s["left"]) * (s["high"] - s["low"])
        up = s["bottom"] + (s["floor"] - py) / (s["floor"] - s["top"]) * (s["most"] - s["bottom"])
        assert y == pytest.approx(float(mark.get("data-y")), abs=0.2)
        assert (10**up if s["log"] else up) == pytest.approx(float(mark.get("data-x")), rel=0.01)


def test_runs_stand_where_they_were_read():
    job = example("single_seater")
    channel = job.chain("road speed")
    found = calibration_of(channel.road)
    root = whole(runs_drawing(channel.road.runs, found, shown_over_true(job, channel)))
    dots = [float(c.get("cx")) for c in root.iter(f"{SVG}circle")]
    speeds = [run.gps_kmh for run in channel.road.runs]
    assert np.corrcoef(dots, speeds)[0, 1] == pytest.approx(1.0, abs=1e-6)
    odd = replace(
        channel.road,
        runs=(*channel.road.runs, SpeedRun(60.0, 75.0), SpeedRun(110.0, 118.7), SpeedRun(70.0, 75.5)),
    )
    crossed = calibration_of(odd)
    assert crossed.outliers == (4,)
    assert "crossed" in str(runs_drawing(odd.runs, crossed, None))


def test_the_tank_is_drawn_with_its_fillings():
    tank = example("fire_tender").chain("fuel level").tank
    root = whole(tank_drawing(tank, curve_of(tank)[0]))
    assert len(list(root.iter(f"{SVG}circle"))) == len(tank.fillings)
    shape = replace(tank, fillings=(), shape="lying cylinder")
    whole(tank_drawing(shape, curve_of(shape)[0]))


@pytest.mark.parametrize(
    ("name", "key"),
    [("van", "coolant"), ("van", "oil pressure"), ("fire_tender", "fuel level"), ("single_seater", "gear")],
)
def test_the_budget_names_every_part_that_counts(name, key):
    job = example(name)
    channel = job.chain(key)
    budget, _ = channel_budget(build(job), RUN, channel)
    drawing = budget_drawing(channel, budget, float(budget.y[20]))
    words = [text.text for text in whole(drawing).iter(f"{SVG}text")]
    most = float(budget.worst_case.max())
    for term, errors in budget.terms.items():
        counts = float(np.abs(errors).max()) >= 1e-3 * 1.04 * most
        assert (TERM_WORDS[term] in words) is counts


@pytest.mark.parametrize("kind", ["beta", "steinhart_hart", "linear", "pchip"])
def test_measured_points_are_drawn_on_every_law(kind):
    sender = example("van").sender("coolant sender")
    sender = replace(sender, measured=(*sender.measured, Measured(320.0, 78.0)))
    fit = fit_curve(kind, tuple((m.x, m.y) for m in sender.measured))
    root = whole(measured_drawing(sender, fit))
    assert len([c for c in root.iter(f"{SVG}circle") if c.get("class") == "run-mark"]) == 5


@pytest.mark.parametrize(
    ("key", "kind", "fault"),
    [("oil pressure", "oil_pressure", 0.2), ("coolant", "temperature", 140.0), ("battery", "voltage", 11.0)],
)
def test_a_warning_is_drawn_with_its_lamp(key, kind, fault):
    channel = example("van").chain(key)
    seen = replay(channel.alarm, kind, channel.true_running or 13.8, fault)
    root = whole(replay_drawing(channel, channel.alarm, seen))
    lit = [r for r in root.iter(f"{SVG}rect") if r.get("class") in ("stop-fill", "act-fill")]
    assert len(lit) == len(seen.false) + len(seen.caught)


def test_round_figures_along_an_axis():
    assert ticks(0, 100, 5) == [0, 20, 40, 60, 80, 100]
    assert ticks(-0.3, 0.3, 4) == [-0.2, 0.0, 0.2]
    assert decades(8, 600) == [10, 20, 50, 100, 200, 500]
    across = axis(0, 10, 50, 150)
    assert (across(0), across(5), across(10)) == (50, 100, 150)
    assert axis(3, 3, 0, 10)(3) == 0
