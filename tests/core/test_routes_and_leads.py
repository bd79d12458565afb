"""Runs along the plan, extensions, offers at openings, supports, colours."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.errors import BadInput
from metrolex.harness.check import harness_findings
from metrolex.harness.colours import colour_findings, colour_words
from metrolex.harness.cut_list import cut_list, label_for, pack_reels, purchases
from metrolex.harness.extension import STAGGER_M, extension_findings, extension_of, good_for_splice
from metrolex.harness.openings import crossing_of, offers_for, opening_findings, wires_through
from metrolex.harness.protection import bundle_of, protection_findings
from metrolex.harness.runs import plan_run, run_findings
from metrolex.harness.supports import passed_words, support_findings
from metrolex.job import Beside, Conductor, End, Opening, Plug, Run, Segment, State, Way, WireLook, Zone
from metrolex.jobfile import EXAMPLES, example_job_data, job_from_data
from metrolex.layout.routes import find_route, laid, route_of, way_cost_m
from metrolex.layout.templates import layout_called, layouts
from metrolex.topology import topology_of
from metrolex.twin import build
from metrolex.twin.run import solve
from tests.big import big_job
from tests.jobs import shipped, shown_by, small_job, van, with_part


def codes(findings):
    return {f.code for f in findings}


def test_every_layout_hangs_together():
    for key, words in layouts():
        layout = layout_called(key)
        job = replace(small_job(), zones=layout.zones, ways=layout.ways, openings=layout.openings)
        assert words
        for zone in layout.zones:
            assert find_route(job, layout.zones[0].id, zone.id), (key, zone.id)
            assert zone.x + zone.w <= 100
            assert zone.y + zone.h <= 60
    with pytest.raises(BadInput, match="layout"):
        layout_called("submarine")


COSTS = [
    ({}, None, 1.0),
    ({"peak_degc": 100}, None, 1.5),
    ({"peak_degc": 200}, None, 4.0),
    ({"moving": True}, None, 1.8),
    ({"wet": True}, None, 1.4),
    ({}, "new", 5.0),
    ({}, "there", 1.0),
    ({"tied_to": ("fuel line",)}, None, 1.0),  # said, not gone round
    ({"tied_to": ("clips",)}, None, 1.0),
]


@pytest.mark.parametrize(("facts", "made", "cost"), COSTS)
def test_what_a_way_counts_for(facts, made, cost):
    hole = Opening("o", "Hole", 20.0, made=made) if made else None
    assert way_cost_m(Way("w", "a", "b", 1.0, **facts), hole) == pytest.approx(cost)


def test_a_run_takes_its_stretches_from_the_plan_and_follows_it():
    job = van()
    run = job.run("gearbox run")
    assert [s.name for s in laid(job, run).segments] == [
        "test port along the gearbox",
        "rear of head to bulkhead",
        "bulkhead grommet to dash",
        "dash to pillar pod",
    ]
    # By hand: (0.9 + 0.85 + 0.7 + 1.1) x 1.05 slack + 0.3 ends + 2 x 0.05 where it moves.
    assert pytest.approx(4.1275) == 3.55 * 1.05 + 0.3 + 0.1
    assert plan_run(laid(job, run)).length_m == 4.13  # to the centimetre, as it is cut
    longer = with_part(job, "ways", "w9", length_m=2.1)
    wire = next(w for w in job.conductors if w.run == "gearbox run")
    assert topology_of(longer).lengths_m[wire.id] - topology_of(job).lengths_m[wire.id] == pytest.approx(1.05)
    volts = [solve(build(j), State("run", "off", "running")).solution.currents for j in (job, longer)]
    assert volts[0] != volts[1]


def test_a_wire_through_an_opening_is_known_by_its_path():
    job = van()
    crossing = wires_through(job, job.opening("bulkhead grommet"))
    assert {w.run for w in crossing} == {"coolant run", "gearbox run", "oil pressure run"}
    moved = with_part(job, "ways", "w5", opening=None)
    assert not wires_through(moved, job.opening("bulkhead grommet"))


def test_no_way_through_is_a_stop_and_one_zone_is_only_its_ends():
    job = van()
    cut = replace(job, ways=tuple(w for w in job.ways if "pillar" not in (w.a, w.b)))
    assert "no_way_through" in codes(run_findings(cut))
    here = with_part(job, "runs", "feed run", start="dash left", finish="dash left")
    assert plan_run(laid(here, here.run("feed run"))).length_m == pytest.approx(here.run("feed run").ends_m)
    assert route_of(here, Run("r", "By hand")) is None


def lead(supplied, *segments, thermocouple_type=""):
    run = Run("coolant run", "Lead", segments, 0.0, 0.2, supplied, thermocouple_type=thermocouple_type)
    return replace(
        small_job(),
        runs=(run,),
        conductors=tuple(
            replace(w, run=run.id) if w.id in ("W4", "W5") else w for w in small_job().conductors
        ),
    )


HOT, COOL, WET, MOVES = (
    Segment("hot", 1.0, 200),
    Segment("cool", 1.0, 50),
    Segment("wet", 1.0, 50, wet=True),
    Segment("moves", 1.0, 50, True),
)


@pytest.mark.parametrize(
    ("supplied", "segments", "where", "at"),
    [
        (1.5, (HOT, COOL, COOL), "cool", 1.3),
        (2.5, (COOL, HOT, COOL), "cool", 2.3),
        (1.9, (COOL, HOT, COOL), "cool", 1.0),
        (1.5, (COOL, WET), "cool", 1.0),
        (1.5, (HOT, MOVES), None, None),
        (0.9, (HOT, COOL), None, None),
    ],
)
def test_the_splice_lies_cool_dry_and_still(supplied, segments, where, at):
    job = lead(supplied, *segments)
    found = extension_of(job, job.runs[0])
    assert (found.splice_in.name if found.splice_in else None) == where
    assert found.splice_at_m == (pytest.approx(at) if at else None)
    assert ("no_place_for_splice" in codes(extension_findings(job))) == (where is None)
    if where:
        assert good_for_splice(found.splice_in)
        (first, a), (second, b) = found.joints_m()
        assert (first, second) == ("W4", "W5")
        assert a - b == pytest.approx(STAGGER_M)


def test_a_lead_that_reaches_and_one_that_is_cut_need_no_extension():
    assert extension_of(lead(5.0, COOL), lead(5.0, COOL).runs[0]) is None
    assert extension_of(lead(None, COOL), lead(None, COOL).runs[0]) is None


def test_a_thermocouple_says_what_copper_would_do():
    job = lead(1.5, HOT, COOL, COOL, thermocouple_type="K")
    found = extension_of(job, job.runs[0])
    # The channel stands at 80 degC; the joint lies at 50 degC, the gauge at 25: about 25 degrees too low.
    assert found.copper_error_degc == pytest.approx(-25, abs=1.5)
    assert "thermocouple_extended" in codes(extension_findings(job))


def test_a_data_pair_runs_twisted():
    job = shipped("single_seater")
    assert "pair_not_twisted" not in codes(extension_findings(job))
    pair = [w.id for w in job.conductors if w.sheath.twist]
    assert "pair_not_twisted" in codes(extension_findings(with_part(job, "conductors", pair[0], twist="")))


def tight(**facts):
    job = van()
    opening = replace(
        job.opening("bulkhead grommet"),
        hole_mm=16.0,
        there_mm=0.0,
        plugs=(Plug("plug", 24.0, 15.0),),
        **facts,
    )
    return replace(job, openings=(opening, *job.openings[1:]))


def test_offers_where_a_plug_does_not_pass():
    job = tight(edge="grommet")
    offers = offers_for(job, crossing_of(job, job.openings[0]))
    words = {o.words.split(" ")[0]: o for o in offers}
    assert words["Take"].works
    assert not words["Slit"].works  # 24 x 15 is 28.3 mm across, the sheet under a 16 mm grommet is open 20 mm
    assert words["A"].figure == "40 mm"  # 32 mm bore is the first above 28.3, its sheet hole 40
    assert [o.works for o in offers] == sorted((o.works for o in offers), reverse=True)
    wide = replace(job, openings=(replace(job.openings[0], hole_mm=40.0), *job.openings[1:]))
    assert not offers_for(wide, crossing_of(wide, wide.openings[0]))


SUPPORTS = [
    ("fuel line", "stop"),
    ("brake line", "stop"),
    ("steering column", "stop"),
    ("coolant hose", "caution"),
    ("heat shield", "caution"),
]


@pytest.mark.parametrize(("word", "grade"), SUPPORTS)
def test_what_never_carries_a_lead(word, grade):
    by_hand = (Segment("along it", 1.0, tied_to=("clips", word)),)
    job = with_part(van(), "runs", "feed run", start=None, finish=None, segments=by_hand)
    assert ("tied_to_forbidden", grade) in {(f.code, f.grade) for f in support_findings(job)}


def test_airbags_are_asked_before_a_lead_lies_there():
    assert "airbag_not_asked" in codes(support_findings(with_part(van(), "zones", "pillar", airbag="")))
    assert "airbag_here" in codes(support_findings(with_part(van(), "zones", "pillar", airbag="there")))
    assert not codes(support_findings(van())) & {"airbag_not_asked", "airbag_here"}


def test_walls_pedals_and_plugs_out_of_reach():
    assert "wall_without_opening" in codes(support_findings(_walled()))
    led = with_part(van(), "runs", "feed run", via=("footwell",))
    assert "near_pedals" in codes(support_findings(led))
    assert "plug_out_of_reach" in codes(
        support_findings(with_part(van(), "runs", "coolant run", plug="console"))
    )


def _walled():
    job = van()
    ways = (*job.ways, Way("w99", "engine top", "dash left", 0.2))
    return replace(job, ways=ways)


def test_colours():
    assert colour_words("RD", "WH") == "red with a white stripe"
    with pytest.raises(BadInput, match="no wire colour 'purple'"):
        Conductor("W", End("tap", "T1"), End("ground", "G"), 0.5, look=WireLook("purple"))
    job = van()
    assert "colour_changes" in codes(colour_findings(job))
    same = with_part(job, "conductors", "W20", colour="WH")
    assert "colour_clash" in codes(colour_findings(same))
    assert "colour_clash" not in codes(colour_findings(with_part(same, "conductors", "W20", mark="VT")))


def test_wires_laid_by_rule_are_told_apart():
    for name in EXAMPLES:
        assert "colour_clash" not in codes(harness_findings(shipped(name)))


def test_the_cut_list_names_ends_terminals_and_labels():
    cut = next(c for c in cut_list(van()) if c.wire.id == "W3")
    assert (cut.a, cut.a_terminal) == ("T3 at F14", "lead of the fuse tap")
    assert label_for(cut, "a")[1] == f"{cut.a} < {cut.b}"
    assert label_for(cut, "b") == ("W3 OG", f"{cut.b} < {cut.a}")


REELS = [
    ([3.0], [5]),
    ([4.7], [5]),
    ([4.9], [10]),
    ([2.0, 2.0], [5]),
    ([4.0, 4.0], [5, 5]),
    ([4.0, 4.0, 1.0], [10]),
    ([9.0, 9.0, 9.0], [50]),
    ([24.0, 24.0], [50, 50]),
    ([], []),
]


@pytest.mark.parametrize(("lengths", "reels"), REELS)
def test_reels_hold_every_piece_whole(lengths, reels):
    pieces = [(f"W{i}", length) for i, length in enumerate(lengths)]
    found = pack_reels(pieces)
    assert sorted(name for _, names in found for name in names) == sorted(name for name, _ in pieces)
    for reel, names in found:
        assert sum(length for name, length in pieces if name in names) * 1.05 <= reel + 1e-9
    assert sum(m for m, _ in found) <= sum(reels)


def test_what_to_buy_covers_the_cut_list():
    job = big_job(8)
    bought = purchases(job)
    assert sum(p.needed_m for p in bought) == pytest.approx(1.05 * sum(c.length_m for c in cut_list(job)))
    assert all(sum(p.reels_m) >= p.needed_m - 1e-9 for p in bought)


def test_zones_and_ways_that_cannot_be_meant_are_refused():
    data = example_job_data()
    for change, field in (
        ({"ways": [{"id": "w", "a": "moon", "b": "pillar", "length_m": 1}]}, "ways[0].a"),
        ({"ways": [{"id": "w", "a": "pillar", "b": "pillar", "length_m": 1}]}, "ways[0].b"),
        (
            {
                "runs": [{"id": "r", "name": "R", "start": "moon"}],
                "channels": [],
                "sources": [],
                "readouts": [],
                "ports": [],
                "conductors": [],
            },
            "runs[0].start",
        ),
        (
            {
                "runs": [{"id": "r", "name": "R", "supplied_m": 0}],
                "channels": [],
                "sources": [],
                "readouts": [],
                "ports": [],
                "conductors": [],
            },
            "runs[0].supplied_m",
        ),
    ):
        with pytest.raises(BadInput) as fault:
            job_from_data(data | change)
        assert fault.value.field == field
    assert Zone("z", "Zone", "dash", 0, 0).w == 14.0


def test_what_a_way_is_tied_to_is_said_and_not_silently_gone_round():
    """The way stays the best one: tied to something else it is fine."""
    before = {way.id for way in route_of(van(), van().run("feed run")).ways}
    tied = next(iter(before))
    job = with_part(van(), "ways", tied, tied_to=("brake line",))
    assert {way.id for way in route_of(job, job.run("feed run")).ways} == before
    found = [f for f in support_findings(job) if f.code == "tied_to_forbidden"]
    assert found
    assert found[0].grade == "stop"


def by_two_holes():
    """Dash and bay with two holes between them, a near and a far one."""
    zones = tuple(
        Zone(key, key, kind, x, 10)
        for key, kind, x in (("dash", "dash", 50), ("bay", "engine bay", 10), ("cab", "footwell", 70))
    )
    holes = (Opening("near", "Near grommet", 20.0), Opening("far", "Far grommet", 20.0))
    ways = (
        Way("w1", "dash", "bay", 0.5, opening="near"),
        Way("w2", "bay", "cab", 2.0, opening="far"),
        Way("w3", "cab", "dash", 0.4),
    )
    return replace(
        van(),
        zones=zones,
        openings=holes,
        ways=ways,
        runs=(Run("r", "R", start="dash", finish="cab", via=("bay",)),),
        conductors=(),
        **shown_by(()),
    )


def test_a_path_does_not_come_back_by_the_hole_it_went_out_by():
    """Out to the bay and back into the cab: 2.0 m by the far hole, though back by the near one is 0.9."""
    job = by_two_holes()
    route = route_of(job, job.runs[0])
    assert [way.id for way in route.ways] == ["w1", "w2"]
    assert not route.twice
    shut = replace(job, ways=tuple(way for way in job.ways if way.id != "w2"))
    back = route_of(shut, shut.runs[0])
    assert [way.id for way in back.ways] == ["w1", "w1", "w3"]
    assert back.twice == ("near",)
    assert "same_hole_twice" in {f.code for f in support_findings(shut)}
    assert "same_hole_twice" not in {f.code for f in support_findings(job)}


@pytest.mark.parametrize("word", passed_words())
def test_what_a_stretch_passes_is_cautioned(word):
    job = with_part(by_two_holes(), "ways", "w1", beside=Beside(passes=(word,)))
    found = [f for f in support_findings(job) if f.code == "passes_by"]
    assert len(found) == 1
    assert word in found[0].reason
    assert found[0].figure.endswith("mm off")
    if word in ("throttle linkage", "belt or fan"):
        assert found[0].grade == "stop"


def test_a_sleeve_that_stands_the_heat_settles_it():
    hot = Segment("past the turbine", 0.3, 220)
    for over, heat_measured, expected in (
        ("", False, {"heat_guessed", "sleeve_needed"}),
        ("glass-fibre sleeve, silicone coated", False, {"heat_guessed"}),
        ("glass-fibre sleeve, silicone coated", True, set()),
        ("split loom or cloth tape", True, {"sleeve_needed"}),
    ):
        segment = replace(hot, beside=Beside(over=over, heat_measured=heat_measured))
        job = replace(van(), runs=(Run("r", "R", (segment,)),), conductors=(), **shown_by(()), openings=())
        assert {f.code for f in protection_findings(job)} == expected


def test_a_service_loop_is_lead_and_a_spare_is_said():
    """1 m at 5 %, 0.3 m for the ends, 0.2 m loop: 1.55 m by hand; of 2.5 m supplied 0.95 are over."""
    run = Run("r", "R", (Segment("a", 1.0),), 5.0, 0.3, 2.5, service_loop_m=0.2)
    found = plan_run(run)
    assert found.length_m == pytest.approx(1.55)
    assert [f.figure for f in found.findings if f.code == "spare_not_said"] == ["0.95 m over"]
    assert not plan_run(replace(run, spare="coiled", spare_at="footwell")).findings
    couple = replace(run, spare="cut off", thermocouple_type="K")
    assert [f.code for f in plan_run(couple).findings] == ["couple_lead_cut"]


def test_a_cable_passes_as_thick_as_it_is():
    """Two wires of 0.5 mm2 are 1.6 mm each; in a cable of 7 mm they want 7."""
    job = van()
    run = next(r for r in job.runs if len([w for w in job.conductors if w.run == r.id]) > 1)
    alone = replace(
        job,
        openings=(Opening("o", "O", 20.0, runs=(run.id,)),),
        runs=(replace(run, start=None, finish=None),),
    )
    bundle = crossing_of(alone, alone.openings[0]).passage.bundle_mm
    cabled = replace(alone, runs=(replace(alone.runs[0], cable_mm=7.0),))
    crossing = crossing_of(cabled, cabled.openings[0])
    assert [lead.od_mm for lead in crossing.leads] == [7.0]
    assert crossing.passage.bundle_mm == pytest.approx(7.0)
    assert bundle != pytest.approx(7.0)
    assert bundle_of(cabled, cabled.runs[0]) == 7.0


def test_plugs_and_leads_to_come_are_judged_before_a_wire_is_laid():
    """A plug of 20 by 15 mm has a diagonal of 25: it does not pass a hole of 22 mm."""
    job = replace(van(), conductors=())
    plug = Plug("plug", 20.0, 15.0)
    for hole_mm, stops in ((22.0, True), (26.0, False)):
        bare = replace(job, openings=(Opening("o", "O", hole_mm, plugs=(plug,)),))
        assert any(f.grade == "stop" for f in opening_findings(bare)) == stops
    run = job.run("gearbox run")
    bare = replace(job, openings=(Opening("o", "O", 3.0, runs=(run.id,)),))
    crossing = crossing_of(bare, bare.openings[0])
    assert [lead.words for lead in crossing.leads] == ["to come, Gearbox oil"] * 2
    assert any(f.code == "bundle_too_thick" for f in opening_findings(bare))


@pytest.mark.thorough
def test_two_hundred_wires_and_more_are_planned_packed_and_drawn():
    job = big_job(40)
    assert len(job.conductors) > 200
    assert all(cut.length_m for cut in cut_list(job))
    assert not {"no_way_through", "wire_without_length"} & codes(harness_findings(job))
    busiest = max(job.openings, key=lambda opening: len(wires_through(job, opening)))
    crossing = crossing_of(job, busiest)
    assert crossing.passage.bundle_mm > 10
    assert crossing.passage.passes or offers_for(job, crossing)[0].works
