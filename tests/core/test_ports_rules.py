"""Zones, findings of a place, cards, fluids and the way round a job of its ports."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts.ports import choose_practice
from metrolex.errors import BadInput
from metrolex.fittings.library import generic_fittings
from metrolex.intake import read
from metrolex.job import FlowPath, FluidRecord, Job, MeasuringChain, PathPart, Port, Stretch, Survey
from metrolex.job.place import downstream
from metrolex.job.within import replaced_within
from metrolex.jobfile import EXAMPLES, example_job_data, job_from_data, job_to_data
from metrolex.kit import measurand_facts, measurands, sender_kit
from metrolex.ports.cards import card_for
from metrolex.ports.check import ports_findings
from metrolex.ports.compare import candidates_for
from metrolex.ports.fluids import fluids_of
from metrolex.ports.paths import layout_of, moved_parts, paths_for, upstream
from metrolex.ports.places import places_for
from metrolex.ports.practices import topics_for
from metrolex.ports.rules import port_findings, straight_needed_mm
from metrolex.ports.section import section_of
from metrolex.ports.zones import clear_stretches, lambda_start_m, verdicts_at, zones_of
from tests.jobs import a_port, a_vehicle, shipped, shown_by, with_facts

FIT = {fitting.name: fitting for fitting in generic_fittings()}
EXHAUST = FlowPath(
    "ex",
    "Exhaust",
    "exhaust",
    3.0,
    (
        PathPart("head_port", 0),
        PathPart("collector", 0.2),
        PathPart("divider", 0.22, 0.1),
        PathPart("turbine", 0.4, 0.1),
        PathPart("catalyst", 1.5, 0.3),
        PathPart("open_end", 3.0),
    ),
    (
        Stretch(0, 0.4, "manifold", "cast_iron", 7, 40, False, 900),
        Stretch(0.5, 3.0, "pipe", "sheet", 1.5, 60, True, 650),
    ),
    None,
    True,
)


def job_with(
    measurand: str, port: Port, kit: str | None = None, *paths: FlowPath, **vehicle
) -> tuple[Job, MeasuringChain]:
    facts = measurand_facts(measurand)
    sender = sender_kit(kit or facts.senders[0], "s") if facts.senders or kit else None
    channel = MeasuringChain(
        "c", facts.name, facts.id, facts.unit, sender="s" if sender else None, port=port.id
    )
    return Job(
        "x",
        a_vehicle("v", **vehicle),
        **shown_by((channel,)),
        senders=(sender,) if sender else (),
        ports=(port,),
        paths=paths or (EXHAUST,),
    ), channel


def codes(measurand: str, port: Port, kit: str | None = None, *paths: FlowPath) -> set[str]:
    job, channel = job_with(measurand, port, kit, *paths)
    return {f.code for f in port_findings(job, channel, port, job.sender("s"))}


@pytest.mark.parametrize(
    ("measurand", "at_m", "expected"),
    [
        ("lambda", 0.3, {"before_turbine"}),
        ("lambda", 0.6, {"lambda_too_close"}),
        ("lambda", 0.9, set()),
        ("lambda", 1.45, {"lambda_too_far"}),
        ("lambda", 2.0, {"after_catalyst", "lambda_too_far"}),
        ("lambda", 2.7, {"after_catalyst", "lambda_too_far", "near_open_end"}),
        ("exhaust_temperature", 0.1, {"one_cylinder"}),
        ("exhaust_temperature", 0.221, {"on_divider"}),
        ("exhaust_temperature", 0.28, {"one_side_of_divider"}),
        ("exhaust_temperature", 0.36, set()),
        ("exhaust_temperature", 0.45, {"in_turbine"}),
        ("exhaust_temperature", 0.8, {"after_turbine"}),
        ("exhaust_temperature", 1.6, {"after_turbine", "after_catalyst"}),
        ("coolant_temperature", 0.5, set()),
    ],
)
def test_the_verdict_along_the_exhaust(measurand, at_m, expected):
    zones = zones_of(measurand, EXHAUST)
    assert {f.code for f in verdicts_at(zones, at_m, "pin")} == expected
    barred = {"caution", "stop"} & {f.grade for f in verdicts_at(zones, at_m, "pin")}
    assert bool(barred) != any(a <= at_m <= b for a, b in clear_stretches(zones, 3.0))


def test_the_practice_moves_the_zone_of_the_lambda_sensor():
    at = 0.5 + 0.45
    assert not verdicts_at(zones_of("lambda", EXHAUST), at, "pin")
    assert [f.code for f in verdicts_at(zones_of("lambda", EXHAUST, (), "18_in"), at, "pin")] == [
        "lambda_too_close"
    ]
    assert [f.code for f in verdicts_at(zones_of("lambda", EXHAUST, (), "24_in"), 0.5 + 0.70, "pin")] == [
        "lambda_too_far"
    ]


def test_distance_counts_across_two_banks_that_meet():
    vee = paths_for(a_vehicle("v", layout="vee", induction="none"))
    left, common = (next(p for p in vee if p.id == key) for key in ("exhaust, left bank", "exhaust, common"))
    assert [p.id for p in downstream(vee, left)] == ["exhaust, common"]
    assert next(p.id for p in upstream(vee, common)) in ("exhaust, left bank", "exhaust, right bank")
    assert lambda_start_m(common, vee) == pytest.approx(-0.9)
    # 0.9 m from the head port lies 0 m along the common pipe: the wide practice allows 14 mm of it.
    zones = zones_of("lambda", common, vee)
    assert "lambda_too_far" not in {f.code for f in verdicts_at(zones, 0.01, "pin")}
    assert "lambda_too_far" in {f.code for f in verdicts_at(zones, 0.02, "pin")}


@pytest.mark.parametrize(
    "path",
    [
        p
        for v in (
            a_vehicle("v", induction="turbo", gearbox="automatic", has=("water pump",)),
            a_vehicle("v", layout="vee", fuel_feed="carburettor"),
        )
        for p in paths_for(v)
    ],
    ids=lambda p: p.name,
)
def test_zones_of_every_template_lie_on_it(path):
    for facts in measurands():
        for zone in zones_of(facts.id, path):
            assert 0 <= zone.from_m < zone.to_m <= path.length_m
            assert zone.reason
            assert zone.remedy
        clear = clear_stretches(zones_of(facts.id, path), path.length_m)
        assert all(a < b for a, b in clear)


@pytest.mark.parametrize(
    ("vehicle", "kinds"),
    [
        (a_vehicle("v"), {"exhaust", "intake", "coolant", "engine_oil", "gearbox_oil", "fuel"}),
        (a_vehicle("v", cooling="air"), {"exhaust", "intake", "engine_oil", "gearbox_oil", "fuel"}),
        (a_vehicle("v", burns="electric"), {"coolant"}),
        (
            a_vehicle("v", has=("water pump",)),
            {"exhaust", "intake", "coolant", "engine_oil", "gearbox_oil", "fuel", "water"},
        ),
    ],
)
def test_templates_follow_the_layout(vehicle, kinds):
    assert {path.kind for path in paths_for(vehicle)} == kinds
    assert not any(path.measured for path in paths_for(vehicle))
    assert layout_of(a_vehicle("v", year=1961))["fuel_feed"] == "carburettor"


def test_a_measured_length_scales_what_lies_along_it():
    longer = moved_parts(EXHAUST, 6.0)
    assert longer.first("catalyst").at_m == pytest.approx(3.0)
    assert longer.stretches[0].to_m == pytest.approx(0.8)
    assert moved_parts(replace(EXHAUST, length_m=None), 4.0).length_m == 4.0


@pytest.mark.parametrize(
    "data",
    [
        {"id": "p", "name": "P", "kind": "fuel", "length_m": 1.0, "parts": [{"kind": "rail", "at_m": 2.0}]},
        {
            "id": "p",
            "name": "P",
            "kind": "fuel",
            "length_m": 1.0,
            "parts": [{"kind": "rail", "at_m": 0.9, "length_m": 0.2}],
        },
        {
            "id": "p",
            "name": "P",
            "kind": "fuel",
            "length_m": 1.0,
            "stretches": [{"from_m": 0.5, "to_m": 0.5}],
        },
        {"id": "p", "name": "P", "kind": "fuel", "length_m": 0},
        {"id": "p", "name": "P", "kind": "beer"},
    ],
)
def test_a_path_that_cannot_be_meant_is_refused(data):
    with pytest.raises(BadInput):
        read(FlowPath, data)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        (lambda d: d["ports"][0]["spot"].update(at_m=90.0), "ports[0].spot.at_m"),
        (lambda d: d["ports"][0]["spot"].update(path="x"), "ports[0].spot.path"),
        (lambda d: d["ports"][0].update(channel="x"), "ports[0].channel"),
        (lambda d: d["paths"][0].update(into="x"), "paths[0].into"),
        (lambda d: d["ports"][0]["spot"].update(wall={"wall_mm": 0}), "ports[0].spot.wall.wall_mm"),
        (lambda d: d["ports"][1]["stack"][0].update(male="1/8 NTP"), "ports[1].stack[0].male"),
    ],
)
def test_a_job_file_with_a_wrong_port_names_the_place(change, field):
    data = example_job_data("van")
    change(data)
    with pytest.raises(BadInput) as fault:
        job_from_data(data)
    assert fault.value.field == field


DRILLED = a_port(
    "p",
    "Pin",
    "own",
    "1/8-27 NPT",
    path="ex",
    at_m=0.36,
    entry="drilled",
    stack=(FIT["Compression fitting 1/8-27 NPT for a 3.2 mm probe"],),
)


def test_drilling_upstream_of_a_turbine_warns_and_a_thin_wall_is_refused():
    assert codes("exhaust_temperature", DRILLED) == {"swarf_into_turbine"}
    assert "wall_too_thin" in codes("exhaust_temperature", with_facts(DRILLED, wall_mm=2.0))
    assert "wall_not_known" in codes("exhaust_temperature", with_facts(DRILLED, path=None, at_m=None))
    assert "thread_not_for_tapping" in codes("exhaust_temperature", with_facts(DRILLED, thread="hose 10 mm"))
    assert "thread_unknown" in codes(
        "exhaust_temperature", with_facts(DRILLED, thread="1/8 NTP", entry="existing")
    )


def test_a_bore_smaller_than_the_probe_and_a_tip_past_the_middle():
    assert "bore_too_small" in codes("exhaust_temperature", with_facts(DRILLED, bore_mm=3.0))
    sump = a_port(
        "p",
        "Sump",
        "sump plug",
        "M14x1.5",
        entry="existing",
        wall_mm=2,
        bore_mm=20,
        stack=(FIT["Adapter M14x1.5 to 1/8-27 NPT"],),
    )
    assert "tip_in_adapter" not in codes("oil_temperature", sump)
    deep = replace(sump, stack=(*sump.stack, FIT["Port extender 1/8-27 NPT, 25 mm"]))
    assert {"tip_in_adapter"} <= codes("oil_temperature", deep)
    assert "tip_at_far_wall" in codes("oil_temperature", with_facts(sump, bore_mm=7.2))


def test_a_long_stack_shakes_unless_a_hose_takes_it():
    path = FlowPath(
        "oil", "Oil", "engine_oil", 2.0, (PathPart("pump", 0.1), PathPart("gallery", 1.0)), (), None, True
    )
    tall = a_port(
        "p",
        "Gallery",
        "gallery port",
        "1/8-27 NPT",
        path="oil",
        at_m=1.0,
        entry="existing",
        stack=(FIT["Port extender 1/8-27 NPT, 50 mm"], FIT["Port extender 1/8-27 NPT, 25 mm"]),
    )
    assert "stack_shakes" in codes("oil_pressure", tall, None, path)
    hose = replace(tall, stack=(FIT["Remote hose 1/8-27 NPT, 300 mm"],))
    assert "stack_shakes" not in codes("oil_pressure", hose, None, path)
    assert "before_pump" in codes("oil_pressure", with_facts(tall, at_m=0.05), None, path)


def test_heat_attitude_and_a_hose_that_bends():
    hot = a_port(
        "p", "Hot", "own", "1/8-27 NPT", peak_degc=140, entry="existing", hangs_lowest=True, moving_near=True
    )
    assert {"too_hot_for_sender", "hangs_lowest", "moving_near"} <= codes(
        "oil_pressure", hot, None, replace(EXHAUST, kind="engine_oil")
    )
    flat = a_port("p", "Bung", "spare bung", "M18x1.5", path="ex", at_m=0.9, tip_angle_deg=5)
    assert "lambda_lies_flat" in codes("lambda", flat)
    assert "lambda_lies_flat" not in codes("lambda", with_facts(flat, tip_angle_deg=10))
    hose = a_port(
        "p",
        "Hose",
        "hose adapter",
        "hose 38 mm",
        grounded=False,
        entry="cut_hose",
        straight_mm=60,
        stack=(FIT["Hose adapter 38 mm with 1/8-27 NPT mouth"],),
    )
    assert "hose_not_straight" in codes("coolant_temperature", hose)
    # Common practice: half the adapter in each end and a clamp's 15 mm on both sides; 20 mm of adapter want 70 mm.
    assert straight_needed_mm(20) == 70
    assert "hose_not_straight" not in codes("coolant_temperature", with_facts(hose, straight_mm=70))
    assert "fitting_floats" in codes("coolant_temperature", hose)
    assert "fitting_floats" not in codes("coolant_temperature", hose, "NTC, two wires, 1/8-27 NPT")


def test_the_section_adds_up():
    job, channel = job_with("exhaust_temperature", DRILLED)
    section = section_of(job, channel, DRILLED, job.sender("s"))
    # Half across a 40 mm bore, through 7 mm of wall and 24 mm of fitting: the mark stands 20 + 7 + 24 from the tip.
    assert (section.tip_mm, section.probe_mark_mm, section.tip_ratio) == (20.0, 51.0, 0.5)
    assert section.threads_engaged == pytest.approx(0.2639 * 27, abs=1e-3)
    tee = a_port(
        "p",
        "Tee",
        "cooler line",
        "tube 9.5 mm",
        entry="cut_line",
        bore_mm=7.7,
        stack=(FIT["Compression tee 9.5 mm with 1/8-27 NPT mouth"],),
    )
    job, channel = job_with("gearbox_temperature", tee)
    found = section_of(job, channel, tee, job.sender("s"))
    # Reach 22 mm less 20.5 mm from the mouth to the middle of the line, plus half the bore.
    assert found.in_line
    assert found.tip_mm == pytest.approx(22 - 20.5 + 7.7 / 2)


@pytest.mark.parametrize("facts", [f for f in measurands() if places_for(f.id)], ids=lambda f: f.id)
def test_every_usual_place_has_a_card_with_steps_and_a_caution(facts):
    vehicle = a_vehicle("v", induction="turbo", gearbox="automatic", has=("water pump",))
    sender = sender_kit(facts.senders[0], "s") if facts.senders else None
    channel = MeasuringChain("c", facts.name, facts.id, facts.unit, sender="s" if sender else None)
    job = Job(
        "x", vehicle, **shown_by((channel,)), senders=(sender,) if sender else (), paths=paths_for(vehicle)
    )
    for candidate in candidates_for(job, channel, generic_fittings()):
        port = replace(candidate.port, stack=candidate.fittings or ())
        card = card_for(job, channel, port)
        assert card.steps or card.refused
        assert card.cautions[-1] == "The vehicle maker's instructions come first."
        assert candidate.place.caution in card.cautions
        assert len(set(card.tools)) == len(card.tools)
        if port.stack and not card.refused:
            assert any("second spanner" in step.words for step in card.steps)


@pytest.mark.parametrize(
    ("measurand", "port", "figures"),
    [
        # 1 7/8 in for a common 3/8 in tee; hand-tight and a quarter: common practice, no source.
        (
            "gearbox_temperature",
            a_port(
                "p",
                "Tee",
                "cooler line",
                "tube 9.5 mm",
                entry="cut_line",
                stack=(FIT["Compression tee 9.5 mm with 1/8-27 NPT mouth"],),
            ),
            ["cut out 47.6 mm (1 7/8 in)", "Hand-tight, then a quarter turn (single ring)"],
        ),
        (
            "lambda",
            a_port("p", "Bung", "spare bung", "M18x1.5", path="ex", at_m=0.96, tip_angle_deg=30),
            ["460.0 mm (18 7/64 in)", "30°", "7 turns"],
        ),
        (
            "exhaust_temperature",
            DRILLED,
            ["R (8.61 mm)", "4.1 mm (5/32 in), 4.4 turns", "51.0 mm (2 1/64 in)", "38.0 mm (1 1/2 in)"],
        ),
        (
            "tyre_temperature",
            a_port("p", "Arch", "arch, ahead", distance_mm=150, target_mm=180),
            ["95 mm of 180 mm tread", "285.4 mm (11 15/64 in)"],
        ),
        (
            "coolant_temperature",
            a_port(
                "p",
                "Hose",
                "hose adapter",
                "hose 38 mm",
                grounded=False,
                entry="cut_hose",
                bore_mm=36,
                stack=(FIT["Hose adapter 38 mm with 1/8-27 NPT mouth"],),
            ),
            ["36 and 38 mm: does NOT fit", "70 mm straight", "under 1 ohm"],
        ),
    ],
)
def test_cards_carry_their_figures(measurand, port, figures):
    job, channel = job_with(measurand, port)
    shown = [step.figure for step in card_for(job, channel, port).steps]
    assert [f for f in figures if f not in shown] == []


def test_practices_change_the_card():
    job, channel = job_with("exhaust_temperature", DRILLED)
    larger = card_for(choose_practice(job, "tap_drill", "larger"), channel, DRILLED)
    assert "11/32 in (8.73 mm)" in [step.figure for step in larger.steps]
    assert larger.drills_mm[-1] == 8.73


def test_swarf_words_follow_the_place():
    job, channel = job_with("exhaust_temperature", DRILLED)
    before = card_for(job, channel, DRILLED)
    behind = card_for(job, channel, with_facts(DRILLED, at_m=0.8, wall_mm=8, material="cast_iron"))
    pick = lambda card: next(s.words for s in card.steps if s.words.startswith("Chips"))  # noqa: E731
    assert "turbine" in pick(before)
    assert "turbine" not in pick(behind)


def test_fluids_count_an_opening_once_and_miss_what_did_not_come_back():
    job = shipped("single_seater")
    oil = next(plan for plan in fluids_of(job) if plan.key == "engine oil")
    assert (oil.lost_l, oil.have_ready_l) == (0.5, 1.0)  # pressure and temperature share one plate
    short = replace(job, fluids=(FluidRecord("engine oil", 0.5, 0.3),), survey=Survey(leaks=("Sump",)))
    plan = next(plan for plan in fluids_of(short) if plan.key == "engine oil")
    assert plan.missing_l == pytest.approx(0.2)
    assert plan.with_it[-1] == "Leak found in the survey: Sump"
    assert "fluid_short" in {f.code for f in ports_findings(short)}
    even = replace(job, fluids=(FluidRecord("engine oil", 0.5, 0.5),))
    assert "fluid_short" not in {f.code for f in ports_findings(even)}


def test_two_senders_in_one_mouth_are_stopped_and_a_plate_takes_them():
    job = shipped("single_seater")
    assert "one_mouth_two_senders" not in {f.code for f in ports_findings(job)}
    key = job.chain("oil pressure").port
    bare = replace(job, ports=tuple(replace(p, stack=()) if p.id == key else p for p in job.ports))
    assert "one_mouth_two_senders" in {f.code for f in ports_findings(bare)}
    spare = [f for f in ports_findings(job) if f.code == "plug_spare_ports"]
    assert [f.figure for f in spare] == ["1 to plug"]


@pytest.mark.parametrize("name", EXAMPLES)
def test_examples_go_out_and_in_without_loss(name):
    job = shipped(name)
    assert job_from_data(job_to_data(job)) == job


def test_an_unknown_example_is_refused():
    with pytest.raises(BadInput, match="van"):
        example_job_data("tank")


def plate_with(stack: tuple, reach_mm: float = 22.0):
    port = a_port(
        "p",
        "Plate",
        "sandwich plate",
        thread="filter 20 mm",
        stack=stack,
        wall_mm=10.0,
        bore_mm=20.0,
        entry="held_on",
    )
    job, channel = job_with("oil_temperature", port)
    return replace(job, senders=(with_facts(job.sender("s"), reach_mm=reach_mm),)), channel, port


def test_a_tip_in_a_plate_counts_from_its_rim_not_from_the_block():
    """By hand: 22 mm below the shoulder, 14 mm of rim: 8 mm in the oil. The plate's thickness lies across."""
    plate = FIT["Sandwich plate, 20 mm stud, three 1/8-27 NPT mouths"]
    job, channel, port = plate_with((plate,))
    found = section_of(job, channel, port, job.sender("s"))
    assert (found.tip_mm, found.wall_mm, found.bore_mm, found.sticks_out_mm) == (8.0, 14.0, 12.0, 0.0)
    assert found.threads_engaged == pytest.approx(0.2639 * 25.4 / (25.4 / 27), rel=1e-3)  # ASME B1.20.1
    assert not {"tip_in_adapter", "tip_at_far_wall", "stack_shakes"} & {
        f.code for f in port_findings(job, channel, port, job.sender("s"))
    }


def test_a_short_sender_on_an_adapter_in_a_plate_is_said():
    plate, bush = FIT["Sandwich plate, 20 mm stud, two M10x1 mouths"], FIT["Adapter M10x1 to 1/8-27 NPT"]
    job, channel, port = plate_with((plate, bush))
    found = section_of(job, channel, port, job.sender("s"))
    assert found.tip_mm == 22 - 12 - 14
    assert "tip_in_adapter" in {f.code for f in port_findings(job, channel, port, job.sender("s"))}
    job, channel, port = plate_with((plate, bush), reach_mm=37.0)
    assert "tip_at_far_wall" in {f.code for f in port_findings(job, channel, port, job.sender("s"))}


def test_a_plate_of_unknown_rim_gives_no_tip():
    plate = replace(FIT["Sandwich plate, 20 mm stud, three 1/8-27 NPT mouths"], rim_mm=None, stream_mm=None)
    job, channel, port = plate_with((plate,))
    assert section_of(job, channel, port, job.sender("s")).tip_mm is None


def test_a_probe_is_marked_before_its_fitting_bites():
    job = shipped("single_seater")
    channel = job.chain("exhaust gas")
    words = [step.words for step in card_for(job, channel, job.port(channel.port)).steps]
    mark = next(i for i, w in enumerate(words) if w.startswith("Mark the probe"))
    assert mark < next(i for i, w in enumerate(words) if w.startswith("probe 3.2 mm"))


def test_the_plates_card_plugs_what_nobody_uses_and_says_how_its_seal_goes():
    job = shipped("single_seater")
    channel = job.chain("engine oil")
    steps = card_for(job, channel, job.port(channel.port)).steps
    assert (steps[0].words, steps[0].figure) == (
        "Pan and rag under it before anything is opened.",
        "about 0.5 L out",
    )
    assert (
        next(s.figure for s in steps if s.words.startswith("Plug every mouth")) == "1 plug"
    )  # three mouths, two senders
    seal = next(s for s in steps if s.words.startswith("filter 20 mm into"))
    assert "facing the engine" in seal.words
    assert seal.figure == "Stud by the plate maker's figure"
    alone = replace(
        job, **shown_by(tuple(replace(c, port=None) if c.id == "oil pressure" else c for c in job.chains))
    )
    steps = card_for(alone, alone.chain("engine oil"), alone.port(channel.port)).steps
    assert next(s.figure for s in steps if s.words.startswith("Plug every mouth")) == "2 plugs"


def test_both_banks_are_a_question_of_two_banks_only():
    port = a_port("p", "Front pipe", "bank pipe", path="ex", at_m=0.5)
    straight, _ = job_with("exhaust_temperature", port)
    vee = replace(straight, vehicle=replaced_within(straight.vehicle, {"layout": "vee"}))
    asked = {
        name: {t.key for t in topics_for(job, "exhaust_temperature")}
        for name, job in (("one", straight), ("two", vee))
    }
    assert asked["two"] - asked["one"] == {"exhaust_banks"}
    both = choose_practice(vee, "exhaust_banks", "both")
    assert "other_bank_open" in {f.code for f in ports_findings(both)}
    assert "other_bank_open" not in {f.code for f in ports_findings(vee)}
    twice = replace(
        both,
        **shown_by(
            (*both.chains, replace(both.chains[0], id="other", channel="other", source_id="other", port=None))
        ),
    )
    assert "other_bank_open" not in {f.code for f in ports_findings(twice)}
    assert "other_bank_open" not in {
        f.code for f in ports_findings(choose_practice(straight, "exhaust_banks", "both"))
    }


@pytest.mark.parametrize(("length", "stands"), [(3.4, True), (200.0, True), (200.1, False), (1e12, False)])
def test_a_path_longer_than_any_vehicle_is_refused(length, stands):
    plain = {"id": "p", "name": "Exhaust", "kind": "exhaust", "length_m": length}
    if stands:
        assert read(FlowPath, plain).length_m == length
        return
    with pytest.raises(BadInput) as fault:
        read(FlowPath, plain)
    assert fault.value.field == "length_m"
