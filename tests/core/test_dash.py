"""Pages and faces: the first lay-out, what is judged of pages, the made-up drive through the twin, lamps and outputs."""

from __future__ import annotations

import itertools
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from metrolex.acts import dash as acts
from metrolex.acts.channels import remove_channel
from metrolex.dash.check import dash_findings, open_pages, seen_from_mm
from metrolex.dash.drive import MISHAPS, drive_of
from metrolex.dash.faces import figure_mm, first_pages, pages_of, shown_on
from metrolex.dash.lamps import lamps_told
from metrolex.dash.lit import Lit, lit_now
from metrolex.dash.own_lamps import own_lamp_findings
from metrolex.errors import BadInput
from metrolex.harness.translate import plug_findings
from metrolex.job import FACES, Face, ShiftPlan, State
from metrolex.jobfile import EXAMPLES, job_from_text, job_to_text
from metrolex.mount.sight import arcmin_of
from metrolex.tables import load_table
from metrolex.twin import build, readings, solve
from tests.jobs import shipped, van, with_facts


def seater():
    return shipped("single_seater")


def tender():
    return shipped("fire_tender")


def codes(job):
    return {finding.code for finding in dash_findings(job)}


def cells(face):
    return {
        (column, row)
        for column in range(face.column, face.column + face.columns)
        for row in range(face.row, face.row + face.rows)
    }


def with_screen(job, **facts):
    return replace(job, displays=tuple(with_facts(d, **facts) if d.id == "dash" else d for d in job.displays))


def bare(job):
    return replace(job, pages=(), faces=())


# the first lay-out


@given(columns=st.integers(1, 12), rows=st.integers(1, 12), pages=st.integers(1, 6))
def test_the_first_lay_out_shows_every_channel_once_and_nothing_overlaps(columns, rows, pages):
    job = with_screen(bare(seater()), columns=columns, rows=rows, holds_pages=pages)
    laid = first_pages(job, job.display("dash"))
    for _, faces in laid:
        taken = [cell for face in faces for cell in cells(face)]
        assert len(taken) == len(set(taken))
        assert all(1 <= column <= columns and 1 <= row <= rows for column, row in taken)
    shown = [face.channel for _, faces in laid for face in faces]
    assert sorted(shown) == sorted(chain.channel for chain in job.chains if chain.display == "dash")
    if columns * rows * pages >= len(shown):
        assert len(laid) <= pages


def test_what_must_be_read_fastest_stands_first():
    job = bare(seater())
    (_, faces), *_ = first_pages(job, job.display("dash"))
    weight = load_table("holds")["order"]
    measured = {channel.id: channel.measurand for channel in job.channels}
    weights = [weight[measured[face.channel]]["weight"] for face in faces]
    assert weights == sorted(weights, reverse=True)


def test_a_display_draws_only_what_it_can():
    job = with_screen(bare(seater()), faces=("figure",))
    assert {face.kind for _, faces in first_pages(job, job.display("dash")) for face in faces} == {"figure"}


def test_laid_out_once_and_then_one_s_own():
    job = acts.lay_out(bare(tender()), "dash")
    assert open_pages(bare(tender())) == 1
    assert open_pages(job) == 0
    assert all(page.made for page in pages_of(job, "dash"))
    with pytest.raises(BadInput, match="has pages already"):
        acts.lay_out(job, "dash")
    assert job_from_text(job_to_text(job)).faces == job.faces


# faces


def test_figures_by_hand():
    """A screen 87 mm high of 4 rows: a face of two rows is 43.5 mm, its figures 46 % of that, so long as they go into its width."""
    display = tender().display("dash")
    face = Face("f", "p", "figure", columns=6, rows=2)
    assert figure_mm(display, face, 3) == pytest.approx(0.46 * 87 / 2)
    narrow = replace(face, columns=1)
    assert figure_mm(display, narrow, 4) == pytest.approx(0.9 * (154 / 6) / (0.62 * 4))


def test_scale_zone_and_levels_come_from_the_readout():
    (page,) = pages_of(tender(), "dash")
    faces = {face.label: face for face in page.faces}
    oil = faces["Oil pressure"]
    assert (oil.low, oil.high, oil.warn_low, oil.warn_high) == (0.0, 10.0, 0.8, None)
    assert oil.normal[0] < 3.5 < oil.normal[1]
    assert oil.share(5.0) == 0.5
    assert oil.share(20.0) == 1.0
    assert oil.share(None) is None
    assert faces["Charge"].chain is None


def test_a_zone_said_is_the_zone_drawn():
    job = tender()
    face = next(one for one in job.faces if one.channel == "coolant")
    after = acts.set_face(job, face.id, {"normal_low": 82.0, "normal_high": 96.0, "low": 50.0})
    now = next(one for page in pages_of(after, "dash") for one in page.faces if one.face.id == face.id)
    assert now.normal == (82.0, 96.0)
    assert (now.low, now.high) == (50.0, 130.0)
    with pytest.raises(BadInput, match="above the low end"):
        acts.set_face(job, face.id, {"low": 90.0, "high": 80.0})


# what is judged


def test_the_demo_pages_are_sound():
    for name in EXAMPLES:
        assert dash_findings(shipped(name)) == ()


def test_pages_nobody_laid_out_are_not_judged():
    assert dash_findings(with_screen(bare(seater()), figure_mm=0.5, holds_pages=1, faces=("lamp",))) == ()


def test_a_channel_off_every_page_is_said_and_its_warning_more_so():
    job = tender()
    gone = {face.channel: acts.remove_face(job, face.id) for face in job.faces if face.channel}
    assert codes(gone["road speed"]) == {"on_no_page"}
    assert codes(gone["coolant"]) == {"warning_on_no_page"}


def test_twice_on_a_page_is_a_note():
    job = acts.move_face(tender(), tender().faces[0].id, 1, 1)
    job = acts.set_face(job, next(f.id for f in job.faces if f.channel == "battery"), {"channel": "coolant"})
    assert "twice_on_a_page" in codes(job)


def test_faces_that_overlap_or_stand_over_the_edge():
    job = tender()
    face = next(one for one in job.faces if one.channel == "coolant")
    assert codes(acts.set_face(job, face.id, {"column": 4})) == {"faces_overlap"}
    assert "off_the_page" in codes(acts.set_face(job, face.id, {"column": 6, "columns": 4}))
    assert codes(acts.move_face(job, face.id, 99, 99)) == {"faces_overlap"}  # kept on the page


def test_a_page_without_a_face_and_more_pages_than_it_holds():
    job = acts.set_page(tender(), "", {"display": "dash", "name": "Empty"})
    assert codes(job) == {"empty_page"}
    fewer = with_screen(job, holds_pages=1)
    assert {"empty_page", "too_many_pages"} <= codes(fewer)
    with pytest.raises(BadInput, match="holds 1"):
        acts.set_page(fewer, "", {"display": "dash", "name": "One more"})


def test_a_kind_the_display_cannot_draw():
    assert "face_not_drawn" in codes(with_screen(tender(), faces=("figure", "bar", "lamp")))


def test_a_scale_that_ends_in_the_normal_zone_or_before_its_warning():
    job = tender()
    face = next(one for one in job.faces if one.channel == "coolant")
    assert codes(acts.set_face(job, face.id, {"high": 100.0})) == {"ends_in_normal", "warning_off_the_scale"}
    assert codes(acts.set_face(job, face.id, {"high": 140.0})) == set()


def test_figures_too_small_for_the_eye_s_distance():
    """By hand: at the eye's distance 12 minutes of arc are what is read at the least."""
    job = with_screen(tender(), screen_high_mm=18.0)
    assert "figures_small" in codes(job)
    distance = seen_from_mm(job, job.display("dash"))
    for page in pages_of(job, "dash"):
        for face in page.faces:
            small = arcmin_of(face.figure_mm, distance) < 16
            said = any(
                f.code == "figures_small" and f"of {face.label} are" in f.reason for f in dash_findings(job)
            )
            assert said == (small and face.face.kind != "lamp")
    unmeasured = replace(job, sites=tuple(replace(site, measured=False) for site in job.sites))
    assert codes(unmeasured) == set()  # what the usual figures make of it is no finding


def test_two_lamps_side_by_side_that_look_alike():
    job = tender()
    first, second = (one for one in job.faces if one.lamp)
    job = acts.set_face(acts.set_face(job, first.id, {"lamp": "turn_left"}), second.id, {"lamp": "low_fuel"})
    job = replace(job, cluster=())
    assert "colours_alike" in codes(job)


# acts


def test_a_face_more_where_there_is_room_and_none_where_there_is_not():
    job = tender()
    with pytest.raises(BadInput, match="is full"):
        acts.add_face(job, "page 1", "coolant")
    fuel = next(one.id for one in job.faces if one.channel == "fuel level")
    after = acts.add_face(acts.remove_face(job, fuel), "page 1", "fuel level")
    assert {
        (one.column, one.row, one.columns, one.rows) for one in after.faces if one.channel == "fuel level"
    } == {(3, 3, 2, 2)}
    for wrong in ({"channel": "nobody"}, {}):
        with pytest.raises(BadInput):
            acts.add_face(job, "page 1", **wrong)
    with pytest.raises(BadInput, match="page"):
        acts.add_face(job, "page 9", "coolant")


def test_pages_change_places_and_go_with_their_faces():
    job = seater()
    first, second = (page.id for page in job.pages)
    assert [page.id for page in acts.move_page(job, first, 1).pages] == [second, first]
    assert acts.move_page(job, first, -1) == job
    gone = acts.remove_page(job, first)
    assert {face.page for face in gone.faces} == {second}
    for act in (
        lambda: acts.move_page(job, "x", 1),
        lambda: acts.set_face(job, "x", {}),
        lambda: acts.move_face(job, "x", 1, 1),
    ):
        with pytest.raises(BadInput):
            act()


def test_a_channel_taken_out_takes_its_faces_along():
    job = remove_channel(tender(), "battery")
    assert all(face.channel != "battery" for face in job.faces)
    assert "battery" not in shown_on(job, pages_of(job, "dash"))


# the drive


@pytest.mark.thorough
@pytest.mark.parametrize("name", EXAMPLES)
def test_the_drive_shows_what_the_twin_shows(name):
    """At warm idle every face of the drive that has stood still is what the twin shows there, but for what still warms up."""
    job = shipped(name)
    network = build(job)
    drive = drive_of(network)
    (last,) = (moment for moment in drive.moments if moment.second == 124.0)
    still = readings(solve(network, State("run", "off", "running")))
    counted = ("engine_speed", "road_speed", "gear", "temperature")
    for chain in job.chains:
        if not chain.measurand.endswith(counted):
            assert last.shown[chain.id].text == still[chain.id].text


def test_cranking_pulls_the_supply_down_and_charging_lifts_it():
    drive = drive_of(build(van()))
    volts = {moment.second: moment.shown["battery"].value for moment in drive.moments}
    assert volts[4.5] < volts[2.0] < volts[34.0]


@pytest.mark.thorough
def test_each_mishap_is_seen_by_whom_it_concerns():
    network = build(seater())
    calm = {one for moment in drive_of(network).moments if moment.second >= 84 for one in moment.lit.warnings}
    assert calm == set()
    first = {mishap: drive_of(network, mishap).first_lit for mishap, _ in MISHAPS}
    assert first["none"] is None
    assert first["oil"][1] == "Oil pressure"
    assert first["belt"][1] == "Coolant"
    assert first["fuel"][1] == "Fuel pressure"
    assert all(0 < found[0] < 30 for found in first.values() if found)
    with pytest.raises(BadInput, match="mishap"):
        drive_of(network, "meteor")


@pytest.mark.thorough
def test_a_lost_belt_is_read_off_the_volts():
    drive = drive_of(build(tender()), "belt")
    assert drive.first_lit[1] == "Battery"
    before, after = (
        next(m.shown["battery"].value for m in drive.moments if m.second == second)
        for second in (80.0, 100.0)
    )
    assert after < before - 1.0


@pytest.mark.thorough
def test_a_mishap_only_does_what_it_says():
    """Faces of what a mishap does not touch are the same with and without it, moment by moment."""
    network = build(seater())
    plain, oil = drive_of(network), drive_of(network, "oil")
    for one, other in zip(plain.moments, oil.moments, strict=True):
        for chain in seater().chains:
            if chain.measurand not in ("oil_pressure", "oil_temperature"):
                assert one.shown[chain.id].text == other.shown[chain.id].text


# what is lit


def test_tell_tales_glow_with_the_key_until_the_engine_runs():
    job = tender()
    network = build(job)
    faces = {face.label: face for page in pages_of(job, "dash") for face in page.faces}
    for state, glows in (
        (State("off"), False),
        (State("run"), True),
        (State("crank"), True),
        (State("run", "off", "running"), False),
    ):
        lit = lit_now(solve(network, state))
        assert (lit.on(faces["Charge"]), lit.on(faces["Oil"])) == (glows, glows)


def test_a_warning_is_lit_past_its_level_and_silent_below_its_speed():
    """Oil pressure of the van: silent until the engine turns, then by engine speed; coolant above 110."""
    job = van()
    stopped, idle = State("run"), State("run", "off", "running")
    solved = solve(build(job), idle, true={"coolant": 118.0, "oil pressure": 0.3})
    assert lit_now(solved).warnings == {"coolant", "oil pressure"}
    assert lit_now(solve(build(job), stopped)).warnings == set()
    assert lit_now(solve(build(job), idle)) == Lit()


@pytest.mark.thorough
def test_in_the_drive_a_lost_belt_lights_the_charge_lamp_and_lost_oil_the_oil_lamp():
    network = build(tender())
    for mishap, lamp in (("belt", "charge"), ("oil", "oil"), ("none", None)):
        moments = {moment.second: moment.lit.lamps for moment in drive_of(network, mishap).moments}
        assert {"charge", "oil"} <= moments[2.0]
        assert not moments[40.0]
        assert moments[110.0] == ({lamp} if lamp else set())


# lamps and outputs


def test_what_the_old_cluster_told_is_ticked_off():
    told = {one.item.function: one for one in lamps_told(tender())}
    assert told["charge"].now == "Dash, On the road"
    assert "lamp input" in told["turn_left"].now
    assert told["speed"].now == "Dash, On the road"
    assert told["main_beam"].now
    assert told["odometer"].now == "the new display: start value 48 112"  # no channel counts it
    assert told["other"].now == "the new display: tell-tale 5"
    assert told["brakes"].missing  # lost with the cluster, and nobody tells it
    assert not told["anti_lock"].missing  # it never had one


def test_a_lamp_promised_and_on_no_page_stops():
    job = tender()
    charge = next(one.id for one in job.faces if one.lamp == "charge")
    found = [f for f in dash_findings(acts.remove_face(job, charge)) if f.code == "lamp_on_no_page"]
    assert [(f.grade, f.subject) for f in found] == [("stop", "Charge lamp")]
    stays = replace(job, brief=replace(job.brief, cluster_removed=False))
    assert "lamp_on_no_page" not in codes(acts.remove_face(stays, charge))


@pytest.mark.parametrize(
    ("drive", "wanted"),
    [
        ({}, "caution"),
        ({"works_by": "screen switch", "backed_by": "nothing"}, "stop"),
        ({"works_by": "screen switch", "backed_by": "thermo switch"}, None),
        ({"works_by": "level", "works_on": "coolant_temperature", "backed_by": "nothing"}, None),
        ({"works_by": "screen switch", "backed_by": "nothing", "when_dark": "on"}, None),
    ],
)
def test_a_fan_never_hangs_on_a_switch_of_the_screen_alone(drive, wanted):
    job = acts.set_output_use(
        seater(), "dash", "24", {"function": "fan", "drives_a": 0.2, "limit_a": 1.5, "drive": drive}
    )
    found = [f.grade for f in plug_findings(job) if f.code == "fan_on_a_switch"]
    assert found == ([wanted] if wanted else [])
    with pytest.raises(BadInput, match="an output"):
        acts.set_output_use(job, "dash", "20", {"function": "fan"})


def test_every_kind_of_face_has_its_words_and_its_share():
    assert set(FACES) == set(load_table("faces")["figures"]) - {"wide"}
    scales, measured = load_table("faces")["scales"], load_table("measurands")
    assert set(scales) == set(measured)
    assert all(low < high for low, high in scales.values())
    assert set(load_table("faces")["first"].values()) <= set(FACES)
    assert list(itertools.chain(load_table("faces")["lamps"])) == [
        key for key in load_table("faces")["lamps"] if key in load_table("cluster")
    ]


# the lamps a display has of its own


def lamp_codes(job):
    return {f.code: f for f in own_lamp_findings(job)}


def test_shift_points_are_planned_for_the_lamps_there_are():
    job = with_screen(seater(), shift_lamps=8)
    engine = next(c for c in job.chains if c.measurand == "engine_speed" and c.display == "dash")

    def planned(lamps, power=((3000.0, 80.0), (5000.0, 140.0), (7000.0, 150.0))):
        return job.with_chain(replace(engine, shift=ShiftPlan(power, lamps)))

    assert not lamp_codes(planned(8))
    assert not lamp_codes(planned(9, power=()))  # nothing is planned yet
    found = lamp_codes(planned(9))["more_shift_lamps_than_there_are"]
    assert (found.figure, found.place, found.channel) == ("9 for 8", "scaling", engine.id)
    assert not lamp_codes(with_screen(planned(9), shift_lamps=0))  # nobody counted them


def test_readings_that_warn_by_one_lamp_are_told():
    job = with_screen(seater(), warning_lamps=1, faces=("figure",))
    assert "warnings_share_a_lamp" in lamp_codes(job)
    assert not lamp_codes(with_screen(job, faces=("figure", "lamp")))  # it draws as many as are wanted
    assert not lamp_codes(with_screen(job, warning_lamps=0))
    assert not lamp_codes(van())  # a gauge each
