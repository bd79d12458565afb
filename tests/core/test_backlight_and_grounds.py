"""Backlights together, ground offsets by hand calculation, one point of the circuit in every state."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts.brief import set_electrics
from metrolex.job import Conductor, End, State
from metrolex.twin import addresses, build, solve
from metrolex.twin.addresses import Address
from metrolex.twin.backlight import backlight_findings, backlights, level_of, remedies
from metrolex.twin.grounds import BUSY, ground_findings, ground_layouts, sender_grounds
from metrolex.twin.instruments import read_meter
from metrolex.twin.point import facts_of
from tests.jobs import small_job, van, with_facts, with_part

LEVELS = [
    ("dims", 0.0, ("bright", "bright")),
    ("dims", 1.0, ("dim", "dim")),
    ("lights", 0.0, ("dark", "dark")),
    ("lights", 1.0, ("bright", "dim")),
    ("follows", 1.0, ("bright", "bright")),
    ("follows", 0.5, ("dim", "dim")),
    ("follows", 0.0, ("dark", "dark")),
    ("sensor", 0.0, ("bright", "dim")),
    ("", 1.0, ("unknown", "unknown")),
]


@pytest.mark.parametrize(("lighting", "ratio", "levels"), LEVELS)
def test_what_a_display_does(lighting, ratio, levels):
    display = with_facts(van().displays[0], lighting=lighting)
    assert tuple(level_of(display, ratio, scene) for scene in ("day", "night")) == levels


def mixed(*lightings, no_dimmer=False):
    job = van()
    shown = tuple(
        with_facts(d, lighting=word, no_dimmer=no_dimmer)
        for d, word in zip(job.displays, lightings, strict=True)
    )
    wire = Conductor("W90", End("splice", "S3"), End("display", "gauge 4", "3"), 0.5, length_m=0.3)
    return replace(job, displays=shown, conductors=(*job.conductors, wire))


def codes(job):
    return [(f.code, f.subject) for f in backlight_findings(build(job))]


def test_four_alike_on_the_park_lamps_are_silent():
    assert not codes(mixed("dims", "dims", "dims", "dims"))
    assert {light.levels for light in backlights(build(mixed("dims", "dims", "dims", "dims")))} == {
        ("bright", "dim", "dim")
    }


def test_a_mix_is_seen_before_buying_and_the_way_out_is_tried():
    job = mixed("dims", "dims", "lights", "sensor")
    assert ("backlights_differ", "day") in codes(job)
    best = remedies(build(job))[0]
    assert best.wrong == 0
    assert "gauge 3 on the ignition feed" in best.words
    left_off = next(r for r in remedies(build(job)) if "left off" in r.words)
    assert left_off.wrong > 0


def test_a_dimmed_feed_under_a_display_that_must_not_see_one_is_a_stop():
    job = mixed("dims", "dims", "dims", "dims", no_dimmer=True)
    dimmed = with_part(job, "taps", "T3", circuit="F33")
    assert ("dimmer_forbidden", "gauge 1") in codes(dimmed)
    assert ("dimmer_forbidden", "gauge 1") not in codes(job)
    assert next(r for r in remedies(build(job)) if r.breaks_rule).words.startswith("The dimmed")


def test_nobody_looked_it_up_is_said():
    assert ("lighting_unknown", "gauge 2") in codes(mixed("dims", "", "dims", "dims"))


def test_the_offset_of_a_one_wire_sender_is_the_meter_between_its_two_grounds():
    network = build(van())
    found = {s.channel.id: s for s in sender_grounds(network)}
    meter = read_meter(
        network,
        BUSY,
        addresses.sender_node("coolant sender", "body"),
        Address("display", "gauge 2", "pin", "4"),
    )
    assert found["coolant"].offset_v == pytest.approx(meter, abs=1e-3)
    assert "thread into the engine" in found["coolant"].returns
    assert abs(found["gearbox"].offset_v) < 0.01  # a wire of its own
    assert abs(found["gearbox"].shift) <= 1


def test_the_offset_is_what_the_straps_make_by_hand():
    # A display that draws 2 A through its own ground of 0.1 ohm and a sender that returns by a wire to the same pin:
    # the sender sees none of it; its display stands 2 A x (0.1 + body lead) above the battery.
    job = with_part(small_job(), "grounds", "GP1", contact_ohm=0.1)
    pins = tuple(
        with_facts(p, load_a=2.0, load_kind="constant") if p.id == "2" else p for p in job.displays[0].pins
    )
    job = replace(job, displays=(replace(job.displays[0], pins=pins),))
    layouts = {layout.key: layout for layout in ground_layouts(build(job))}
    assert layouts["laid"].rises_v["gauge"] == pytest.approx(2.0 * (0.1 + 0.5 * 24.7e-3 + 0.002), abs=0.09)
    assert abs(layouts["laid"].senders[0].offset_v) < 0.02
    assert layouts["star"].worst_v == pytest.approx(
        layouts["chain"].worst_v, abs=1e-3
    )  # with one display they are one


def test_a_chain_lifts_the_last_display_most_and_a_star_none_over_another():
    layouts = {layout.key: layout.rises_v for layout in ground_layouts(build(van()))}
    chain, star = list(layouts["chain"].values()), list(layouts["star"].values())
    assert chain == sorted(chain)
    assert chain[-1] > max(star)
    assert max(star) - min(star) < 0.005


def test_a_sender_that_returns_to_the_point_still_does_however_the_displays_are_grounded():
    job = small_job()
    back = next(
        w for w in job.conductors if any(e.kind == "sender" and e.terminal == "return" for e in (w.a, w.b))
    )
    sender = next(e for e in (back.a, back.b) if e.kind == "sender")
    job = with_part(job, "conductors", back.id, a=sender, b=End("ground", "GP1"))
    layouts = {layout.key: layout.senders[0] for layout in ground_layouts(build(job))}
    assert set(layouts) == {"laid", "star", "chain"}
    for found in layouts.values():
        assert found.offset_v is not None
        # From the point to the display's pin only its own supply current flows: the sender stands just below it.
        assert -0.05 < found.offset_v <= 1e-6
        assert found.shift is not None


def test_a_display_without_a_ground_yet_is_told_what_star_would_do_to_its_readings():
    job = small_job()
    job = replace(
        job, conductors=tuple(w for w in job.conductors if all(e.kind != "ground" for e in (w.a, w.b)))
    )
    layouts = {layout.key: layout.senders[0] for layout in ground_layouts(build(job))}
    assert layouts["laid"].shift is None
    assert layouts["star"].shift is not None


def test_an_offset_worth_saying_says_what_it_does_to_the_reading():
    found = next(f for f in ground_findings(build(van())) if f.channel == "coolant")
    assert found.grade == "note"
    bad = set_electrics(van(), {"negative_to_body_ohm": 0.02, "engine_to_body_ohm": 0.05})
    assert next(f for f in ground_findings(build(bad)) if f.channel == "coolant").grade == "caution"


def test_a_point_is_read_in_every_state():
    network = build(van())
    facts = facts_of(network, State("run"), "tap T3 output")
    volts = dict(facts.volts)
    assert volts["key run"] < 0.5
    assert volts["key run, lamps park"] > 11
    assert volts["key run, lamps park"] == pytest.approx(
        solve(network, State("run", "park")).volts(addresses.tap_node("T3"))
    )
    assert "tap T3" in dict(facts.hanging)
    assert facts_of(network, State("run"), "the moon") is None
