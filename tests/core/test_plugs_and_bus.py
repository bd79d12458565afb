"""Old colour to new terminal, left and right, polarity, outputs; the data pair and its description."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts.channels import add_channel
from metrolex.acts.ports import choose_sender
from metrolex.bus.description import read_description
from metrolex.bus.pair import bus_findings, judge_pair, longest_stub_m, signals_for
from metrolex.errors import BadInput
from metrolex.harness.colours import colour_words
from metrolex.harness.plan import Lengths, plan_wires, waits_for_a_plug
from metrolex.harness.translate import (
    function_words,
    joints_to_lay,
    mirrored,
    places_of,
    plug_findings,
    translation,
    unused_pins,
)
from metrolex.job import Bus, Cavity, Connector, End, Job, Pin, WireLook
from metrolex.jobfile import job_from_data, job_from_text, job_to_text
from metrolex.schema import with_panels
from tests.jobs import a_vehicle, shipped, van, with_part

DESCRIPTION = """VERSION ""
NS_ :
BS_:
BU_: ENGINE DASH
BO_ 256 Engine1: 8 ENGINE
 SG_ EngineSpeed : 0|16@1+ (0.25,0) [0|16000] "rpm" DASH
 SG_ OilPress : 16|8@1+ (0.05,0) [0|12.75] "bar" DASH
BO_ 257 Engine2: 8 ENGINE
 SG_ CoolantTemp : 0|8@1+ (1,-40) [-40|215] "degC" DASH
"""


def tender():
    return shipped("fire_tender")


def codes(findings):
    return {f.code for f in findings}


def with_cavity(job, pin, **changes):
    plug = job.connectors[0]
    return replace(
        job,
        connectors=(
            replace(
                plug, cavities=tuple(replace(c, **changes) if c.pin == pin else c for c in plug.cavities)
            ),
        ),
    )


def test_every_cavity_has_its_row():
    rows = {row.cavity.pin: row for row in translation(tender())}
    assert len(rows) == 10
    assert (rows["1"].pin.id, rows["1"].wire.id) == ("20", "W14")
    assert (rows["5"].pin.role, rows["5"].wire) == ("ignition", None)
    assert (rows["9"].pin.role, rows["9"].wire.id) == ("signal", "W9")
    assert (rows["4"].wire, rows["4"].do) == (None, "not joined yet")
    assert rows["10"].do == "cap it"
    assert any("means main beam" in words for words in rows["5"].conflicts)
    assert not rows["6"].conflicts
    assert function_words("turn left") == "Turn signal, left"
    assert function_words("pump lamp") == "pump lamp"


def test_a_sound_plug_is_silent():
    assert not codes(plug_findings(tender()))


def test_left_and_right_swapped_is_a_stop():
    job = with_cavity(with_cavity(tender(), "1", function="turn right"), "2", function="turn left")
    found = [f for f in plug_findings(job) if f.code == "swapped"]
    assert [f.grade for f in found] == ["stop", "stop"]


WRONG = [
    ("1", {"function": "constant"}, "wrong_function", "stop"),
    ("1", {"function": "door"}, "wrong_function", "caution"),
    ("3", {"switched": "ground"}, "polarity_wrong", "caution"),
]


@pytest.mark.parametrize(("pin", "change", "code", "grade"), WRONG)
def test_a_wire_goes_by_its_function_and_polarity(pin, change, code, grade):
    assert (code, grade) in {(f.code, f.grade) for f in plug_findings(with_cavity(tender(), pin, **change))}


def test_hearsay_is_no_proof():
    job = tender()
    assert "plug_unproved" in codes(
        plug_findings(replace(job, connectors=(replace(job.connectors[0], proved=False),)))
    )


@pytest.mark.parametrize(
    ("drives", "function", "found"),
    [(1.4, "lights", set()), (1.6, "lights", {"output_overloaded"}), (0.2, "fan", {"fan_on_a_switch"})],
)
def test_outputs_have_limits(drives, function, found):
    job = tender()
    pins = tuple(
        replace(p, drives_a=drives, function=function) if p.role == "output" else p
        for p in job.displays[0].pins
    )
    job = replace(job, displays=(replace(job.displays[0], pins=pins),))
    assert codes(plug_findings(job)) == found


def test_the_other_side_mirrors_left_and_right_only():
    plug = Connector(
        "p", "Plug", None, "wire side", (Cavity("1", 1, 1), Cavity("2", 1, 2), Cavity("3", 2, 3))
    )
    assert [(c.pin, r, k) for c, r, k in places_of(plug, "wire side")] == [
        ("1", 1, 1),
        ("2", 1, 2),
        ("3", 2, 3),
    ]
    assert [(c.pin, r, k) for c, r, k in places_of(plug, mirrored("wire side"))] == [
        ("1", 1, 3),
        ("2", 1, 2),
        ("3", 2, 1),
    ]
    assert mirrored(mirrored("wire side")) == "wire side"


@pytest.mark.parametrize(
    "cavities", [(Cavity("1", 1, 1), Cavity("1", 1, 2)), (Cavity("1", 1, 1), Cavity("2", 1, 1))]
)
def test_two_pins_of_one_number_or_place_are_refused(cavities):
    with pytest.raises(BadInput, match="cavities"):
        Connector("p", "Plug", cavities=cavities)


def test_unused_pins_say_what_to_do():
    words = {pin.id: what for _, pin, what in unused_pins(tender())}
    assert "cap it by itself" in words["10"]
    assert "1" not in words


PAIRS = [
    (60.4, True, False),
    (66.5, False, False),
    (119, False, True),
    (40, False, False),
    (2, False, False),
    (5000, False, False),
    (90, False, False),
]


@pytest.mark.parametrize(("ohm", "healthy", "terminate"), PAIRS)
def test_the_pair_with_the_power_off(ohm, healthy, terminate):
    # ISO 11898-2: 120 ohm at each end, so 60 across a sound pair.
    verdict = judge_pair(ohm)
    assert (verdict.healthy, verdict.terminate) == (healthy, terminate)


def test_what_the_bus_wants():
    job = shipped("single_seater")
    assert not codes(bus_findings(job))
    assert codes(bus_findings(replace(job, bus=replace(job.bus, pair_ohm=None)))) == {"pair_not_measured"}
    assert codes(bus_findings(replace(job, bus=replace(job.bus, pair_ohm=120.0, stub_m=2.0)))) == {
        "pair_unhealthy",
        "stub_long",
    }
    assert codes(bus_findings(job.with_chain(replace(job.chain("coolant"), signal="Moon")))) == {
        "signal_unknown"
    }
    assert codes(bus_findings(job.with_chain(replace(job.chain("coolant"), signal="")))) == {"signal_open"}
    ended = replace(job, displays=(replace(job.displays[0], can_termination=True),))
    assert codes(bus_findings(ended)) == {"one_resistor_too_many"}
    assert longest_stub_m(1000) == pytest.approx(0.3)


def test_a_description_is_read_and_the_likely_signal_comes_first():
    signals = read_description(DESCRIPTION)
    assert [(s.name, s.frame, s.unit) for s in signals] == [
        ("EngineSpeed", 256, "rpm"),
        ("OilPress", 256, "bar"),
        ("CoolantTemp", 257, "degC"),
    ]
    job = shipped("single_seater")
    bus = Bus(signals=signals)
    assert signals_for(job.chain("coolant"), bus)[0].name == "CoolantTemp"
    assert signals_for(job.chain("engine speed"), bus)[0].name == "EngineSpeed"
    assert not signals_for(job.chain("gear"), bus)


@pytest.mark.parametrize(
    "text", ["", "not a description", 'VERSION ""\nNS_ :\nBS_:\nBU_: A\n', "BO_ 1", "\x00" * 50]
)
def test_what_is_no_description_is_refused_in_words(text):
    with pytest.raises(BadInput) as fault:
        read_description(text)
    assert fault.value.field == "description"
    assert "\n" not in fault.value.message


def test_a_job_file_of_the_first_version_gets_its_panels():
    old = {
        "schema_version": 1,
        "name": "x",
        "vehicle": {"name": "Sidecar outfit"},
        "circuits": [
            {"id": "F1", "panel": "Cabin"},
            {"id": "F2", "panel": "Cabin"},
            {"id": "F3"},
            {"id": "F4", "panel": " "},
        ],
    }
    job = job_from_data(old)
    assert [(p.id, p.name) for p in job.panels] == [("Cabin", "Cabin")]
    assert [c.slot.panel for c in job.circuits] == ["Cabin", "Cabin", None, None]
    assert job_from_text(job_to_text(job)) == job
    assert with_panels({"circuits": "x"}) == {"circuits": "x"}


def test_a_wire_may_end_on_a_plug_of_the_vehicle():
    job = tender()
    with pytest.raises(BadInput, match="conductors"):
        job_from_text(
            job_to_text(with_part(job, "conductors", "W14", a=replace(job.wire("W14").a, terminal="77")))
        )
    assert not van().connectors


def test_only_what_nothing_needs_is_capped():
    """The charge lamp may excite the alternator; turn and main beam must be seen by law; a sender's wire is read or left to the old gauge."""
    job = replace(
        tender(), conductors=tuple(w for w in tender().conductors if "plug" not in (w.a.kind, w.b.kind))
    )
    bare = replace(
        job,
        displays=tuple(replace(d, pins=tuple(replace(p, function="") for p in d.pins)) for d in job.displays),
    )
    said = {row.cavity.function: row.do for row in translation(bare)}
    for function in ("turn left", "turn right", "main beam", "oil lamp", "charge"):
        assert said[function] != "cap it"
    assert "alternators" in said["charge"]
    assert said[""] == "cap it"
    assert "not joined yet" in {row.do for row in translation(job)}


def test_the_missing_wires_are_laid_from_the_old_plug_too():
    job = replace(
        tender(), conductors=tuple(w for w in tender().conductors if "plug" not in (w.a.kind, w.b.kind))
    )
    waiting = joints_to_lay(job)
    assert {pin.role for _, _, pin, _ in waiting} <= {"lamp_input", "output", "can_high", "can_low"}
    assert len(waiting) >= 3
    after = plan_wires(job, Lengths(plug_m=0.4)).job
    laid = [w for w in after.conductors if "plug" in (w.a.kind, w.b.kind)]
    assert len(laid) == len(waiting) + 1  # the fuel level is joined at a pin of the plug
    assert {w.length_m for w in laid} == {0.4}
    assert not joints_to_lay(after)
    assert not {"swapped", "wrong_function"} & codes(plug_findings(after))


def test_the_data_pair_is_laid_twisted():
    job = tender()
    plug = replace(
        job.connectors[0],
        cavities=(
            Cavity("1", 1, 1, "LG", "WH", "RD", "data high"),
            Cavity("2", 1, 2, "LG", "", "", "data low"),
        ),
    )
    display = job.displays[0]
    pins = tuple(p for p in display.pins if p.role not in ("can_high", "can_low"))
    pair = (Pin("90", "data high", "can_high"), Pin("91", "data low", "can_low"))
    job = replace(
        job,
        connectors=(plug,),
        displays=(replace(display, pins=(*pins, *pair)), *job.displays[1:]),
        conductors=tuple(w for w in job.conductors if "plug" not in (w.a.kind, w.b.kind)),
    )
    ends = {End("plug", plug.id, "1"), End("plug", plug.id, "2")}
    laid = [w for w in plan_wires(job).job.conductors if ends & {w.a, w.b}]
    assert {w.sheath.twist for w in laid} == {"data pair"}
    assert {w.look.code for w in laid} == {"LG/WH/RD", "LG"}


def test_a_pick_up_is_laid_twisted_and_shielded():
    """A content sensor gives pulses: signal and return under one shield, its supply beside them."""
    job = add_channel(Job("j", a_vehicle()), "ethanol_content")
    job = choose_sender(job, job.chains[0].id, "content sensor, 50 to 150 Hz")
    laid = [w for w in plan_wires(job).job.conductors if "sender" in (w.a.kind, w.b.kind)]
    terminal = {next(e.terminal for e in (w.a, w.b) if e.kind == "sender"): w for w in laid}
    assert {name: w.sheath.shield for name, w in terminal.items()} == {
        "signal": True,
        "return": True,
        "supply": False,
    }
    assert len({w.sheath.twist for w in laid}) == 1


def test_colours_in_words_with_two_stripes():
    assert colour_words("LB", "WH", "RD") == "light blue with a white and a red stripe"
    assert WireLook("DG", "WH", "", "BK").code == "DG/WH/BK"
    assert WireLook("", "WH").code == ""


def test_what_is_joined_at_a_plug_is_laid_once():
    job = shipped("fire_tender")
    assert plan_wires(job).added == 0
    joined = next(wire for wire in job.conductors if wire.b == End("plug", "cluster plug", "9"))
    without = replace(job, conductors=tuple(wire for wire in job.conductors if wire is not joined))
    assert (waits_for_a_plug(job), waits_for_a_plug(without)) == (False, True)
    again = plan_wires(without).job.conductors
    (new,) = [wire for wire in again if wire not in without.conductors]
    assert (new.a, new.b) == (joined.a, joined.b)
    assert (new.length_m, new.run) == (None, None)  # nobody said how far: its sender's way is another
