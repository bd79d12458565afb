"""Where something must go on flowing, or a factory switch must live, the chain holds the part that lets it."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.brief.shopping import shopping_list
from metrolex.fittings.library import generic_fittings
from metrolex.fittings.stack import solve_stack
from metrolex.job import Job, MeasuringChain
from metrolex.kit import measurand_facts, measurands, sender_kit
from metrolex.ports.cards import card_for
from metrolex.ports.compare import candidates_for
from metrolex.ports.facts import mouth_of, sender_end
from metrolex.ports.paths import paths_for
from metrolex.ports.places import places_for
from metrolex.ports.rules import port_findings
from tests.jobs import a_vehicle, shown_by, with_facts

VEHICLES = [
    a_vehicle(
        "Mountain-rescue van",
        burns="petrol",
        fuel_feed="port_injection",
        induction="turbo",
        gearbox="automatic",
    ),
    a_vehicle("Sidecar outfit", burns="petrol", fuel_feed="carburettor", cooling="air", has=("water pump",)),
]


def considered(vehicle):
    """(job, channel, candidate) of every place of every measurand with every generic sender."""
    for facts in measurands():
        for name in measurand_facts(facts.id).senders:
            channel = MeasuringChain("c", facts.name, facts.id, facts.unit, sender="s")
            job = Job(
                "J",
                vehicle,
                **shown_by((channel,)),
                senders=(sender_kit(name, "s"),),
                paths=paths_for(vehicle),
            )
            for candidate in candidates_for(job, channel, generic_fittings()):
                yield job, channel, candidate


@pytest.mark.parametrize("vehicle", VEHICLES, ids=lambda v: v.name)
def test_every_chain_found_holds_what_keeps_the_flow(vehicle):
    seen = 0
    for _, _, candidate in considered(vehicle):
        if candidate.place is not None and candidate.place.keeps and candidate.fittings:
            seen += 1
            assert all(any(f.sort in sorts for f in candidate.fittings) for sorts in candidate.place.keeps), (
                candidate.place.name
            )
            assert "dead_end" not in {f.code for f in candidate.findings}
    assert seen > 10


@pytest.mark.parametrize("vehicle", VEHICLES, ids=lambda v: v.name)
def test_a_place_called_tee_has_a_tee_in_its_chain(vehicle):
    for _, _, candidate in considered(vehicle):
        if candidate.fittings and "tee" in candidate.port.name.lower().split():
            assert any("tee" in fitting.sort for fitting in candidate.fittings), candidate.port.name


def test_every_place_named_after_such_a_part_asks_for_it():
    words = {"tee": "tee", "banjo": "banjo", "plate": "plate", "remote": "remote"}
    for facts in measurands():
        for place in places_for(facts.id):
            for word, sort in words.items():
                if word in place.name.lower().split():
                    assert any(sort in one for sorts in place.keeps for one in sorts), place.name


def test_a_sender_straight_in_a_banjos_place_plugs_the_line():
    channel = MeasuringChain("c", "Gearbox", "gearbox_temperature", "degC", sender="s")
    sender = with_facts(sender_kit(measurand_facts("gearbox_temperature").senders[0], "s"), thread="M14x1.5")
    job = Job("J", VEHICLES[0], **shown_by((channel,)), senders=(sender,), paths=paths_for(VEHICLES[0]))
    banjo = next(c.port for c in candidates_for(job, channel) if c.port.kind == "banjo")
    found = {(f.grade, f.code) for f in port_findings(job, channel, banjo, sender)}
    assert ("stop", "dead_end") in found
    place = next(place for place in places_for("gearbox_temperature") if place.kind == "banjo")
    stack = solve_stack(
        mouth_of(banjo),
        sender_end(sender_kit(measurand_facts("gearbox_temperature").senders[0], "s")),
        generic_fittings(),
        must=place.keeps,
    )
    whole = replace(banjo, stack=stack.chain)
    assert "dead_end" not in {
        f.code for f in port_findings(job, channel, whole, with_facts(sender, thread="1/8-27 NPT"))
    }
    fitted = replace(
        job,
        senders=(with_facts(sender, thread="1/8-27 NPT"),),
        ports=(whole,),
        **shown_by((replace(channel, port=whole.id),)),
    )
    assert {item.name: item.need for item in shopping_list(fitted)}["Washer for M14x1.5"] == 2
    assert any(
        "one on each side of the eye" in step.words
        for step in card_for(fitted, fitted.chains[0], whole).steps
    )


def test_no_card_twists_a_lead_and_none_looks_for_leaks_where_nothing_was_opened():
    for vehicle in VEHICLES:
        for job, channel, candidate in considered(vehicle):
            port = replace(candidate.port, stack=candidate.fittings or ())
            words = " ".join(step.words for step in card_for(job, channel, port).steps)
            sender = job.senders[0]
            if channel.measurand == "lambda" or sender.curve.x_unit == "millivolt":
                assert "as one" not in words, candidate.port.name
            if not port.thread and candidate.place is not None and not candidate.place.fluid:
                assert "Leaks" not in words, candidate.port.name
