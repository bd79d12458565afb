"""The probe sheet: rows, own columns, kinds of place with their own proof."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts import feeds as feed_acts
from metrolex.acts import sheet
from metrolex.check import find_all
from metrolex.errors import BadInput
from metrolex.feeds.clearance import orientation
from metrolex.feeds.probe import columns_of
from metrolex.feeds.proof import place_words, proof_of
from metrolex.findings import Finding
from metrolex.job import Circuit, Job, State
from metrolex.job.feed import AlsoRead, Readings, Slot
from metrolex.tables import load_table
from metrolex.twin import addresses, build, solve
from tests.jobs import RUN_AND_CRANK, van


def findings(job: Job) -> list[Finding]:
    network = build(job)
    return list(find_all(network, solve(network, State("run"))))


def test_a_signal_is_no_feed():
    """What is dead with key and lamps and lives with the lever down is the signal of the lever, whichever states are still unread."""
    job = sheet.add_column(van(), " Turn  LEFT ")
    job = sheet.add_row(job, "F40", "Turn lamp", "10")
    for state, volts in (("run", "0"), ("off", "0"), ("turn left", "11.8")):
        job = sheet.set_reading(job, "F40", state, volts)
    verdict = build(job).verdicts["F40"]
    assert verdict.feed == "signal"
    assert "turn left" in verdict.reason
    assert not any(
        candidate.serves
        for need in ("constant", "accessory", "ignition", "ignition_crank", "lamps")
        for candidate in feed_acts.weighed(job, need)
        if candidate.circuit.id == "F40"
    )
    job = sheet.set_reading(job, "F40", "run", "12.4")
    assert build(job).verdicts["F40"].feed != "signal"


def test_a_signal_is_none_before_it_was_seen_dead():
    job = sheet.set_reading(sheet.add_row(van(), "F40", "", ""), "F40", "run", "0")
    assert build(job).verdicts["F40"].feed == "unclear"
    job = sheet.add_column(job, "brake")
    job = sheet.set_reading(job, "F40", "brake", "live")
    assert build(job).verdicts["F40"].feed == "signal"
    job = sheet.set_reading(job, "F40", "run", "")
    assert build(job).verdicts["F40"].feed == "unclear"


def test_columns_are_kept_until_nothing_is_read_in_them():
    job = sheet.add_column(van(), "brake")
    assert columns_of(job)[-1] == "brake"
    with pytest.raises(BadInput, match="not there yet"):
        sheet.add_column(job, "brake")
    read_in = sheet.set_reading(job, "F31", "brake", "12.5")
    with pytest.raises(BadInput, match="F31 was read"):
        sheet.remove_column(read_in, "brake")
    emptied = sheet.set_reading(read_in, "F31", "brake", "")
    assert emptied.circuit("F31") == job.circuit("F31")
    assert columns_of(sheet.remove_column(emptied, "brake")) == columns_of(van())
    with pytest.raises(BadInput):
        sheet.set_reading(van(), "F31", "brake", "12")
    for i in range(len(columns_of(job)), 16):
        job = sheet.add_column(job, f"after {i} min")
    with pytest.raises(BadInput, match="take one off"):
        sheet.add_column(job, "horn")


def test_a_column_stands_once_in_a_row():
    with pytest.raises(BadInput, match="once"):
        Readings(also=(AlsoRead("brake", 1.0), AlsoRead("brake", 2.0)))


def test_rows_lie_beside_one_another_as_in_the_panel():
    """The first row of the van's cabin panel has four slots: after the last of a full row comes the next row."""
    job = van()
    panel = [c for c in job.circuits if c.kind == "fuse"][-1].slot.panel
    lie = {(c.slot.row, c.slot.column) for c in job.circuits if c.slot.panel == panel and c.kind == "fuse"}
    for i in range(9):
        job = sheet.add_row(job, f"N{i}", "", "7,5" if i else "")
    new = [c for c in job.circuits if c.id.startswith("N")]
    assert {c.slot.panel for c in new} == {panel}
    assert len({(c.slot.row, c.slot.column) for c in new} | lie) == len(lie) + 9
    assert new[1].rating_a == 7.5
    with pytest.raises(BadInput, match="on the sheet already"):
        sheet.add_row(job, "N1", "", "")
    with pytest.raises(BadInput):
        sheet.add_row(job, "", "", "")
    with pytest.raises(BadInput):
        sheet.add_row(job, "N77", "", "ten")


def test_a_row_says_name_fuse_and_fed_side():
    job = sheet.set_fact(van(), "F31", "purpose", " Mirrors, heated ")
    job = sheet.set_fact(job, "F31", "rating_a", "7,5 A")
    job = sheet.set_fact(job, "F31", "fed", "right")
    circuit = job.circuit("F31")
    assert (circuit.purpose, circuit.rating_a, circuit.slot.fed) == ("Mirrors, heated", 7.5, "right")
    assert sheet.set_fact(job, "F31", "rating_a", "").circuit("F31").rating_a is None
    for fact, text in (("rating_a", "-3"), ("fed", "behind"), ("id", "x")):
        with pytest.raises(BadInput):
            sheet.set_fact(job, "F31", fact, text)


@pytest.mark.parametrize("place", load_table("feed_places"))
def test_every_kind_of_place_has_its_own_proof(place):
    """Nothing says 'pull its fuse' where there is none to pull."""
    kind, empty = ("fuse", True) if place == "empty slot" else (place, False)
    circuit = Circuit("X", "Mirrors", kind, Slot(fed="left", empty=empty), readings=RUN_AND_CRANK)
    assert circuit.place == place
    row, proof = place_words(circuit), proof_of(circuit)
    said = " ".join((row["ask"], proof.question, proof.missing, proof.remedy, orientation(circuit))).lower()
    assert ("pull the fuse" in said) == (place in ("fuse", "splice"))
    assert proof.needed == (not row.get("straight", False)) == (not circuit.straight)
    assert row["guarded"] == (not circuit.unfused)
    assert "{" not in orientation(circuit)


def test_the_ignition_switch_follows_the_key_and_has_no_fuse_of_its_own():
    job = van()
    tapped = job.tap("T2").circuit
    moved = replace(
        job,
        circuits=tuple(
            replace(c, kind="ignition switch", slot=Slot(), form="") if c.id == tapped else c
            for c in job.circuits
        ),
        taps=tuple(replace(t, fuse_a=None) if t.id == "T2" else t for t in job.taps),
    )
    network = build(moved)
    assert solve(network, State("run")).volts(addresses.tap_node("T2")) > 11
    assert solve(network, State("off")).volts(addresses.tap_node("T2")) < 0.5
    found = {(f.code, f.grade) for f in findings(moved) if f.subject in (tapped, "T2")}
    assert ("tap_without_fuse", "stop") in found


def test_an_empty_slot_is_not_tapped_on_its_load_side():
    job = sheet.set_fact(van(), "F22", "fed", "left")
    empty = replace(
        job,
        circuits=tuple(
            replace(c, slot=replace(c.slot, empty=True)) if c.id == "F22" else c for c in job.circuits
        ),
        taps=tuple(replace(t, side="load") if t.id == "T2" else t for t in job.taps),
    )
    assert solve(build(empty), State("run")).volts(addresses.tap_node("T2")) > 11
    assert not [f for f in findings(empty) if f.code == "tap_on_load_side" and f.subject == "F22"]
    assert "the added fuse alone" in orientation(empty.circuit("F22"))


def test_power_between_two_batteries_in_series_is_a_stop():
    """12.5 V in a 24 V vehicle: one battery of the pair is run down."""
    job = van()
    state = replace(job.vehicle.electrics.state, rest_v=25.0, charging_v=28.0)
    for batteries, volts, stops in (("in series", 12.5, 1), ("one", 12.5, 0), ("in series", 25.0, 0)):
        electrics = replace(
            job.vehicle.electrics,
            state=state,
            battery=replace(job.vehicle.electrics.battery, batteries=batteries),
        )
        tapped = sheet.set_reading(
            replace(job, vehicle=replace(job.vehicle, electrics=electrics)), "F31", "off", str(volts)
        )
        tapped = sheet.set_reading(tapped, "F31", "run", str(volts))
        assert (
            len([f for f in findings(tapped) if (f.code, f.subject) == ("between_batteries", "F31")]) == stops
        )
