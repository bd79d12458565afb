"""A test lamp on a connector, against hand arithmetic."""

from __future__ import annotations

import pytest

from metrolex.circuit import GROUND, Fault
from metrolex.errors import BadInput
from metrolex.job import State
from metrolex.twin import addresses, build, instruments, solve
from metrolex.twin.addresses import Address
from metrolex.twin.instruments import filament_ohm, read_test_lamp
from metrolex.twin.load_test import (
    POOR_LEG_OHM,
    WATTS,
    feeds_for_lamp,
    load_test,
    returns_for_lamp,
    telling_watts,
)
from tests.jobs import small_job, van, with_part


def test_the_pins_offered_are_those_with_both_legs_wired():
    pins = [place.key for place in feeds_for_lamp(build(small_job())) if place.key.startswith("pin")]
    assert pins == ["pin|gauge|1", "pin|gauge|2"]
    bare = with_part(small_job(), "conductors", "W3", length_m=None)
    assert not [place for place in feeds_for_lamp(build(bare)) if place.key.startswith("pin")]


def test_a_poor_leg_darkens_the_lamp_and_hardly_moves_the_meter():
    found = load_test(build(small_job()), State("run"), "pin|gauge|2", "", 21.0)
    good, feed, ground = found.legs
    assert good.lamp.looks == "bright"
    assert [leg.lamp.looks for leg in (feed, ground)] == ["glows", "glows"]
    # By hand: the lamp's own law and Ohm's: what the poor leg takes is its ohms times the current through it, gauge and all.
    for leg in (feed, ground):
        assert leg.lamp.current_a == pytest.approx(
            leg.lamp.volts / filament_ohm(leg.lamp.volts, 21.0), rel=1e-6
        )
        gauge_a = leg.lamp.volts / (12.0 / 0.5)
        assert good.lamp.volts - leg.lamp.volts == pytest.approx(
            POOR_LEG_OHM * (leg.lamp.current_a + gauge_a), rel=0.06
        )
        # The meter sees the gauge's own half ampere through the joint, no more.
        assert good.meter_v - leg.meter_v == pytest.approx(POOR_LEG_OHM * leg.meter_v / 24, rel=0.06)
        assert leg.meter_v - leg.lamp.volts > 3


def test_a_lamp_too_strong_for_the_fuse_is_said():
    found = load_test(build(small_job()), State("run"), "pin|gauge|2", "", 55.0)
    assert (found.fuse_a, found.blows) == (2.0, True)
    assert not load_test(build(small_job()), State("run"), "pin|gauge|2", "", 5.0).blows
    dead = load_test(build(small_job()), State("off"), "pin|gauge|2", "", 5.0)
    assert (dead.legs[0].lamp.looks, dead.blows) == ("dark", False)


@pytest.mark.parametrize(
    ("at", "back", "watts"),
    [
        ("pin|gauge|5", "", 5),
        ("pin|gauge|9", "", 5),
        ("pin|x|1", "", 5),
        ("pin|gauge|2", "ground|GP9", 5),
        ("pin|gauge|2", "", 0),
        ("pin|gauge|2", "", 90),
    ],
)
def test_what_cannot_be_hung_is_refused(at, back, watts):
    with pytest.raises(BadInput):
        load_test(build(small_job()), State("run"), at, back, watts)


@pytest.mark.thorough
def test_every_place_of_the_van_can_be_tested():
    network = build(van())
    for feed in feeds_for_lamp(network):
        for back in returns_for_lamp(network):
            legs = load_test(network, State("run", "park"), feed.key, back.key, 5.0).legs
            assert len(legs) == 2 + (back.way is not None)


def test_a_poor_feed_of_the_vehicle_darkens_a_lamp_hung_there():
    """Constant slot F31 to a ground point: by hand, what 5 ohm take is 5 times all that flows there, the lamp's 0.4 A and what hangs there else."""
    network = build(van())
    found = load_test(network, State("off"), "circuit|F31", "ground|GP1", 5.0)
    good, feed, ground = found.legs
    for poor, way in ((feed, found.feed.way), (ground, found.back.way)):
        through = abs(poor.lamp.solved.solution.currents[way])
        assert good.lamp.volts - poor.lamp.volts == pytest.approx(5.0 * through, rel=0.05)
        assert poor.lamp.current_a == pytest.approx(
            poor.lamp.volts / filament_ohm(poor.lamp.volts, 5.0), rel=1e-6
        )
    dark = load_test(network, State("off"), "circuit|F22", "battery", 5.0)
    assert dark.legs[0].lamp.looks == "dark"
    assert len(dark.legs) == 2


@pytest.mark.parametrize("watts", [1.0, 5.0, 21.0, 60.0])
@pytest.mark.parametrize("poor_ohm", [0.001, 1.0, 20.0, 500.0])
def test_the_lamp_settles_on_its_own_filament_in_few_solutions(watts, poor_ohm, monkeypatch):
    """The gauge falls asleep behind the poorest joints; the lamp must settle there all the same."""
    solved = []

    def counting(*given, **named):
        solved.append(given)
        return solve(*given, **named)

    monkeypatch.setattr(instruments, "solve", counting)
    pins, fault = (
        (Address("display", "gauge", "pin", "2"), Address("display", "gauge", "pin", "4")),
        [Fault(addresses.wire("W3"), "resistance", poor_ohm)],
    )
    lamp = instruments.read_test_lamp(build(small_job()), State("run"), *pins, watts, fault)
    assert lamp.volts / lamp.current_a == pytest.approx(filament_ohm(lamp.volts, watts), rel=1e-6)
    assert len(solved) <= 8


def test_a_lamp_is_judged_beside_the_battery():
    """Filament law, light as volts to the 3.5: at 10.7 of 13.7 V it gives (10.7 / 13.7) ** 3.5 = 42 % of its light, and is not called bright."""
    network = build(van())
    wires = ("W2", "W6")
    state = State("run", "off", "running")
    pins = (
        addresses.pin_node(van().display("gauge 1"), "2"),
        addresses.pin_node(van().display("gauge 1"), "4"),
    )
    good = read_test_lamp(network, state, *pins, 5.0)
    assert good.looks == "bright"
    poor = read_test_lamp(network, state, *pins, 5.0, [Fault(addresses.wire(wires[1]), "resistance", 7.5)])
    posts = abs(poor.solved.across(addresses.BATTERY_POSITIVE, GROUND))
    assert poor.light_ratio == pytest.approx((poor.volts / posts) ** 3.5, rel=0.02)
    assert poor.volts > 9
    assert poor.looks in ("weaker", "dim")


def test_the_lamp_that_tells_good_from_poor_is_the_smallest():
    network, state = build(van()), State("run")
    best = telling_watts(network, state, "pin|gauge 1|2")
    assert best in WATTS
    at = WATTS.index(best)
    assert at > 0
    smaller = load_test(network, state, "pin|gauge 1|2", "", WATTS[at - 1])
    good, *poor = (leg.lamp.light_ratio for leg in smaller.legs)
    assert any(light > 0.5 * good for light in poor)
    found = load_test(network, state, "pin|gauge 1|2", "", best)
    assert not found.blows
