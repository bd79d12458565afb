"""The page of switches, and the switches of a job in the line above."""

from __future__ import annotations

import pytest

from metrolex.job import End, State
from metrolex.topology import topology_of
from workbench.jobs.state import thrown_from, thrown_said

SWITCH = {
    "switch": "",
    "name": "Fan relay",
    "kind": "relay",
    "poles": "1",
    "limit_a": "30 A",
    "contact_ohm": "10 mohm",
    "coil_ohm": "90 ohm",
    "pulls_v": "7.2 V",
}


def into_lamps(bay, **more):
    tap = next(tap for tap in bay.job.taps if tap.need == "lamps")
    wire = topology_of(bay.job).wires_at(End("tap", tap.id))[0]
    return bay.post(
        "switches/into-wire/",
        **({"name": "Gauge lights", "wire": wire.id, "kind": "on_off", "after_m": "0.4"} | more),
    )


def test_a_switch_goes_into_a_wire_and_is_turned_in_the_line_above(bay, text):
    assert into_lamps(bay).status_code == 302
    page = text(bay.get("switches/"))
    assert "Gauge lights" in page
    assert 'value="SW1|1"' in page
    bay.post("key-switch/", key="run", lamps="park", engine="stopped")
    dark = text(bay.get("feeds/backlight/"))
    bay.post("key-switch/", switch="SW1|1")
    lit = text(bay.get("switches/"))
    assert "Gauge lights at on" in lit
    assert dark.count("Gauge lights") >= 1  # the switch stands in the line of every page
    bay.post("key-switch/", switch="SW1|0")
    assert "Gauge lights at on" not in text(bay.get("switches/"))


def test_what_was_seen_with_a_switch_thrown_is_kept_with_it(bay, text):
    into_lamps(bay)
    bay.post("key-switch/", key="run", lamps="park", engine="stopped", thrown="SW1")
    page = text(bay.get("proving/"))
    assert "Gauge lights: on" in page
    gauge = bay.job.displays[0]
    data = {"test": f"display|{gauge.id}|pin|{gauge.pin_for('lamps').id}", "key": "run", "lamps": "park"}
    assert bay.post("proving/seen/", **data, engine="stopped", thrown="SW1", found="12.2").status_code == 302
    assert bay.job.observations[-1].state == State("run", "park", thrown=("SW1",))
    assert "Gauge lights at on" in text(bay.get("handover/book/"))


def test_a_switch_taken_out_is_forgotten_by_the_line_above(bay, text):
    into_lamps(bay)
    bay.post("key-switch/", switch="SW1|1")
    assert bay.post("switches/remove/", switch="SW1").status_code == 302
    assert "thrown" not in text(bay.get(""))
    assert bay.job.switches == ()


def test_a_relay_is_added_changed_and_refused_as_typed(bay, text):
    assert bay.post("switches/save/", **SWITCH).status_code == 302
    assert (bay.job.switches[0].id, bay.job.switches[0].limit_a) == ("K1", 30.0)
    assert bay.post("switches/save/", **(SWITCH | {"switch": "K1", "coil_ohm": "80"})).status_code == 302
    assert bay.job.switches[0].coil_ohm == 80.0
    for wrong in ({"poles": "2"}, {"limit_a": "lots"}, {"name": ""}):
        answer = bay.post(
            "switches/save/", **(SWITCH | {"switch": "K1", "place": "left of the column"} | wrong)
        )
        assert answer.status_code == 422, wrong
        assert "left of the column" in text(answer)
    assert bay.job.switches[0].place == ""


def test_two_readings_share_a_dial_and_what_cannot_is_said_at_the_field(bay, text):
    refused = bay.post("switches/share/", first="gearbox", other="battery", name="")
    assert refused.status_code == 422
    assert "not measured in the same" in text(refused)
    assert bay.post("switches/share/", first="gearbox", other="coolant", name="").status_code == 302
    switch = bay.job.switches[0]
    assert (switch.name, switch.channels) == ("Gearbox oil or coolant", ("gearbox", "coolant"))
    board = text(bay.get(""))
    assert "Gearbox oil or coolant stands at Gearbox oil" in board
    diagram = text(bay.get("harness/diagram/"))
    assert "switch, Gearbox oil" in diagram
    bay.post("key-switch/", switch="SW1|1")
    assert "switch, Coolant" in text(bay.get("harness/diagram/"))


@pytest.mark.parametrize("thrown", [(), ("SW1",), ("SW1", "odd | id"), ("a", "b", "c,d")])
def test_switches_thrown_come_back_from_a_form_as_they_went_whatever_their_ids(thrown):
    said = thrown_said(State(thrown=thrown)).replace("\n", "\r\n")  # as a browser sends lines
    assert tuple(thrown_from(said)) == thrown
