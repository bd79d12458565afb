"""What circuits are, which to tap, behind which fuse."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.errors import BadInput
from metrolex.feeds.choose import choose_taps
from metrolex.feeds.classify import classify, classify_circuits, highest_readings
from metrolex.feeds.fuses import choose_fuse, nearest_rating
from metrolex.feeds.probe import read_probe
from metrolex.feeds.safety import standing_of
from metrolex.job import Circuit, Readings
from tests.jobs import ACCESSORY, ALL_NIGHT, ALWAYS, LAMPS, RUN_AND_CRANK, RUN_ONLY

HIGHEST = {"off": 12.6, "acc": 12.6, "run": 12.5, "crank": 10.6, "park": 12.6, "head": 12.5}
LIVE, DEAD = "live", "dead"

CLASSES = [
    ((0.0, 0.0, 0.0, 0.0, 0.0, 12.4), "headlamps"),
    ((12.6, 12.6, 12.5, 10.7, 12.6, 12.5), "constant"),
    ((0, 12.5, 12.4, 0.1, 0, 0), "accessory"),
    ((0, 0, 12.4, 0.2, 0, 0), "ignition"),
    ((0, 0, 12.4, 10.4, 0, 0), "ignition_crank"),
    ((0, 12.3, 12.4, 10.4, 0, 0), "ignition_crank"),
    ((0, 0, 0, 0, 12.4, 12.3), "lamps"),
    ((0, 0, 0, 0, 6.0, 6.1), "dimmed"),
    ((0, 0, 0, 0, 0, 0), "dead"),
    ((1.9, 1.9, 1.9, 1.5, 1.9, 1.9), "dead"),
    ((0, 0, 6.0, 0, 0, 0), "unclear"),
    ((12.6, 0, 0, 0, 0, 0), "unclear"),
    ((0, 0, 12.4, None, 0, 0), "unclear"),
    ((DEAD, DEAD, LIVE, LIVE, DEAD, DEAD), "ignition_crank"),
    ((LIVE,) * 6, "constant"),
    ((0, 12.5, 0, 0, 0, 0), "unclear"),
    ((0, 0, 12.4, 7.0, 0, 0), "unclear"),
    ((0, 0, 0, 0, 6.0, 12.4), "dimmed"),
]


@pytest.mark.parametrize(("volts", "feed"), CLASSES)
def test_classes(volts, feed):
    readings = Readings(*(float(v) if isinstance(v, int) else v for v in volts))
    assert classify(readings, HIGHEST).feed == feed


def test_what_is_missing_is_named():
    verdict = classify(Readings(off=0.0, run=12.4), HIGHEST)
    assert verdict.unread == ("acc", "crank", "park", "head")
    assert verdict.reason == "Not read yet: acc, crank, park, head."


def test_live_is_judged_against_the_best_reading_of_that_state():
    # A weak battery: 8.0 V cranking is live beside 9.0, though it would be dead beside 12.6 at 70 %.
    circuits = [
        Circuit("A", readings=Readings(0.0, 0.0, 12.0, 8.0, 0.0, 0.0)),
        Circuit("B", readings=Readings(12.0, 12.0, 12.0, 9.0, 12.0, 12.0)),
    ]
    assert highest_readings([c.readings for c in circuits])["crank"] == 9.0
    assert classify_circuits(circuits)["A"].feed == "ignition_crank"


def test_stray_volts_ask_for_a_lamp_and_a_lamp_feed_for_the_dimmer():
    """0.3 to 3 V on a meter is what a wire that hangs on nothing shows."""
    assert "test lamp" in classify(replace(RUN_AND_CRANK, off=1.2), HIGHEST).next_step
    assert "off 1.2 V" in classify(replace(RUN_AND_CRANK, off=1.2), HIGHEST).reason
    assert classify(replace(RUN_AND_CRANK, off=0.2), HIGHEST).next_step == ""
    assert "test lamp" in classify(replace(RUN_AND_CRANK, off=2.6), HIGHEST).next_step
    assert "dimmer" in classify(LAMPS, HIGHEST).next_step


def test_weak_feeds_alone_are_not_made_whole():
    """Only a dimmed feed was read with the lamps on: the battery of the other states tells that it is weak."""
    dimmed = circuit("F1", Readings(0.0, 0.0, 0.0, 0.0, 6.0, 6.1))
    verdicts = classify_circuits([dimmed, circuit("F2", Readings(off=12.5, run=12.4))])
    assert verdicts["F1"].feed == "dimmed"


PURPOSES = [
    ("Seat belts and airbag", "never", "restraint"),
    ("SRS", "never", "restraint"),
    ("ABS pump", "never", "brakes"),
    ("Stop lamps", "never", "brakes"),
    ("Power steering", "never", "steering"),
    ("Engine ECU", "never", "engine control"),
    ("Fuel pump relay", "never", "fuel supply"),
    ("Ignition coils", "never", "engine control"),
    ("Gear selector", "never", "gearbox control"),
    ("Immobiliser", "never", "immobiliser"),
    ("Trailer brake", "never", "brakes"),
    ("Body control module", "avoid", "shared module feed"),
    ("Left headlamp", "avoid", "headlamps"),
    ("Accessory socket, rear", "fair", "accessory"),
    ("Radio", "fair", "comfort"),
    ("Mirrors", "fair", "comfort"),
    ("Windows, front", "fair", "comfort"),
    ("Wipers", "fair", "comfort"),
    ("Parking lamps, left", "fair", "parking and plain lamps"),
    ("Beacon", "fair", "comfort"),
    ("Absorber fridge", "fair", "comfort"),
    ("Escape hatch motor", "fair", "comfort"),
    ("Air-bag unit", "never", "restraint"),
    ("Radio and ABS", "never", "brakes"),
]


@pytest.mark.parametrize(("purpose", "grade", "system"), PURPOSES)
def test_what_may_be_tapped(purpose, grade, system):
    standing = standing_of(purpose)
    assert (standing.grade, standing.system) == (grade, system)


def circuit(key, readings, purpose="Radio", proved=True, rating=10.0):
    return Circuit(key, purpose, rating_a=rating, readings=readings, fuse_pulled_dead=proved)


def test_the_proved_fair_circuit_is_taken_and_the_others_say_why_not():
    sheet = [
        circuit("F9", ALWAYS, "Airbag"),
        circuit("F5", ALWAYS, "Mirrors", proved=None),
        circuit("F6", ALL_NIGHT, "Clock"),
        circuit("F10", ALWAYS, "Boot lamp"),
        circuit("F7", ALWAYS, "Instrument cluster"),
        circuit("F2", RUN_ONLY),
        circuit("F3", ACCESSORY),
        circuit("F4", RUN_AND_CRANK, "Windows"),
        circuit("F8", LAMPS, "Parking lamps"),
    ]
    choice = choose_taps(sheet, {"constant": 0.02, "ignition_crank": 1.0, "lamps": 0.2})
    assert choice.taken == {"constant": "F6", "ignition_crank": "F4", "lamps": "F8"}
    assert not choice.findings
    reasons = {c.circuit.id: c.reason for c in choice.candidates["ignition_crank"]}
    assert "Never tapped: restraint" in reasons["F9"]
    assert "drops while cranking" in reasons["F3"]
    assert "would restart at each start" in reasons["F2"]
    assert "drain the battery" in reasons["F6"]


ALONE = [
    ([circuit("F1", ALWAYS, "Airbag")], "constant", None, {"no_feed"}),
    ([circuit("F1", ALL_NIGHT, proved=None)], "constant", "F1", {"unproved_circuit"}),
    ([circuit("F1", ALWAYS)], "constant", "F1", {"late_reading_missing"}),
    ([circuit("F1", ALWAYS), circuit("F2", ALL_NIGHT)], "constant", "F2", set()),
    ([circuit("F1", RUN_AND_CRANK)], "ignition", "F1", set()),
    ([circuit("F1", RUN_ONLY)], "ignition_crank", None, {"no_feed"}),
    ([circuit("F1", ALL_NIGHT, "Body control module")], "constant", "F1", {"better_left_alone"}),
    (
        [circuit("F1", Readings(0.0, 0.0, 0.0, 0.0, 6.0, 6.1)), circuit("F2", ALWAYS)],
        "lamps",
        "F1",
        {"dimmed_lamp_feed"},
    ),
    (
        [circuit("F1", Readings(0.0, 12.0, 12.0, 10.0, 0.0, 0.0)), circuit("F2", ALWAYS)],
        "ignition_crank",
        "F1",
        {"live_in_acc"},
    ),
    ([], "constant", None, {"no_feed"}),
]


@pytest.mark.parametrize(("sheet", "need", "taken", "codes"), ALONE)
def test_what_is_taken_and_with_which_reservation(sheet, need, taken, codes):
    choice = choose_taps(sheet, {need: 1.0})
    assert choice.taken[need] == taken
    assert {f.code for f in choice.findings} == codes


def test_the_tap_limit_counts_what_is_there_already():
    sheet = [circuit("F1", RUN_AND_CRANK), circuit("F2", RUN_AND_CRANK, proved=None)]
    choice = choose_taps(sheet, {"ignition": 6.0, "ignition_crank": 6.0})
    assert choice.taken == {"ignition": "F1", "ignition_crank": "F2"}
    assert choose_taps(sheet[:1], {"ignition": 6.0}, {"F1": 5.0}).taken == {"ignition": None}


FUSES = [
    (0.0, 10, None, 1, set()),
    (0.75, 10, None, 1, set()),
    (0.76, 10, None, 2, set()),
    (1.8, 10, 10, 3, set()),
    (7.5, 10, 10, 10, set()),
    (7.6, 10, 10, None, {"fuse_over_wire"}),
    (7.6, 20, 10, 15, {"fuse_over_tap"}),
    (11, 20, 10, None, {"load_over_tap"}),
    (30, 50, None, 40, set()),
    (31, 50, None, None, {"load_over_fuses"}),
    (4, 3, None, None, {"fuse_over_wire"}),
]


@pytest.mark.parametrize(("load", "wire", "limit", "fuse", "codes"), FUSES)
def test_fuses(load, wire, limit, fuse, codes):
    choice = choose_fuse(load, wire, limit)
    assert choice.fuse_a == fuse
    assert {f.code for f in choice.findings} == codes


def test_a_rating_that_is_not_made_is_refused():
    with pytest.raises(BadInput, match=r"7\.5, 10"):
        nearest_rating(6)


TYPED = [
    ("12,4", 12.4),
    ("12.4 V", 12.4),
    ("350 mV", 0.35),
    ("live", "live"),
    (" L ", "live"),
    ("Dead", "dead"),
    ("off", "dead"),
    ("", None),
    ("-0.01", -0.01),
]


@pytest.mark.parametrize(("text", "value"), TYPED)
def test_a_probe_reading_as_typed(text, value):
    assert read_probe(text) == (pytest.approx(value) if isinstance(value, float) else value)


@pytest.mark.parametrize("text", ["900", "900 V", "-61", "twelve", "12 ohm", "1e400", "12.4.4", "x" * 10_000])
def test_a_reading_that_cannot_be_meant(text):
    with pytest.raises(BadInput, match="volts from -60 to 60, or live or dead"):
        read_probe(text)
