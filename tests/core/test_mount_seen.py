"""What is hidden, mirrored and covered: against hand figures, and against rays drawn one by one."""

from __future__ import annotations

import itertools
import math
import random
from dataclasses import replace

import numpy as np
import pytest
import shapely

from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import Display, Fixture, Identity, Job, Mounting, Site, Vehicle, Zone
from metrolex.mount.check import mount_findings, open_mountings
from metrolex.mount.eyes import APART_MM, heads, pair_at
from metrolex.mount.reflect import clear_turn, mirrored, mirrored_of, pictured_of
from metrolex.mount.seen import seen_of, share_words, view_of
from metrolex.mount.shadow import middle_lines, shadow_from
from metrolex.mount.space import AHEAD, axes_of, cast, eye_point, face_normal

SQUARE = [[-300, -200], [300, -200], [300, 200], [-300, 200]]


def site(**facts):
    plain = {
        "id": "dash",
        "name": "Dash",
        "kind": "console",
        "outline": SQUARE,
        "measured": True,
        "airbag": "none",
    }
    nested = {
        "eye": {"eye_back_mm": 700.0, "eye_up_mm": 0.0, "driver": "one"},
        "steering": {},
        "glass": {},
    }
    for name, value in facts.items():
        if name in nested:
            nested[name] |= value
        else:
            plain[name] = value
    return read(Site, plain | nested)


def gauge(**facts):
    housing = {"shape": "round", "body_mm": 52.0, "bezel_mm": 60.0, "depth_mm": 40.0}
    return read(
        Display, {"id": "gauge", "name": "Gauge", "housing": housing, "screen": {"screen_mm": 50.0}} | facts
    )


def panel(**facts):
    housing = {
        "shape": "square",
        "body_mm": 100.0,
        "bezel_mm": 100.0,
        "bezel_high_mm": 100.0,
        "depth_mm": 30.0,
    }
    screen = {"screen_mm": 100.0, "screen_high_mm": 100.0}
    return read(Display, {"id": "gauge", "name": "Panel", "housing": housing, "screen": screen} | facts)


def job_with(place, display=None, mounting=None, *fixtures):
    mounting = mounting or Mounting("m", "gauge", "dash", stands_mm=0.0)
    return Job(
        "j",
        Vehicle(Identity("v")),
        sites=(place,),
        displays=(display or gauge(),),
        mountings=(mounting,),
        fixtures=fixtures,
    )


def seen(place, display=None, mounting=None, *fixtures):
    job = job_with(place, display, mounting, *fixtures)
    return seen_of(job, job.mountings[0])


BAR = {"between": "bar", "hub_back_mm": 350.0, "hub_up_mm": 0.0, "across_mm": 1400.0, "thick_mm": 20.0}


def test_a_bar_half_way_hides_twice_its_thickness():
    """By hand: 20 mm half way to the eye stand before 40 mm of a face 100 mm high, a hair more as a round bar is touched nearer to the eye."""
    found = seen(site(steering=BAR), panel())
    assert found.hidden == pytest.approx(0.40, abs=0.004)
    assert found.hidden >= 0.40
    assert found.one_eye == pytest.approx(found.hidden, abs=1e-4)  # a level bar is the same to both eyes


def test_a_bar_above_the_sight_hides_nothing():
    assert seen(site(steering=BAR | {"hub_up_mm": 60.0}), panel()).hidden == 0.0


def test_a_post_narrower_than_the_eyes_are_apart_hides_nothing_from_both():
    """An upright spoke of 20 mm half way throws two shadows of 40 mm 65 mm apart: each eye misses one, both together nothing."""
    spoke = {
        "between": "wheel",
        "hub_back_mm": 350.0,
        "hub_up_mm": 0.0,
        "across_mm": 900.0,
        "thick_mm": 10.0,
        "rake_deg": 0.0,
        "spokes_deg": [90, 270],
        "spoke_mm": 20.0,
        "turned_deg": 0.0,
    }
    place = site(steering=spoke)
    lines = middle_lines(place)[1:3]  # the spokes alone, without rim and boss
    left, right = (shapely.union_all(shadow_from(eye, lines)) for eye in pair_at(place, eye_point(place)))
    assert left.area > 0
    assert right.area > 0
    assert left.intersection(right).area == pytest.approx(0.0, abs=1e-6)
    apart = left.centroid.x - right.centroid.x
    assert apart == pytest.approx(APART_MM, abs=0.5)


@pytest.mark.thorough
@pytest.mark.parametrize("seed", range(6))
def test_hidden_share_against_rays(seed):
    """2,000 rays from each eye to points of the face; a ray that comes nearer to a middle line than its half thickness is stopped."""
    rnd = random.Random(seed)
    place = site(
        tilt_deg=rnd.uniform(-10, 40),
        turned_right_deg=rnd.uniform(-25, 25),
        eye={"eye_up_mm": rnd.uniform(120, 330)},
        steering={
            "between": "wheel",
            "hub_back_mm": rnd.uniform(260, 380),
            "hub_up_mm": rnd.uniform(-40, 80),
            "across_mm": rnd.uniform(280, 420),
            "rake_deg": rnd.uniform(0, 45),
            "spokes_deg": [0, 180, 270],
        },
    )
    mounting = Mounting(
        "m", "gauge", "dash", x=rnd.uniform(-120, 120), y=rnd.uniform(-80, 120), stands_mm=8.0
    )
    found = seen(place, panel(), mounting)
    lines = middle_lines(place)
    middle = np.array([mounting.x, mounting.y, 8.0])
    points = middle + np.column_stack(
        [*(np.array([rnd.uniform(-50, 50) for _ in range(2000)]) for _ in range(2)), np.zeros(2000)]
    )
    stopped = [
        np.any([_near(eye, points, line) < half for line, half in lines], axis=0)
        for eye in pair_at(place, eye_point(place))
    ]
    both = float(np.mean(stopped[0] & stopped[1]))
    assert found.hidden == pytest.approx(both, abs=0.03)
    assert found.hidden >= both - 0.02  # never says less than is hidden, but for the dice


def _near(eye, points, line):
    """The least distance of each sight line from a middle line, drawn fine."""
    fine = np.vstack([np.linspace(a, b, 8) for a, b in itertools.pairwise(line)])
    ray = points - eye
    length = np.linalg.norm(ray, axis=1)
    ray /= length[:, None]
    off = fine[None, :, :] - eye
    along = np.clip(np.einsum("pj,qj->pq", ray, off[0]), 0, length[:, None])
    return np.linalg.norm(off - along[:, :, None] * ray[:, None, :], axis=2).min(axis=1)


def test_the_wheel_turned_hides_more_where_a_spoke_comes_up():
    wheel = {
        "between": "wheel",
        "hub_back_mm": 330.0,
        "hub_up_mm": 40.0,
        "spokes_deg": [0, 180],
        "turned_deg": 90.0,
        "across_mm": 380.0,
    }
    place = site(eye={"eye_up_mm": 280.0}, steering=wheel)
    found = seen(place, panel(), Mounting("m", "gauge", "dash", y=20.0, stands_mm=8.0))
    assert found.hidden_turned > found.hidden + 0.05
    still = seen(
        site(eye={"eye_up_mm": 280.0}, steering=wheel | {"turned_deg": 0.0}),
        panel(),
        Mounting("m", "gauge", "dash", y=20.0, stands_mm=8.0),
    )
    assert still.hidden_turned == still.hidden == pytest.approx(found.hidden)


def test_whoever_drives_is_looked_from_all_round():
    one, anyone = (
        site(eye={"eye_up_mm": 250.0, "driver": driver}, steering={"between": "wheel", "hub_up_mm": 40.0})
        for driver in ("one", "any")
    )
    assert len(heads(one)) == 1
    assert len(heads(anyone)) == 7
    spots = [Mounting("m", "gauge", "dash", y=y, stands_mm=8.0) for y in (-60.0, 0.0, 60.0)]
    for spot in spots:
        assert seen(anyone, panel(), spot).hidden_anyone >= seen(one, panel(), spot).hidden - 1e-9


def test_the_axes_are_a_rotation_and_tape_measures_keep_their_length():
    for tilt in (-20.0, 0.0, 35.0, 90.0):
        for turn in (-60.0, 0.0, 40.0):
            place = site(tilt_deg=tilt, turned_right_deg=turn)
            rows = axes_of(place).rows
            assert rows @ rows.T == pytest.approx(np.eye(3), abs=1e-12)
            assert np.linalg.det(rows) == pytest.approx(1.0)
            point = axes_of(place).into_panel([30.0, 300.0, 600.0])
            assert np.linalg.norm(point) == pytest.approx(math.hypot(30, 300, 600))
    flat = axes_of(site(tilt_deg=90.0))
    assert flat.into_vehicle([0.0, 0.0, 1.0]) == pytest.approx([0.0, 1.0, 0.0])  # lying flat it looks up
    right = axes_of(site(turned_right_deg=30.0)).into_vehicle([0.0, 0.0, 1.0])
    assert right == pytest.approx([0.5, 0.0, math.sqrt(3) / 2])  # it faces back and to the right


def test_the_sight_line_by_hand():
    """300 up and 700 back to an upright panel: 761.6 mm, 23.2 degrees down, as far askew."""
    found = view_of(
        site(eye={"eye_up_mm": 300.0}),
        Mounting("m", "gauge", "dash", stands_mm=0.0),
        np.array([0.0, 300.0, 700.0]),
    )
    assert found.distance_mm == pytest.approx(math.hypot(300, 700))
    down = math.degrees(math.atan2(300, 700))
    assert [found.down_deg, found.glance_deg, found.angle_deg] == pytest.approx([down] * 3)
    assert found.aside_deg == 0.0
    assert found.parallax_mm == pytest.approx(3.0 * 300 / 700)
    aimed = view_of(
        site(eye={"eye_up_mm": 300.0}),
        Mounting("m", "gauge", "dash", stands_mm=0.0, up_deg=math.degrees(math.atan2(300, 700))),
        np.array([0.0, 300.0, 700.0]),
    )
    assert aimed.angle_deg == pytest.approx(0.0, abs=1e-5)


def test_what_a_gauge_covers_by_hand():
    """A gauge flat on the panel before one of its own size, moved by its radius: the lens of two circles is 39.1 % of one."""
    part = read(
        Fixture,
        {
            "id": "f",
            "site": "dash",
            "name": "Fuel gauge",
            "kind": "instrument",
            "rank": "seen",
            "x": 30,
            "y": 0,
            "wide_mm": 60,
            "high_mm": 60,
            "disc": True,
        },
    )
    found = seen(site(), gauge(), None, part).covers[0]
    lens = 2 / math.pi * math.acos(0.5) - math.sqrt(3) / (2 * math.pi)
    assert found.share == pytest.approx(lens, abs=0.005)
    assert found.words == "Hides a good part of the fuel gauge, 39%."


def test_what_stands_before_the_panel_covers_more_below_a_high_eye():
    part = read(
        Fixture,
        {
            "id": "f",
            "site": "dash",
            "name": "Row of lamps",
            "kind": "tell-tale",
            "rank": "seen",
            "x": 0,
            "y": -45,
            "wide_mm": 60,
            "high_mm": 20,
        },
    )
    place = site(eye={"eye_up_mm": 350.0})
    flush, proud = (
        seen(place, gauge(), Mounting("m", "gauge", "dash", stands_mm=mm), part).covers[0].share
        for mm in (0.0, 60.0)
    )
    assert flush == 0.0
    # 60 mm before it and 350 / 700 down: its lower edge hides 30 mm further down, and more by the way it widens
    assert proud > 0.5


def test_shares_in_words_go_up_with_the_share():
    said = [share_words(share / 100, "face") for share in range(101)]
    assert said[0] == "nothing of the face"
    assert said[100] == "all of the face"
    assert list(dict.fromkeys(said)) == sorted(set(said), key=said.index)


def test_the_mirror_against_the_image_of_the_eye():
    """Ray construction: what the eye sees in a mirror lies on the line from its own image behind the mirror through the point looked at."""
    rnd = random.Random(4)
    for _ in range(50):
        normal = np.array([rnd.uniform(-1, 1), rnd.uniform(-1, 1), rnd.uniform(0.3, 1)])
        normal /= np.linalg.norm(normal)
        eye = np.array([rnd.uniform(-300, 300), rnd.uniform(-300, 300), rnd.uniform(400, 800)])
        image = eye - 2 * (eye @ normal) * normal  # mirror through the origin
        ray = -eye / np.linalg.norm(eye)
        assert mirrored(ray, normal) == pytest.approx(-image / np.linalg.norm(image))


@pytest.mark.thorough
def test_the_windscreen_s_picture_lies_where_the_way_is_shortest():
    """Fermat: of all points of the glass the light goes by the one with the shortest way from face to eye."""
    place = site(
        kind="dash",
        tilt_deg=70.0,
        eye={"eye_up_mm": 350.0},
        glass={"screen_rake_deg": 45.0, "screen_ahead_mm": 400.0},
    )
    mounting = Mounting("m", "gauge", "dash", x=40.0, stands_mm=0.0)
    found = pictured_of(place, mounting)
    axes = axes_of(place)
    face = axes.into_vehicle(np.array([40.0, 0.0, 0.0]))
    eye = np.array([0.0, 350.0, 700.0])
    best = min(
        (
            (np.linalg.norm(glass - face) + np.linalg.norm(glass - eye), glass)
            for across in np.arange(-100, 101, 1.0)
            for along in np.arange(-100, 900, 1.0)
            for glass in [
                np.array([across, along * math.sin(math.pi / 4), -400 + along * math.cos(math.pi / 4)])
            ]
        ),
        key=lambda pair: pair[0],
    )[1]
    ray = (best - eye) / np.linalg.norm(best - eye)
    assert found.below_deg == pytest.approx(math.degrees(math.asin(-ray[1])), abs=0.2)
    assert found.aside_deg == pytest.approx(math.degrees(math.atan2(ray[0], -ray[2])), abs=0.2)
    assert pictured_of(replace(place, glass=replace(place.glass, hood=True)), mounting) is None
    upright = site(kind="dash", glass={"screen_rake_deg": 45.0, "screen_ahead_mm": 400.0}, tilt_deg=0.0)
    assert pictured_of(upright, mounting) is None  # a face that looks at the driver sends nothing forward


def test_a_face_square_to_the_eye_mirrors_the_driver():
    found = mirrored_of(site(), Mounting("m", "gauge", "dash", stands_mm=0.0))
    assert found.behind == "driver"
    assert not found.bright


def test_aimed_as_proposed_no_sun_stands_in_it():
    """The least turn proposed really frees the face, and no smaller one on the way does."""
    place = site(eye={"eye_up_mm": 300.0, "eye_right_mm": 250.0}, glass={"latitude_deg": 50.0})
    for x, y in ((-250.0, 0.0), (250.0, 100.0), (0.0, -150.0)):
        mounting = Mounting("m", "gauge", "dash", x=x, y=y, stands_mm=8.0)
        if not mirrored_of(place, mounting).bright:
            assert clear_turn(place, mounting) is None
            continue
        up, right = clear_turn(place, mounting)
        assert not mirrored_of(place, replace(mounting, up_deg=up, right_deg=right)).bright
        half = replace(mounting, up_deg=round(up * 0.4), right_deg=round(right * 0.4))
        if math.hypot(half.up_deg, half.right_deg) + 1e-9 < math.hypot(up, right):
            assert mirrored_of(place, half).bright


def test_an_eye_in_the_wheel_or_behind_the_panel_is_said():
    wheel = {"between": "wheel", "hub_back_mm": 700.0, "hub_up_mm": 0.0, "spokes_deg": [0], "rake_deg": 0.0}
    with pytest.raises(BadInput, match="in the wheel"):
        seen(site(steering=wheel))
    with pytest.raises(BadInput, match="from its edge or from behind"):
        seen(site(tilt_deg=90.0, eye={"eye_up_mm": -50.0}))
    job = job_with(site(steering=wheel))
    assert "not_seen" in {finding.code for finding in mount_findings(job)}


@pytest.mark.parametrize(
    ("part", "code", "grade"),
    [
        ({"kind": "tell-tale", "rank": "seen"}, "hides", "stop"),
        ({"kind": "switch", "rank": "reached"}, "in_reach", "caution"),
        ({"kind": "airbag", "rank": "free"}, "on_airbag", "stop"),
        ({"kind": "vent", "rank": "free"}, "must_stay_free", "caution"),
    ],
)
def test_ranks_decide_what_is_said(part, code, grade):
    fixture = read(
        Fixture,
        {"id": "f", "site": "dash", "name": "Part", "x": 0, "y": 0, "wide_mm": 40, "high_mm": 40} | part,
    )
    found = [one for one in mount_findings(job_with(site(), gauge(), None, fixture)) if one.code == code]
    assert [one.grade for one in found] == [grade]
    may = replace(fixture, rank="covered", kind="other")
    assert mount_findings(job_with(site(), gauge(), None, may)) == ()


def test_of_a_place_nobody_measured_only_what_may_hurt_is_said():
    """What the usual figures make of it is no finding; an airbag nobody asked about is."""
    place = site(kind="pillar", measured=False, airbag="", eye={"eye_up_mm": 900.0})
    codes = {finding.code for finding in mount_findings(job_with(place))}
    assert codes == {"airbag_not_asked"}
    told = replace(
        job_with(place),
        zones=(read(Zone, {"id": "p", "name": "P", "kind": "pillar", "x": 1, "y": 1, "airbag": "none"}),),
    )
    assert mount_findings(told) == ()
    measured = mount_findings(job_with(replace(place, measured=True, airbag="none")))
    assert "far_from_road" in {finding.code for finding in measured}


def test_an_airbag_said_to_be_there_stops_until_it_is_drawn():
    place = site(kind="column", airbag="there")
    assert [f.grade for f in mount_findings(job_with(place)) if f.code == "airbag_not_drawn"] == ["stop"]
    flap = read(
        Fixture,
        {
            "id": "f",
            "site": "dash",
            "name": "Flap",
            "kind": "airbag",
            "rank": "free",
            "x": 200,
            "y": 0,
            "wide_mm": 50,
            "high_mm": 50,
        },
    )
    assert mount_findings(job_with(place, None, None, flap)) == ()


def test_open_until_each_display_has_a_place_and_its_figures():
    job = job_with(site())
    assert open_mountings(replace(job, mountings=())) == 1
    assert open_mountings(job) == 1  # nobody measured the room behind it
    hole = replace(job.mountings[0].hole, room_mm=80.0, panel_mm=3.0)
    assert open_mountings(replace(job, mountings=(replace(job.mountings[0], hole=hole),))) == 0


def test_straight_ahead_is_the_road():
    assert list(AHEAD) == [0.0, 0.0, -1.0]
    assert face_normal(Mounting("m", "g", "s", up_deg=90.0 - 1e-9))[1] == pytest.approx(1.0)
    assert cast(np.array([0.0, 0.0, 100.0]), [[10.0, 0.0, 50.0]]) == pytest.approx(np.array([[20.0, 0.0]]))
