"""A test lamp on a connector, against hand arithmetic."""

from __future__ import annotations

import pytest

from metrolex.circuit import Fault
from metrolex.errors import BadInput
from metrolex.job import State
from metrolex.twin import addresses, build, instruments, solve
from metrolex.twin.addresses import Address
from metrolex.twin.instruments import filament_ohm
from metrolex.twin.load_test import POOR_LEG_OHM, connectors_of, load_test
from tests.jobs import small_job, van, with_part


def test_the_pins_offered_are_those_with_both_legs_wired():
    assert [(d.id, p.id) for d, p in connectors_of(build(small_job()))] == [("gauge", "1"), ("gauge", "2")]
    bare = with_part(small_job(), "conductors", "W3", length_m=None)
    assert connectors_of(build(bare)) == []


def test_a_poor_leg_darkens_the_lamp_and_hardly_moves_the_meter():
    found = load_test(build(small_job()), State("run"), "gauge", "2", 21.0)
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
    found = load_test(build(small_job()), State("run"), "gauge", "2", 55.0)
    assert (found.fuse_a, found.blows) == (2.0, True)
    assert not load_test(build(small_job()), State("run"), "gauge", "2", 5.0).blows
    dead = load_test(build(small_job()), State("off"), "gauge", "2", 5.0)
    assert (dead.legs[0].lamp.looks, dead.blows) == ("dark", False)


@pytest.mark.parametrize(
    ("display", "pin", "watts"),
    [("gauge", "5", 5), ("gauge", "9", 5), ("x", "1", 5), ("gauge", "2", 0), ("gauge", "2", 90)],
)
def test_what_cannot_be_hung_is_refused(display, pin, watts):
    with pytest.raises(BadInput):
        load_test(build(small_job()), State("run"), display, pin, watts)


@pytest.mark.thorough
def test_every_connector_of_the_van_can_be_tested():
    network = build(van())
    for display, pin in connectors_of(network):
        assert len(load_test(network, State("run", "park"), display.id, pin.id, 5.0).legs) == 3


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
