"""Places compared, generic parts."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.errors import BadInput
from metrolex.kit import display_kit, measurand_facts, measurands, sender_kit
from metrolex.ports.compare import CRITERIA, WEIGHTS, places_for, port_at, rank_places, why_first
from metrolex.scaling.check import scaling_findings
from tests.jobs import small_job


@pytest.mark.parametrize("facts", measurands(), ids=lambda f: f.id)
def test_everything_that_can_be_shown_has_parts_that_fit(facts):
    kit = display_kit(facts.display, "gauge 1", "Gauge")
    assert kit.display.pin_for("ground")
    assert kit.display.inputs
    for name in facts.senders:
        sender = sender_kit(name, "sender")
        assert sender.id == "sender"
        assert sender.wires < 3 or kit.display.pin_for("sensor_supply")
    assert bool(facts.senders) == bool(places_for(facts.id))
    for place in places_for(facts.id):
        assert set(place.marks) == set(CRITERIA)
        assert all(place.word(c) for c in CRITERIA)
        assert place.caution
        assert port_at(facts.id, place.kind, "p").name == place.name


def test_the_coolant_gauge_follows_its_usual_sender():
    facts = measurand_facts("coolant_temperature")
    kit = display_kit(facts.display, "gauge", "Gauge")
    job = small_job()
    channel = replace(job.channels[0], scaling=kit.scaling, input=kit.display.inputs[0].id)
    job = replace(
        job, displays=(kit.display,), senders=(sender_kit(facts.senders[0], "ntc"),), channels=(channel,)
    )
    assert not [f for f in scaling_findings(job) if f.grade != "note"]


def test_no_new_hole_comes_first_unless_truth_counts_more():
    assert rank_places("gearbox_temperature", None)[0].place.kind == "test port"
    truth = dict.fromkeys(WEIGHTS, 0.0) | {"reading": 1.0}
    ranked = rank_places("gearbox_temperature", None, truth)
    assert ranked[0].place.kind == "cooler line"
    assert [r.score for r in ranked] == sorted((r.score for r in ranked), reverse=True)


def test_a_floating_adapter_is_objected_to_for_a_one_wire_sender():
    one, two = (sender_kit(name, "s") for name in ("NTC, one wire, 1/8-27 NPT", "NTC, two wires, 1/8-27 NPT"))
    hose = {
        k: next(r for r in rank_places("coolant_temperature", s) if r.place.kind == "hose adapter")
        for k, s in ((1, one), (2, two))
    }
    assert "ground lead" in hose[1].objection
    assert not hose[2].objection
    assert hose[1].score < hose[2].score


def test_why_first_in_a_sentence():
    words = why_first(rank_places("gearbox_temperature", None))
    assert words.startswith("Pressure test port comes before Tee in the hot cooler line on new hole")
    assert "behind on truth of the reading" in words
    assert why_first([]) == ""


@pytest.mark.parametrize(
    "make",
    [
        lambda: sender_kit("x", "s"),
        lambda: display_kit("x", "d", "D"),
        lambda: measurand_facts("x"),
        lambda: port_at("supply_voltage", "x", "p"),
    ],
)
def test_unknown_parts_are_refused_with_the_known_ones(make):
    with pytest.raises(BadInput):
        make()
