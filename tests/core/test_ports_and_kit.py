"""Generic parts; places of a vehicle compared on evidence."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts.ports import choose_practice, set_weights
from metrolex.errors import BadInput
from metrolex.fittings.library import generic_fittings
from metrolex.job import Job, MeasuringChain, Vehicle
from metrolex.job.within import replaced_within
from metrolex.kit import display_kit, measurand_facts, measurands, sender_kit
from metrolex.ports.compare import (
    CRITERIA,
    PRESETS,
    WEIGHTS,
    candidates_for,
    weights_of,
    why_first,
)
from metrolex.ports.paths import paths_for
from metrolex.ports.places import places_for, port_at
from metrolex.ports.practices import practice_of, topics, topics_for
from metrolex.scaling.check import scaling_findings
from tests.jobs import a_port, a_vehicle, shown_by, small_job, van, with_facts

TURBO = a_vehicle(
    "Hill-climb single-seater", burns="petrol", cylinders=4, induction="turbo", gearbox="automatic"
)


def one_channel(measurand: str, kit: int = 0, vehicle: Vehicle = TURBO) -> tuple[Job, MeasuringChain]:
    """A job that shows one thing, with the paths of its vehicle."""
    facts = measurand_facts(measurand)
    sender = sender_kit(facts.senders[kit], "s") if facts.senders else None
    channel = MeasuringChain("c", facts.name, facts.id, facts.unit, sender="s" if sender else None)
    return Job(
        "x", vehicle, **shown_by((channel,)), senders=(sender,) if sender else (), paths=paths_for(vehicle)
    ), channel


def ranked(measurand: str, **kwargs) -> tuple:
    job, channel = one_channel(measurand, **kwargs)
    return candidates_for(job, channel, generic_fittings())


@pytest.mark.parametrize("facts", measurands(), ids=lambda f: f.id)
def test_everything_that_can_be_shown_has_parts_that_fit(facts):
    kit = display_kit(facts.display, "gauge 1", "Gauge")
    assert kit.display.pin_for("ground")
    assert kit.display.inputs
    for name in facts.senders:
        sender = sender_kit(name, "sender")
        assert sender.id == "sender"
        assert sender.wires < 3 or kit.display.pin_for("sensor_supply")
    assert bool(places_for(facts.id)) == (facts.id != "supply_voltage")
    for place in places_for(facts.id):
        assert set(place.marks) == set(CRITERIA) - {"new_hole", "undo"}
        assert place.caution
        assert port_at(facts.id, place.kind, "p").name == place.name


@pytest.mark.parametrize("facts", [f for f in measurands() if f.id != "supply_voltage"], ids=lambda f: f.id)
def test_every_channel_has_places_compared_with_a_way_in(facts):
    found = ranked(facts.id)
    assert found
    assert [c.score for c in found] == sorted((c.score for c in found), reverse=True)
    assert [c.letter for c in found] == [chr(ord("A") + i) for i in range(len(found))]
    assert all(c.word(criterion) for c in found for criterion in CRITERIA)
    assert why_first(found)
    job, _ = one_channel(facts.id)
    sender = job.sender("s")
    if sender and sender.body.thread:
        assert all(
            c.fittings is not None or c.place.card in ("bond", "wire", "spot") for c in found if c.port.thread
        ), facts.id


def test_the_coolant_gauge_follows_its_usual_sender():
    facts = measurand_facts("coolant_temperature")
    kit = display_kit(facts.display, "gauge", "Gauge")
    job = small_job()
    channel = replace(job.chains[0], scaling=kit.scaling, input=kit.display.inputs[0].id)
    job = replace(
        job, displays=(kit.display,), senders=(sender_kit(facts.senders[0], "ntc"),), **shown_by((channel,))
    )
    assert not [f for f in scaling_findings(job) if f.grade != "note"]


def test_no_new_hole_comes_first_unless_truth_counts_more():
    job, channel = one_channel("gearbox_temperature")
    assert candidates_for(job, channel)[0].port.kind == "test port"
    truth = set_weights(job, dict.fromkeys(WEIGHTS, 0.0) | {"reading": 1.0})
    assert candidates_for(truth, channel)[0].port.kind in ("cooler line", "banjo")
    plain = set_weights(job, {"new_hole": 0.0, "undo": 0.0})
    hot = choose_practice(plain, "gearbox_point", "hot_line")
    before, after = ({c.port.kind: c.score for c in candidates_for(j, channel)} for j in (plain, hot))
    # The practice gives its own places a tenth of the best score and takes nothing from the others.
    gains = {kind: round(after[kind] - before[kind], 6) for kind in before}
    assert gains == {"test port": 0.0, "cooler line": 0.1, "banjo": 0.1, "pan bung": 0.0, "pan through": 0.0}
    assert candidates_for(hot, channel)[0].favoured == "hot line"


@pytest.mark.parametrize("preset", PRESETS)
def test_presets_weigh_known_criteria(preset):
    job = set_weights(van(), PRESETS[preset])
    assert weights_of(job) == PRESETS[preset]


@pytest.mark.parametrize(
    ("weights", "field"), [({"beauty": 3.0}, "criterion"), (dict.fromkeys(WEIGHTS, 0.0), "weights")]
)
def test_weights_that_weigh_nothing_are_refused(weights, field):
    with pytest.raises(BadInput) as fault:
        set_weights(van(), weights)
    assert fault.value.field == field


def test_a_floating_adapter_is_objected_to_for_a_one_wire_sender():
    one, two = (
        next(c for c in ranked("coolant_temperature", kit=kit) if c.port.kind == "hose adapter")
        for kit in (0, 1)
    )
    assert "fitting_floats" in [f.code for f in one.findings]
    assert "fitting_floats" not in [f.code for f in two.findings]
    assert one.score < two.score


def test_why_first_in_a_sentence():
    words = why_first(ranked("boost"))
    assert words.startswith("Drilled bolt in place of a manifold bolt comes before")
    assert "behind on access" in words
    assert why_first([]) == ""


def test_the_gas_before_the_turbine_comes_first_and_the_catalyst_bars_the_rear_bung():
    first, *_ = ranked("exhaust_temperature")
    assert first.port.kind == "manifold"
    assert [f.name for f in first.fittings] == ["Compression fitting 1/8-27 NPT for a 3.2 mm probe"]
    assert "swarf_into_turbine" in [f.code for f in first.findings]
    *_, last = ranked("lambda")
    assert (last.port.kind, last.grade, last.marks["reading"]) == ("factory rear sensor", "stop", 0)


def test_places_a_vehicle_does_not_have_are_not_offered():
    assert [
        c.port.kind
        for c in ranked("gearbox_temperature", vehicle=replaced_within(TURBO, {"gearbox": "manual"}))
    ] == ["pan bung", "pan through"]
    assert "bank pipe" not in [c.port.kind for c in ranked("exhaust_temperature")]
    assert "bank pipe" in [
        c.port.kind
        for c in ranked(
            "exhaust_temperature", vehicle=replaced_within(TURBO, {"induction": "none", "layout": "vee"})
        )
    ]


def test_an_own_pin_is_weighed_beside_the_usual_places():
    job, channel = one_channel("lambda")
    own = a_port(
        "own 1", "Behind the cone", "own", "M18x1.5", channel="c", path="exhaust", at_m=0.55, entry="existing"
    )
    found = candidates_for(replace(job, ports=(own,)), channel, generic_fittings())
    mine = next(c for c in found if c.port.id == "own 1")
    assert mine.stored
    assert [f.code for f in mine.findings if f.grade != "note"] == ["lambda_too_close"]
    moved = with_facts(own, at_m=0.85)
    mine = next(c for c in candidates_for(replace(job, ports=(moved,)), channel) if c.port.id == "own 1")
    assert mine.grade == "good"


def test_every_practice_has_a_default_and_favours_places_that_exist():
    for topic in topics():
        assert topic.practice(topic.default)
        assert len(topic.practices) >= 2
        kinds = {place.kind for m in topic.measurands for place in places_for(m)}
        assert {kind for practice in topic.practices for kind in practice.favours} <= kinds
    job = choose_practice(van(), "tap_drill", "larger")
    assert practice_of(job, "tap_drill").key == "larger"
    assert practice_of(van(), "tap_drill").key == "handbook"
    assert "wideband_distance" in [t.key for t in topics_for(small_job(), "lambda")]


@pytest.mark.parametrize(
    "make",
    [
        lambda: sender_kit("x", "s"),
        lambda: display_kit("x", "d", "D"),
        lambda: measurand_facts("x"),
        lambda: port_at("supply_voltage", "x", "p"),
        lambda: choose_practice(van(), "x", "y"),
        lambda: choose_practice(van(), "tap_drill", "y"),
        lambda: port_at("fuel_pressure", "x", "p"),
    ],
)
def test_unknown_parts_are_refused_with_the_known_ones(make):
    with pytest.raises(BadInput):
        make()
