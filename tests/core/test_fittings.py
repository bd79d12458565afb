"""Connections, joints, drills, stacks."""

from __future__ import annotations

import random

import pytest

from metrolex.errors import BadInput
from metrolex.fittings.connections import alike, all_threads, connection_called, source_of
from metrolex.fittings.drills import plan_hole, tap_drill
from metrolex.fittings.engagement import engage
from metrolex.fittings.fitting import End, Fitting
from metrolex.fittings.joints import dressing, join, tighten
from metrolex.fittings.library import generic_fittings
from metrolex.fittings.stack import end_called, joints_of, make_up, solve_stack
from metrolex.intake import read
from metrolex.ports.wideband import judge_wideband


def port(words: str) -> End:
    return end_called(words, "port", "female")


def sender(words: str) -> End:
    return end_called(words, "sender", "male")


def way(start: str, goal: str, library=None, stock=()):
    return solve_stack(port(start), sender(goal), generic_fittings() if library is None else library, stock)


@pytest.mark.parametrize("thread", all_threads(), ids=lambda t: t.name)
def test_every_thread_is_found_by_its_name_and_is_sound(thread):
    assert connection_called(thread.name) is thread or connection_called(thread.name) == thread
    assert 0 < thread.pitch_mm < thread.major_mm / 3
    assert thread.tapered == (0 < thread.hand_tight_mm < thread.effective_mm)
    assert thread.drill_mm < thread.major_mm
    assert source_of(thread.family)


@pytest.mark.parametrize(
    ("written", "meant"),
    [
        ("1/8 NPT", "1/8-27 NPT"),
        ("1/8-27npt", "1/8-27 NPT"),
        ("m12 x 1.5", "M12x1.5"),
        ("M12X1,5", "M12x1.5"),
        ("R1/8", "1/8-28 BSPT"),
        ("1/8 BSPP", "G1/8"),
        ("AN6", "AN6 flare"),
        ("hose 38", "hose 38 mm"),
        ("tube 3/8 in", "tube 9.5 mm"),
        ("9/16 ORB", "9/16-18 ORB"),
        ("M27x2", "M27x2"),
        ("m10x1.0", "M10x1"),
        ("M4 x 0.7", "M4x0.7"),
    ],
)
def test_threads_are_read_in_the_usual_spellings(written, meant):
    assert connection_called(written).name == meant


@pytest.mark.parametrize(
    ("written", "said"),
    [
        ("1/8 NTP", "Did you mean '1/8-27 NPT'"),
        ("", "There is no thread"),
        ("M10x9", "M10x1"),
        ("hose 500 mm", "3 to 90 mm"),
        ("hose wide", "not a length"),
    ],
)
def test_a_misspelt_thread_offers_the_nearest(written, said):
    with pytest.raises(BadInput, match=said):
        connection_called(written)


def test_look_alikes_are_those_that_start_into_each_other():
    called = connection_called
    assert alike(called("1/8-27 NPT"), called("1/8-28 BSPT"))
    assert alike(called("M10x1"), called("1/8-27 NPT"))
    assert alike(called("9/16-18 ORB"), called("AN6 flare"))
    assert not alike(called("M12x1.5"), called("M10x1"))
    assert not alike(called("M12x1.5"), called("M12x1.5"))
    assert not alike(called("hose 10 mm"), called("M10x1"))


@pytest.mark.parametrize(
    ("male", "female", "seal"),
    [
        ("1/8-27 NPT", "1/8-27 NPT", "sealant"),
        ("1/8-28 BSPT", "G1/8", "sealant"),
        ("M10x1 taper", "M10x1", "sealant"),
        ("M10x1", "M10x1", "washer"),
        ("9/16-18 ORB", "9/16-18 ORB", "o_ring"),
        ("AN6", "AN6", "flare"),
        ("tube 9.5 mm", "tube 9.5 mm", "compression"),
        ("hose 38 mm", "hose 38 mm", "clamp"),
        ("hole 22 mm", "hole 22 mm", "weld"),
        ("G1/8", "1/8-28 BSPT", None),
        ("1/8-27 NPT", "1/8-28 BSPT", None),
        ("AN6", "9/16-18 ORB", None),
        ("hose 38 mm", "hose 40 mm", None),
    ],
)
def test_what_goes_into_what(male, female, seal):
    found = join(connection_called(male), connection_called(female))
    assert (found.seal if found else None) == seal


@pytest.mark.parametrize("thread", all_threads(), ids=lambda t: t.name)
def test_tape_never_goes_on_a_parallel_seal(thread):
    joint = join(thread, thread)
    for service in ("", "oil", "fuel", "exhaust"):
        words = dressing(joint, service)
        assert ("tape two turns" in words) == (thread.tapered and service not in ("fuel", "exhaust"))
    assert tighten(joint, "steel")


def test_alloy_is_tightened_less_than_iron():
    taper, washer = (join(connection_called(n), connection_called(n)) for n in ("1/8-27 NPT", "M14x1.5"))
    assert tighten(taper, "cast_iron") == "Hand-tight, then 2 to 3 turns."
    assert tighten(taper, "aluminium") == "Hand-tight, then 1 to 2 turns."
    assert (tighten(washer, "steel"), tighten(washer, "aluminium")) == ("About 32 N m.", "About 24 N m.")
    wedge = join(connection_called("1/8-28 BSPT"), connection_called("G1/8"))
    assert "splits" in tighten(wedge, "aluminium")
    tee = join(connection_called("tube 9.5"), connection_called("tube 9.5"))
    assert "quarter turn" in tighten(tee, "", "quarter_turn")
    assert "one and a quarter" in tighten(tee, "", "one_and_a_quarter")


def test_a_wall_too_thin_is_refused_with_what_to_do():
    thread = connection_called("1/8-27 NPT")
    thin, sheet, alloy, iron = (
        plan_hole(thread, w, m).findings
        for w, m in ((3, "steel"), (8, "sheet"), (5, "aluminium"), (7, "cast_iron"))
    )
    assert [f.code for f in thin] == [f.code for f in sheet] == ["wall_too_thin"]
    assert "bung" in thin[0].remedy
    assert "3.2 threads" in thin[0].figure
    assert [f.code for f in alloy] == ["few_threads"]
    assert iron == ()


def test_steps_rise_from_the_pilot_to_the_tap_drill():
    for thread in all_threads():
        if not thread.drill_mm and thread.family != "npt":
            continue
        plan = plan_hole(thread, 12, "steel")
        assert list(plan.steps_mm) == sorted(set(plan.steps_mm))
        assert plan.steps_mm[-1] == plan.tap_drill.size_mm
        assert plan.steps_mm[0] == 3.2
        assert max(b - a for a, b in zip(plan.steps_mm, plan.steps_mm[1:], strict=False)) <= 2.3
    assert [f.code for f in plan_hole(connection_called("1/8-27 NPT"), 7, "steel", reamed=True).findings] == [
        "reamer"
    ]
    larger = plan_hole(connection_called("1/8-27 NPT"), 7, "steel", practice="larger")
    assert [f.code for f in larger.findings] == ["mouth_bare"]


@pytest.mark.parametrize(
    ("call", "field"),
    [
        (lambda: plan_hole(connection_called("1/8-27 NPT"), 0, "steel"), "wall_mm"),
        (lambda: plan_hole(connection_called("1/8-27 NPT"), 5, "wood"), "material"),
        (lambda: tap_drill(connection_called("AN6")), "thread"),
        (lambda: tap_drill(connection_called("hose 10")), "thread"),
        (lambda: engage(connection_called("M10x1"), 5), "thread"),
        (lambda: engage(connection_called("1/8-27 NPT"), 0), "wall_mm"),
    ],
)
def test_what_cannot_be_drilled_is_refused(call, field):
    with pytest.raises(BadInput) as fault:
        call()
    assert fault.value.field == field


@pytest.mark.parametrize("fitting", generic_fittings(), ids=lambda f: f.name)
def test_every_generic_fitting_has_two_ends_and_a_name_of_its_own(fitting):
    assert len(fitting.ends) == 2
    assert [f.name for f in generic_fittings()].count(fitting.name) == 1


@pytest.mark.parametrize(
    ("start", "goal", "names", "seals"),
    [
        ("1/8-27 NPT", "1/8-27 NPT", 0, ["sealant"]),
        ("M12x1.5", "1/8-27 NPT", 1, ["washer", "sealant"]),
        ("filter 20 mm", "1/8-27 NPT", 1, ["o_ring", "sealant"]),
        ("1/8-27 NPT", "probe 3.2 mm", 1, ["sealant", "compression"]),
        ("hose 38 mm", "1/8-27 NPT", 1, ["clamp", "sealant"]),
        ("tube 9.5 mm", "1/8-27 NPT", 1, ["compression", "sealant"]),
        ("AN6 male", "1/8-27 NPT", 2, ["flare", "flare", "sealant"]),
        ("hose 5 mm", "hose 4 mm", 3, ["clamp", "sealant", "clamp", "clamp"]),
        ("hole 22 mm", "M18x1.5", 1, ["weld", "washer"]),
    ],
)
def test_the_way_in_has_the_fewest_joints(start, goal, names, seals):
    stack = way(start, goal)
    assert stack.found
    assert len(stack.chain) == names
    assert [joint.seal for joint in stack.joints] == seals
    assert joints_of(port(start), stack.chain, sender(goal)) == stack.joints


def test_fewest_then_shortest_then_in_stock():
    long, short, twin = (
        Fitting(n, "M12x1.5", "M10x1", mm) for n, mm in (("long", 30), ("short", 12), ("twin", 12))
    )
    detour = (Fitting("a", "M12x1.5", "M14x1.5", 1), Fitting("b", "M14x1.5", "M10x1", 1))
    names = lambda stack: [f.name for f in stack.chain]  # noqa: E731
    assert names(way("M12x1.5", "M10x1", (*detour, long))) == ["long"]
    assert names(way("M12x1.5", "M10x1", (long, short))) == ["short"]
    assert names(way("M12x1.5", "M10x1", (short, twin))) == ["short"]
    assert names(way("M12x1.5", "M10x1", (short, twin), {"twin"})) == ["twin"]
    assert names(way("M12x1.5", "M10x1", (short, long), {"long"})) == ["short"]


def test_look_alikes_are_stopped_without_an_adapter_and_cautioned_with_one():
    alone = way("1/8-28 BSPT", "1/8-27 NPT", (Fitting("other", "M10x1", "M12x1.5", 9),))
    assert [(f.grade, f.code) for f in alone.findings] == [
        ("stop", "look_alike_thread"),
        ("stop", "no_way_in"),
    ]
    joined = way("1/8-28 BSPT", "1/8-27 NPT")
    assert [(f.grade, f.code) for f in joined.findings] == [("caution", "look_alike_thread")]
    assert not make_up(port("1/8-28 BSPT"), (), sender("1/8-27 NPT")).found


def test_an_empty_library_and_a_taper_in_a_parallel_thread_are_said():
    assert [f.code for f in way("M12x1.5", "1/8-27 NPT", ()).findings] == ["no_fittings"]
    assert [f.code for f in way("G1/8", "1/8-28 BSPT").findings] == ["taper_in_parallel"]
    assert "plug_spare_ports" in [f.code for f in way("filter 20 mm", "1/8-27 NPT").findings]


def test_a_chain_that_does_not_go_together_names_the_joint():
    with pytest.raises(BadInput, match=r"does not go on M12x1\.5 female"):
        joints_of(port("M12x1.5"), (Fitting("bush", "M14x1.5", "M10x1", 9),), sender("M10x1"))
    with pytest.raises(BadInput, match="The sender, M8x1 male, does not go on"):
        joints_of(port("M12x1.5"), (), sender("M8x1"))


@pytest.mark.parametrize(
    "data",
    [
        {"name": "x", "male": "M10x1"},
        {"name": "x", "male": "M10x1", "female": "M8x1", "other_male": "M8x1"},
        {"name": "x", "male": "M10x1", "female": "wood"},
    ],
)
def test_a_fitting_has_two_ends_that_exist(data):
    with pytest.raises(BadInput):
        read(Fitting, data)


def test_the_solver_agrees_with_exhaustive_search_on_random_libraries():
    """Against brute force over all chains of up to three fittings: an independent answer."""
    names = ["M8x1", "M10x1", "M12x1.5", "M14x1.5", "G1/8", "1/8-28 BSPT"]
    for seed in range(60):
        draw = random.Random(seed)
        library = tuple(
            Fitting(f"f{i}", *draw.choices(names, k=2), float(draw.randint(5, 40))) for i in range(7)
        )
        start, goal = port(draw.choice(names)), sender(draw.choice(names))
        stack = solve_stack(start, goal, library)
        assert _cheapest(start, goal, library) == (
            (len(stack.chain), stack.length_mm) if stack.found else None
        )


def _cheapest(start, goal, library, most=3):
    best = None
    chains = [()]
    for _ in range(most + 1):
        for chain in chains:
            try:
                joints_of(start, chain, goal)
            except BadInput:
                continue
            cost = (len(chain), sum(f.length_mm for f in chain))
            best = cost if best is None else min(best, cost)
        if best is not None:
            return best
        chains = [(*chain, f) for chain in chains for f in library]
    return best


@pytest.mark.parametrize(
    ("place", "codes"),
    [
        ((560, True, True, 30, 1800, "18_in"), []),
        ((560, None, None, None, None, "18_in"), []),
        ((400, True, True, 30, 1800, "18_in"), ["lambda_too_close"]),
        ((400, True, True, 30, 1800, "12_to_36_in"), []),
        ((950, True, True, 30, 1800, "24_in"), ["lambda_too_far"]),
        (
            (560, False, False, 5, 100, "18_in"),
            ["before_turbine", "after_catalyst", "lambda_lies_flat", "near_open_end"],
        ),
        ((457, True, True, 10, 450, "18_in"), []),
    ],
)
def test_a_lambda_place_by_practice(place, codes):
    found = judge_wideband(*place)
    assert [f.code for f in found.findings] == codes
    assert found.ok == (not codes)
