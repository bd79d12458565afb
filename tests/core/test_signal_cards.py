"""Cards of what is done: at signals that open nothing, at sources without a place; and that their verdicts are findings first."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts.channels import add_channel
from metrolex.acts.ports import choose_place, choose_sender, set_antenna, start_paths
from metrolex.check import find_all
from metrolex.fittings.library import generic_fittings
from metrolex.job import Job, State
from metrolex.job.chain import EngineCount, RoadCount
from metrolex.job.counting import TaughtGear
from metrolex.kit import facts_for, measurands
from metrolex.ports.cards import KINDS, TITLES, card_for, card_for_source
from metrolex.ports.compare import candidates_for
from metrolex.ports.places import places_for
from metrolex.tables import load_table
from metrolex.twin import build, solve
from tests.jobs import a_vehicle, van


def a_job(measurand, **fields):
    job = add_channel(Job("j", a_vehicle(**fields)), measurand)
    return job, job.chains[0]


def card_at(job, channel, kind):
    port = next(c.port for c in candidates_for(job, channel) if c.port.kind == kind)
    return card_for(job, channel, port)


def said(card):
    return " ".join(f"{step.words} {step.figure}" for step in card.steps)


def test_every_place_has_a_card_with_a_title_and_steps_of_its_own():
    assert KINDS.keys() == TITLES.keys()
    for facts in measurands():
        for place in places_for(facts.id):
            assert place.card in KINDS, place.kind
    used = {row["card"] for rows in load_table("ports").values() for row in rows}
    assert used | {"teach", "bus", "antenna"} == set(KINDS)


def test_the_cable_card_counts_what_the_wheel_gives():
    """8 pulses a turn, 1000 turns a mile: 8 * 1000 / 1.609344 = 4971 a km; at 50 km/h 4971 * 50 / 3600 = 69 Hz."""
    job, channel = a_job("road_speed")
    job = job.with_chain(replace(channel, road=RoadCount(sensed="cable", pulses_per_rev=8.0)))
    card = card_at(job, job.chains[0], "cable drive")
    assert "69 Hz" in said(card)
    assert "621 if nobody counted" in said(card)
    assert "three quarters" in said(card)
    assert "place of the cable" in card.title


def test_the_magnet_card_never_takes_a_disc_bolt():
    job, channel = a_job("road_speed", tyre="205/70 R15")
    job = job.with_chain(replace(channel, road=RoadCount(sensed="wheel", pulses_per_rev=4.0)))
    card = card_at(job, job.chains[0], "wheel magnet")
    assert "Never in place of a brake disc's bolt" in said(card)
    assert "thread locker" in card.tools
    # By hand: 205/70 R15 rolls 2.0 to 2.1 m; four pulses a turn at 50 km/h are 26 to 28 a second.
    hertz = float(card.steps[-1].figure.split(" and ")[1].split()[0])
    assert 26 <= hertz <= 28


@pytest.mark.parametrize(
    ("kind", "pickup", "hertz"),
    [("coil negative", "coil_negative", "2, 26.7 Hz"), ("plug lead", "plug_lead", "0.5, 6.7 Hz")],
)
def test_engine_cards_say_what_is_counted_at_idle(kind, pickup, hertz):
    """Four cylinders, four strokes: two sparks a turn at the coil, half a one in each lead; at 800 rpm 13.3 turns a second."""
    job, channel = a_job("engine_speed", cylinders=4, idle_rpm=800.0)
    job = job.with_chain(replace(channel, engine=EngineCount(pickup=pickup, turns=5.0)))
    card = card_at(job, job.chains[0], kind)
    assert hertz in said(card)
    if kind == "plug lead":
        assert "5 turns" in said(card)


def test_gears_are_taught_one_by_one():
    job, channel = a_job("gear")
    taught = (TaughtGear("1", 1.1), TaughtGear("2", 1.9))
    job = job.with_chain(replace(channel, gears=taught))
    assert "Gear 2. 1.9 V" in said(card_at(job, job.chains[0], "selector"))
    worked_out = job.with_chain(replace(job.chains[0], source="worked_out"))
    card = card_for_source(worked_out, worked_out.chains[0])
    assert "rpm per km/h" in said(card)
    assert "clutch" in said(card)


def test_data_and_gps_have_cards_without_a_place():
    job, channel = a_job("coolant_temperature")
    bus = job.with_chain(replace(channel, source="ecu", signal="CoolantT"))
    assert "CoolantT" in said(card_for_source(bus, bus.chains[0]))
    assert card_for_source(job, channel) is None
    speed, channel = a_job("road_speed")
    gps = speed.with_chain(replace(channel, source="gps"))
    gps = set_antenna(gps, {"where": "roof, rear left", "above": "open sky", "lead_m": 3.0})
    card = card_for_source(gps, gps.chains[0])
    assert "roof, rear left" in said(card)
    assert "never cut" in said(card)


def codes(job):
    return {f.code: f.grade for f in find_all(build(job), solve(build(job), State()))}


@pytest.mark.parametrize(
    ("above", "code", "grade"),
    [
        ("", "antenna_open", "note"),
        ("metal or carbon", "antenna_blind", "stop"),
        ("coated glass", "antenna_behind_coating", "caution"),
        ("open sky", None, None),
    ],
)
def test_an_antenna_wants_the_sky(above, code, grade):
    job, channel = a_job("road_speed")
    job = job.with_chain(replace(channel, source="gps"))
    job = set_antenna(job, {"where": "under the parcel shelf", "above": above, "lead_m": None})
    found = {c: g for c, g in codes(job).items() if c.startswith("antenna")}
    assert found == ({code: grade} if code else {})
    assert set_antenna(job, {"where": "", "above": "", "lead_m": None}).bus.antenna is None


def test_what_a_card_would_refuse_is_a_finding_first():
    """An adapter for 38 mm in a hose of 32, and a sender 50 mm high with 30 mm free above it."""
    job = start_paths(add_channel(Job("j", a_vehicle(cooling="water")), "coolant_temperature"))
    key = job.chains[0].id
    job = choose_sender(job, key, facts_for("coolant_temperature", job.vehicle).senders[0])
    pin = next(c.port.id for c in candidates_for(job, job.chains[0]) if c.port.kind == "hose adapter")
    job = choose_place(job, key, pin)
    port = job.port(job.chains[0].port)
    adapter = next(f for f in generic_fittings() if f.sort == "hose adapter" and f.male == "hose 38 mm")
    job = replace(
        job,
        ports=tuple(
            replace(p, thread="hose 38 mm", stack=(adapter,)) if p.id == port.id else p for p in job.ports
        ),
    )
    wall = replace(job.port(port.id).spot.wall, bore_mm=32.0)
    tight = replace(
        job,
        ports=tuple(
            replace(p, spot=replace(p.spot, wall=wall, room_mm=30.0)) if p.id == port.id else p
            for p in job.ports
        ),
    )
    found = codes(tight)
    assert found["hose_bore"] == "stop"
    assert found["no_room_above"] == "caution"
    assert "does NOT fit" in said(card_for(tight, tight.chains[0], tight.port(port.id)))
    wide = replace(
        tight,
        ports=tuple(
            replace(p, spot=replace(p.spot, wall=replace(wall, bore_mm=38.0), room_mm=200.0))
            if p.id == port.id
            else p
            for p in tight.ports
        ),
    )
    assert not {"hose_bore", "no_room_above"} & codes(wide).keys()


def test_a_tyre_sensor_that_sees_the_arch_is_a_finding():
    """35 degrees at 300 mm see 2 * 300 * tan(17.5 degrees) = 189 mm, more than a tread of 150."""
    job, channel = a_job("tyre_temperature")
    job = choose_sender(job, channel.id, facts_for("tyre_temperature", job.vehicle).senders[0])
    pin = candidates_for(job, job.chains[0])[0].port.id
    job = choose_place(job, channel.id, pin)
    for distance, there in ((300.0, True), (200.0, False)):
        port = job.port(job.chains[0].port)
        seen = replace(
            job,
            ports=(replace(port, tread=replace(port.tread, distance_mm=distance, target_mm=150.0)),),
        )
        assert ("spot_wider_than_tread" in codes(seen)) == there


def test_cards_speak_of_this_wall_and_chain():
    job = van()
    for channel in job.measured:
        for candidate in candidates_for(job, channel):
            words = said(card_for(job, channel, candidate.port))
            assert "None" not in words
            assert "{" not in words
