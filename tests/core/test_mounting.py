"""Displays in their holes, held, in pods; outlines typed and traced; stencils of their real size."""

from __future__ import annotations

import io
import itertools
import math
import random
from dataclasses import replace

import ezdxf
import pytest

from metrolex.acts import mount as acts
from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import Mounting, PanelHole, Site
from metrolex.jobfile import EXAMPLES
from metrolex.mount.check import findings_of, mount_findings
from metrolex.mount.dxf import dxf_of
from metrolex.mount.eyes import heads
from metrolex.mount.fitted import fitted, hole_wanted
from metrolex.mount.held import cure_of, glued, hold_called, holds, materials
from metrolex.mount.pod import MOST_IN_POD, normal_up_deg, order_of, pods_of
from metrolex.mount.seen import seen_of, view_of
from metrolex.mount.stencil import KINDS, Disc, Label, Line, stencil_of
from metrolex.mount.templates import site_template, site_templates, suggested_template
from metrolex.mount.trace import Known, outline_text, read_outline, scaled
from metrolex.twin import build
from metrolex.workorder.plan import planned_steps
from tests.core.test_mount_seen import gauge, job_with, panel, site
from tests.jobs import shipped, van, with_facts

MEASURED = PanelHole(hole_mm=52.6, room_mm=90.0, panel_mm=3.0)


def mounted(**facts):
    return replace(Mounting("m", "gauge", "dash", stands_mm=8.0, hole=MEASURED), **facts)


def codes(findings):
    return {finding.code for finding in findings}


# fit


def test_what_is_missing_is_named_and_nothing_is_claimed():
    found = fitted(gauge(housing={"shape": "round", "body_mm": 52.0}), mounted(hole=PanelHole()))
    assert found.fits is None
    assert found.missing == (
        "the bezel's width",
        "the body's depth",
        "the room behind the panel",
        "the panel's thickness",
    )
    assert found.findings == ()


def test_a_round_gauge_by_hand():
    """52 mm in 52.6: 0.6 of play; 40 deep in 90: 50 left."""
    found = fitted(gauge(), mounted())
    assert found.fits
    assert found.across.play_mm == pytest.approx(0.6)
    assert found.across.depth_left_mm == 50.0
    packed = fitted(gauge(), mounted(hole=replace(MEASURED, hole_mm=58.0, packed_mm=2.8)))
    assert packed.across.play_mm == pytest.approx(0.4)


def test_a_cup_brings_it_forward():
    """30 mm before the panel is 22 more than flush: so much more room behind it."""
    shallow = replace(MEASURED, room_mm=20.0)
    assert fitted(gauge(), mounted(hole=shallow)).fits is False
    assert fitted(gauge(), mounted(hole=shallow, stands_mm=30.0)).across.depth_left_mm == pytest.approx(2.0)


def test_a_square_one_is_judged_both_ways():
    tall = panel(
        housing={
            "shape": "square",
            "body_mm": 160.0,
            "body_high_mm": 90.0,
            "bezel_mm": 180.0,
            "bezel_high_mm": 110.0,
            "depth_mm": 30.0,
        }
    )
    hole = PanelHole(hole_mm=161.0, hole_high_mm=88.0, room_mm=60.0, panel_mm=2.0)
    found = fitted(tall, mounted(hole=hole))
    assert found.fits is False
    assert codes(found.findings) == {"hole_small"}
    assert found.upright.play_mm == -2.0
    assert fitted(tall, mounted(hole=replace(hole, hole_high_mm=91.0))).fits


def test_a_hole_to_measure_is_a_little_wider_than_what_goes_in():
    assert hole_wanted(gauge(), mounted(hole=PanelHole(packed_mm=1.0))) == (54.5, 54.5)
    assert hole_wanted(gauge(housing={}), mounted(hole=PanelHole())) is None


def test_the_clamp_counts_only_where_it_holds():
    thick = replace(MEASURED, panel_mm=30.0)
    display = gauge(grip={"grip_from_mm": 1.0, "grip_to_mm": 8.0})
    assert "grip" in codes(fitted(display, mounted(hole=thick)).findings)
    assert "grip" in codes(fitted(display, mounted(hole=thick, held_by=("clamp",))).findings)
    assert fitted(display, mounted(hole=thick, held_by=("press",))).fits


# held


def test_every_way_says_what_to_do_and_whether_it_comes_out():
    for hold in holds():
        assert hold.words
        assert hold.do
        assert hold.undo in ("yes", "with care", "no")
    known = {one.key for one in materials()}
    assert {word for hold in holds() for word in hold.not_on} <= known
    with pytest.raises(BadInput, match="held_by"):
        hold_called("chewing gum")


@pytest.mark.parametrize(
    ("made_of", "ways", "facts", "wanted"),
    [
        ("polypropylene", ("epoxy",), {}, {"does_not_stick", "for_good", "too_hot"}),
        ("abs", ("tape",), {"mass_g": 400.0}, {"too_heavy"}),
        ("abs", ("tape",), {"mass_g": 100.0}, set()),
        ("abs", ("hook_and_loop",), {}, {"too_hot"}),
        ("polycarbonate", ("screw",), {}, {"no_thread_locker"}),
        ("carbon", ("clamp",), {}, {"shiny_panel"}),
        ("soft_vinyl", ("clamp",), {}, {"old_and_brittle"}),
    ],
)
def test_holding_by_material_weight_and_heat(made_of, ways, facts, wanted):
    housing = {"shape": "round", "body_mm": 52.0, "bezel_mm": 60.0, "depth_mm": 40.0} | facts
    place = replace(site(kind="dash"), made_of=made_of)
    job = job_with(place, gauge(housing=housing), mounted(held_by=ways))
    assert codes(mount_findings(job)) - {"far_from_road"} == wanted


def test_glue_waits_in_the_work_order_and_the_plug_goes_in_first():
    job = van()
    mounting = job.mountings[0]
    steps = {}
    for ways in ((), ("epoxy",)):
        held = acts.set_hold(job, mounting.id, ways)
        steps[ways] = {step.key: step.step for step in planned_steps(build(held))}
    key, plug = f"mount {mounting.display}", f"plug_in {mounting.display}"
    assert steps[()][key].wait_minutes == 0
    assert (
        steps["epoxy",][key].wait_minutes
        == cure_of(acts.set_hold(job, mounting.id, ["epoxy"]).mountings[0])
        == 1440
    )
    assert any(need.startswith("Mount ") for need in steps[()][plug].needs)
    assert not any(need.startswith("Mount ") for need in steps["epoxy",][plug].needs)
    assert any(need.startswith("plug_in") or "Plug in" in need for need in steps["epoxy",][key].needs)
    assert glued(replace(mounting, held_by=("press",)))
    assert not glued(replace(mounting, held_by=("tape",)))


# outlines


def test_an_outline_typed_and_written_again():
    text = "0 0\n120; 0\n60, 80\n\n-12,5 7"
    assert read_outline("0 0\n120; 0\n60, 80") == ((0.0, 0.0), (120.0, 0.0), (60.0, 80.0))
    assert read_outline(text)[-1] == (-12.5, 7.0)
    outline = site_template("van").site.outline
    assert read_outline(outline_text(outline)) == outline


@pytest.mark.parametrize("bad", ["1 2 3", "one two", "5", "1 nan"])
def test_a_line_that_is_not_two_numbers_is_named(bad):
    with pytest.raises(BadInput, match="Line 2") as fault:
        read_outline(f"0 0\n{bad}")
    assert fault.value.field == "outline"


def test_traced_dots_come_back_to_scale():
    """A made-up photograph, squeezed across by a third: two distances askew to one another square it up again."""
    rnd = random.Random(2)
    for _ in range(20):
        across, upright = rnd.uniform(0.2, 1.5), rnd.uniform(0.2, 1.5)
        true = [(rnd.uniform(-200, 200), rnd.uniform(-100, 100)) for _ in range(6)]

        def dot(point, across=across, upright=upright):
            return (500 + point[0] / across, 400 - point[1] / upright)

        first = ((0.0, 0.0), (150.0, 10.0))
        second = ((20.0, -40.0), (25.0, 60.0))
        known = [Known(dot(a), dot(b), math.dist(a, b)) for a, b in (first, second)]
        found = scaled(known, [dot(point) for point in true])
        assert (found.across, found.upright) == pytest.approx((across, upright), rel=1e-9)
        assert [value for point in found.outline for value in point] == pytest.approx(
            [value for point in true for value in point], abs=0.06
        )


def test_a_photograph_without_a_scale_or_with_two_that_contradict():
    with pytest.raises(BadInput, match="no scale"):
        scaled([], [(0.0, 0.0)])
    with pytest.raises(BadInput, match="apart"):
        scaled([Known((0, 0), (100, 0), 100.0), Known((0, 50), (100, 50), 130.0)], [(0.0, 0.0)])
    with pytest.raises(BadInput):
        scaled([Known((5, 5), (5, 5), 100.0)], [(0.0, 0.0)])
    with pytest.raises(BadInput):
        scaled([Known((0, 0), (10, 0), 0.0)], [(0.0, 0.0)])
    same = scaled([Known((0, 0), (100, 0), 100.0), Known((0, 50), (100, 50), 102.0)], [(100.0, -100.0)])
    assert same.outline == ((101.0, 101.0),)


def test_an_outline_that_crosses_itself_is_refused():
    job = acts.start_site(van(), "dash")
    with pytest.raises(BadInput, match="crosses itself"):
        acts.trace_outline(job, job.sites[-1].id, [(0, 0), (100, 100), (100, 0), (0, 100)])
    with pytest.raises(BadInput, match="three points"):
        acts.trace_outline(job, job.sites[-1].id, [(0, 0), (100, 0)])
    # two sides that lie on one another, and a point given twice
    for wrong in ([(0, 0), (100, 0), (50, 0), (50, 80)], [(0, 0), (0, 0), (50, 80)]):
        with pytest.raises(BadInput, match="crosses itself"):
            acts.trace_outline(job, job.sites[-1].id, wrong)


# templates and acts


def test_every_template_can_be_seen_and_has_its_kind():
    kinds = {template.site.kind for template in site_templates()}
    assert kinds == {"binnacle", "dash", "pillar", "column", "console", "handlebar"}
    for template in site_templates():
        assert not template.site.measured
        assert heads(template.site)
        assert template.measured_from
    with pytest.raises(BadInput, match="template"):
        site_template("moon")


def test_the_template_offered_goes_by_the_vehicle():
    assert {name: suggested_template(shipped(name)) for name in EXAMPLES} == {
        "van": "pillar",
        "single_seater": "single-seater",
        "sidecar": "handlebar",
        "fire_tender": "van",
    }


def test_two_sites_by_one_template_keep_their_parts_apart():
    job = acts.start_site(acts.start_site(van(), "dash"), "dash", "Second dash")
    assert [one.name for one in job.sites[-2:]] == ["Dash", "Second dash"]
    assert len({part.id for part in job.fixtures}) == len(job.fixtures)
    gone = acts.remove_site(job, job.sites[-1].id)
    assert {part.site for part in gone.fixtures} == {job.sites[-2].id}


def test_a_display_taken_out_takes_its_place_along():
    job = van()
    bare = replace(job, channels=(), sources=(), readouts=(), conductors=(), observations=())
    from metrolex.acts.displays import take_display

    after = take_display(bare, "gauge 1")
    assert [one.display for one in after.mountings] == ["gauge 2", "gauge 3", "gauge 4"]


def test_a_place_is_changed_field_by_field():
    job = van()
    mounting = job.mountings[0]
    after = acts.set_mounting(job, mounting.id, {"panel_mm": 4.0})
    assert after.mountings[0] == replace(mounting, hole=replace(mounting.hole, panel_mm=4.0))
    moved = acts.move_mounting(job, mounting.id, 12.0, 34.0)
    assert moved.mountings[0] == replace(mounting, x=12.0, y=34.0)
    for act in (acts.move_mounting, acts.aim_mounting):
        with pytest.raises(BadInput, match="mounting"):
            act(job, "nobody", 1.0, 1.0)
    with pytest.raises(BadInput):
        acts.set_site(job, job.sites[0].id, {"eye_back_mm": 60.0, "tilt_deg": 90.0, "eye_up_mm": -20.0})


# pods


def test_the_best_order_is_the_best_of_all_orders():
    """Against every order tried: none costs less than the one chosen (own costs, added up by hand)."""
    from metrolex.mount import pod as room

    job = van()
    (found,) = pods_of(job)
    chosen = order_of(job, found)
    total = sum(room._cost(job, one.display, one.best) for one in chosen)
    places = [one.now for one in chosen]
    displays = [one.display for one in chosen]
    for order in itertools.permutations(places):
        assert total <= sum(room._cost(job, d, p) for d, p in zip(displays, order, strict=True)) + 1e-4


def test_oil_pressure_is_read_with_the_least_turn_and_volts_with_the_most():
    job = van()
    site_id = job.sites[0].id
    job = acts.order_pod(job, site_id, "pillar pod")
    turn = {
        one.display: view_of(job.site(one.site), one, heads(job.site(one.site))[0]).glance_deg
        for one in job.mountings
    }
    assert min(turn, key=turn.get) == "gauge 3"
    assert max(turn, key=turn.get) == "gauge 4"
    again = acts.order_pod(job, site_id, "pillar pod")
    assert again.mountings == job.mountings  # the best order stays


def test_a_gauge_of_the_left_bank_stands_on_the_left():
    job = van()
    names = {"gauge 1": "Exhaust gas, right", "gauge 2": "Exhaust gas, left"}
    job = replace(job, displays=tuple(replace(d, name=names.get(d.id, d.name)) for d in job.displays))
    job = acts.start_site(job, "dash")
    job = acts.place_in_pod(job, job.sites[-1].id, "middle", ["gauge 1", "gauge 2"])
    job = acts.order_pod(job, job.sites[-1].id, "middle")
    at = {one.display: one.x for one in job.mountings}
    assert at["gauge 2"] < at["gauge 1"]


def test_a_pod_stands_in_a_row_without_touching():
    job = van()
    heights = sorted(one.y for one in job.mountings)
    assert all(
        b - a == pytest.approx(64.0) for a, b in itertools.pairwise(heights)
    )  # 58 mm bezels, 6 between
    assert codes(mount_findings(job)) == {"far_from_road"}
    close = acts.move_mounting(job, job.mountings[0].id, 0.0, job.mountings[1].y + 30)
    assert "on_one_another" in codes(mount_findings(close))


def test_forty_gauges_do_not_go_into_one_pod():
    job = van()
    many = [job.displays[0].id] * (MOST_IN_POD + 1)
    with pytest.raises(BadInput, match="12 gauges"):
        acts.place_in_pod(job, job.sites[0].id, "pod", many)
    with pytest.raises(BadInput, match="Choose the displays"):
        acts.place_in_pod(job, job.sites[0].id, "pod", [])


@pytest.mark.parametrize("key", ["gauge 1", "gauge 2", "gauge 3"])
def test_turned_so_the_needle_points_up_while_all_is_well(key):
    """By hand: 240 degrees over the scale; turned as proposed, the warm reading stands at the top."""
    job = van()
    display = job.display(key)
    (chain,) = [one for one in job.chains if one.display == key]
    turn = normal_up_deg(job, display)
    share = (chain.true_running - chain.scaling.low) / (chain.scaling.high - chain.scaling.low)
    assert -120 + 240 * share + turn == pytest.approx(0.0, abs=0.06)
    mounting = next(one for one in job.mountings if one.display == key)
    assert acts.turn_normal_up(job, mounting.id).mounting(mounting.id).turn_deg == turn


def test_turned_up_is_refused_where_nobody_said_what_is_normal():
    job = van()
    mounting = next(one for one in job.mountings if one.display == "gauge 4")
    channel = next(one for one in job.channels if one.id == "battery")
    bare = replace(
        job,
        channels=tuple(replace(one, true_running=None) if one is channel else one for one in job.channels),
    )
    with pytest.raises(BadInput, match="not known"):
        acts.turn_normal_up(bare, mounting.id)


# stencils


@pytest.mark.parametrize("kind", KINDS)
def test_a_stencil_s_shapes_lie_in_its_box(kind):
    job = van()
    stencil = stencil_of(job, job.mountings[0], kind)
    left, bottom, right, top = stencil.box
    for shape in stencil.shapes:
        points = (
            [(shape.x - shape.r, shape.y - shape.r), (shape.x + shape.r, shape.y + shape.r)]
            if isinstance(shape, Disc)
            else shape.points
            if isinstance(shape, Line)
            else [(shape.x, shape.y)]
        )
        assert all(left <= x <= right and bottom <= y <= top for x, y in points)


def test_the_drill_template_has_the_hole_as_it_is_wanted():
    job = van()
    mounting = job.mountings[0]
    cut = [s for s in stencil_of(job, mounting, "drill").shapes if isinstance(s, Disc) and s.layer == "cut"]
    assert [2 * disc.r for disc in cut] == [52.6]
    to_measure = replace(mounting, hole=replace(mounting.hole, hole_mm=None))
    cut = [s for s in stencil_of(job, to_measure, "drill").shapes if isinstance(s, Disc) and s.layer == "cut"]
    assert [2 * disc.r for disc in cut] == [52.5]


def test_the_plate_has_every_hole_where_it_stands():
    job = van()
    plate = stencil_of(job, job.mountings[0], "plate")
    holes = {(s.x, s.y) for s in plate.shapes if isinstance(s, Disc) and s.layer == "cut"}
    assert holes == {(one.x, one.y) for one in job.mountings}
    said = {s.words for s in plate.shapes if isinstance(s, Label)}
    assert "0, 96" in said


def test_a_cup_is_as_deep_as_gauge_plug_and_bend():
    job = van()
    cup = stencil_of(job, job.mountings[0], "cup")
    (section,) = [s for s in cup.shapes if isinstance(s, Line) and s.closed and s.layer == "cut"]
    xs = [x for x, _ in section.points]
    assert max(xs) - min(xs) == pytest.approx(42 + 25 + 2.4)  # depth, bend, floor
    discs = sorted(2 * s.r for s in cup.shapes if isinstance(s, Disc))
    assert discs == pytest.approx([52.6, 57.4])  # inside 0.6 wider than the body, wall 2.4


def test_no_stencil_of_a_guess():
    job = van()
    bare = replace(job, displays=tuple(with_facts(d, shape="", body_mm=None) for d in job.displays))
    nowhere = replace(job.mountings[0], hole=PanelHole())
    for kind in ("drill", "cup"):
        with pytest.raises(BadInput):
            stencil_of(bare, nowhere, kind)
    with pytest.raises(BadInput, match="kind"):
        stencil_of(job, job.mountings[0], "poster")


def test_the_dxf_read_back_by_its_own_library():
    job = van()
    text = dxf_of(stencil_of(job, job.mountings[0], "drill"))
    drawing = ezdxf.read(io.StringIO(text))
    assert drawing.units == 4  # millimetres
    circles = [one for one in drawing.modelspace() if one.dxftype() == "CIRCLE" and one.dxf.layer == "CUT"]
    assert [2 * one.dxf.radius for one in circles] == pytest.approx([52.6])
    assert not drawing.audit().errors


# the demo


@pytest.mark.parametrize("name", EXAMPLES)
def test_every_demo_job_is_mounted_and_seen(name):
    job = shipped(name)
    faces = [display for display in job.displays if display.face]
    assert {one.display for one in job.mountings} == {display.id for display in faces}
    for mounting in job.mountings:
        assert seen_of(job, mounting).arcmin is not None
        assert fitted(job.display(mounting.display), mounting).fits is True
        assert not any(finding.grade == "stop" for finding in findings_of(job, mounting))


def test_a_site_read_back_is_the_same():
    for template in site_templates():
        from metrolex.intake import dump

        assert read(Site, dump(template.site)) == template.site
