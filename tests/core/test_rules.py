"""Every rule of the slice: it fires where it should, and on a sound job it is silent."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.check import chain_board, find_all, stages_of, still_standing, waived
from metrolex.check.stages import next_action
from metrolex.findings import Finding, worst_first
from metrolex.job import (
    Circuit,
    Conductor,
    Observation,
    Run,
    Scaling,
    Segment,
    State,
    TestRef,
    Waiver,
)
from metrolex.jobfile import EXAMPLES
from metrolex.senders import TableCurve
from metrolex.twin import build, solve
from tests.jobs import (
    ACCESSORY,
    CURVE,
    LAMPS,
    RUN_ONLY,
    a_port,
    shipped,
    shown_by,
    small_job,
    unfinished_van,
    van,
    with_chain,
    with_part,
)

RUN = State("run")


def findings(job, state=RUN):
    return find_all(build(job), solve(build(job), state))


def test_a_sound_job_is_silent():
    assert not findings(small_job())


def tapped(purpose="Mirrors", readings=None, proved=True, tap="T2", key="F2"):
    job = small_job()
    old = job.circuit(key)
    circuit = replace(old, purpose=purpose, readings=readings or old.readings, fuse_pulled_dead=proved)
    return replace(job, circuits=tuple(circuit if c.id == key else c for c in job.circuits))


def one_wire_in_rubber():
    job = with_part(small_job(), "senders", "ntc", wires=1)
    kept = tuple(w for w in job.conductors if w.id != "W5")
    return replace(
        job, conductors=kept, ports=(a_port("plug", "Hose adapter", "hose adapter", grounded=False),)
    )


def with_run(*segments, supplied=None):
    return with_chain(replace(small_job(), runs=(Run("r", "Lead", segments, supplied_m=supplied),)), run="r")


long_thin = tuple(replace(w, length_m=20.0, size=0.5) if w.id == "W2" else w for w in small_job().conductors)
unmeasured = tuple(replace(w, length_m=None) if w.id == "W4" else w for w in small_job().conductors)

RULES = [
    ("safety_critical_tap", "stop", "F2", tapped("Seat belts and airbag")),
    ("accessory_where_crank_needed", "caution", "F2", tapped(readings=ACCESSORY)),
    ("accessory_where_crank_needed", "caution", "F2", tapped(readings=RUN_ONLY)),
    ("memory_not_constant", "caution", "F1", tapped(readings=RUN_ONLY, key="F1")),
    ("memory_lost", "caution", "gauge", tapped(readings=RUN_ONLY, key="F1")),
    ("wrong_feed", "caution", "F2", tapped(readings=LAMPS)),
    ("feed_unclear", "caution", "F2", tapped(readings=replace(RUN_ONLY, crank=None))),
    ("unproved_circuit", "caution", "F2", tapped(proved=None)),
    ("unproved_circuit", "caution", "F2", tapped(proved=False)),
    ("better_left_alone", "caution", "F2", tapped("Body control module")),
    ("tap_on_load_side", "caution", "F2", with_part(small_job(), "taps", "T2", side="load")),
    ("tap_without_fuse", "caution", "F2", with_part(small_job(), "taps", "T2", fuse_a=None)),
    (
        "tap_without_fuse",
        "stop",
        "F1",
        replace(
            with_part(small_job(), "taps", "T1", fuse_a=None),
            circuits=(
                Circuit("F1", "Battery", "battery", readings=small_job().circuits[0].readings),
                small_job().circuits[1],
            ),
        ),
    ),
    (
        "need_open",
        "note",
        "constant",
        replace(small_job(), taps=small_job().taps[1:], conductors=small_job().conductors[1:]),
    ),
    ("fuse_over_wire", "stop", "W2", with_part(small_job(), "taps", "T2", fuse_a=15.0)),
    ("lead_short", "caution", "Lead", with_run(Segment("a", 3.0), supplied=2.0)),
    ("too_hot_for_insulation", "stop", "Lead", with_run(Segment("a", 3.0, 400.0))),
    ("slack_where_it_moves", "note", "Lead", with_run(Segment("a", 3.0, 60.0, True))),
    ("run_not_measured", "note", "Lead", with_run()),
    ("wire_without_length", "note", "W4", replace(small_job(), conductors=unmeasured)),
    ("sender_without_ground", "stop", "Coolant", one_wire_in_rubber()),
    (
        "sender_range_short",
        "caution",
        "Coolant",
        with_chain(small_job(), scaling=Scaling(CURVE.points, "ohm", 0, 20, 150)),
    ),
    (
        "sender_range_short",
        "caution",
        "Coolant",
        with_chain(small_job(), scaling=Scaling(CURVE.points, "ohm", 0, -20, 120)),
    ),
    (
        "table_off_curve",
        "caution",
        "Coolant",
        with_chain(small_job(), scaling=Scaling(((100.0, 120.0), (1000.0, 20.0)), "ohm", 0)),
    ),
    ("nothing_entered", "note", "Coolant", with_chain(small_job(), scaling=Scaling())),
    ("no_warning_point", "note", "Coolant", with_chain(small_job(), warn_high=None)),
    (
        "curve_turns_back",
        "stop",
        "Coolant",
        with_part(
            small_job(), "senders", "ntc", curve=TableCurve(((100.0, 1.0), (200.0, 9.0), (300.0, 4.0)))
        ),
    ),
    ("drop_high", "caution", "gauge", replace(small_job(), conductors=long_thin)),
    ("ground_lifted", "caution", "gauge", with_part(small_job(), "grounds", "GP1", contact_ohm=0.5)),
    ("dead_in_crank", "caution", "gauge", tapped(readings=RUN_ONLY)),
    (
        "dead_in_crank",
        "note",
        "gauge",
        with_part(tapped(readings=RUN_ONLY), "displays", "gauge", needs_crank=False),
    ),
]


@pytest.mark.parametrize(
    ("code", "grade", "subject", "job"), RULES, ids=[f"{r[0]}-{i}" for i, r in enumerate(RULES)]
)
def test_a_rule_fires(code, grade, subject, job):
    fired = [f for f in findings(job) if f.code == code]
    assert [(f.grade, f.subject) for f in fired] == [(grade, subject)]
    assert fired[0].reason
    assert fired[0].remedy
    assert fired[0].place


def test_a_ground_lead_answers_the_one_wire_sender():
    from metrolex.job import End

    job = one_wire_in_rubber()
    lead = Conductor("W9", End("sender", "ntc", "body"), End("ground", "GP1"), length_m=1.0)
    assert not [f for f in findings(replace(job, conductors=(*job.conductors, lead))) if f.grade == "stop"]


def test_the_van_is_honestly_part_done():
    found = findings(van())
    assert [f.code for f in found if f.grade == "stop"] == ["safety_critical_tap"]
    assert {f.code for f in found if f.grade == "caution"} == {"lead_short"}
    rows = {
        r.channel.id: r
        for r in chain_board(build(van()), solve(build(van()), State("run", "off", "running")), found)
    }
    assert [c.state for c in rows["coolant"].cells] == ["settled"] * 5 + ["proved"]
    before = findings(unfinished_van())
    assert "backlights_differ" in {f.code for f in before}
    network = build(unfinished_van())
    board = {r.channel.id: r for r in chain_board(network, solve(network, State("run")), before)}
    assert "no memory" in board["battery"].cell("feed").detail  # open, and no caution: it is not there yet
    assert "memory_lost" not in {f.code for f in before}
    assert rows["oil pressure"].open_links == ("port", "proof")
    assert rows["oil pressure"].cell("feed").fact == "F9 refused"
    assert rows["gearbox"].cell("run").fact == "Short by 1.13 m"
    assert rows["battery"].cell("port").state == "none"


def test_a_wrong_observation_is_off_on_the_board():
    job = replace(
        small_job(),
        observations=(Observation("O1", TestRef("display", "gauge", "pin", "2"), State("run"), 9.0),),
    )
    row = chain_board(build(job), solve(build(job), State("run")), ())[0]
    assert (row.cell("proof").state, row.cell("proof").fact) == ("caution", "1 off")


def test_going_past_a_stop_in_writing():
    job = tapped("Fuel pump")
    stop = findings(job)[0]
    assert (stop.key, stop.final) == ("tap T2", False)
    for held_by in (stop.key, stop.subject):  # the subject: as waivers were kept before things had keys
        past = replace(job, waivers=(Waiver(stop.code, held_by, "The drawing says spare.", "A. Fitter"),))
        assert waived(past, findings(past))[stop].by == "A. Fitter"
        assert stop not in still_standing(past, findings(past))
        assert stop in findings(past)


@pytest.mark.parametrize("purpose", ["Seat belts and airbag", "ABS pump", "Power steering"])
def test_no_reason_takes_one_past_what_holds_stops_or_steers(purpose):
    job = tapped(purpose)
    stop = findings(job)[0]
    past = replace(job, waivers=(Waiver(stop.code, stop.key, "It looked spare.", "A. Fitter"),))
    assert stop.final
    assert stop in still_standing(past, findings(past))
    said = replace(job, circuits=tuple(replace(one, feeds="comfort") for one in job.circuits))
    assert findings(said)[0].code == "safety_critical_tap"  # a reading does not settle it either


def test_a_waiver_holds_for_one_thing_and_not_for_its_neighbour():
    """Two unfused taps on one circuit; two places of one name."""
    job = van()
    tap = next(one for one in job.taps if one.circuit != "F9")
    bare = replace(job, taps=(replace(tap, fuse_a=None), replace(tap, id="T99", fuse_a=None)))
    told = [f for f in findings(bare) if f.code == "tap_without_fuse"]
    assert [f.key for f in told] == [f"tap {tap.id}", "tap T99"]
    past = replace(bare, waivers=(Waiver(told[0].code, told[0].key, "a short lead", "me"),))
    assert [f for f in still_standing(past, findings(past)) if f.code == told[0].code] == [told[1]]
    by_name = replace(bare, waivers=(Waiver(told[0].code, told[0].subject, "a short lead", "me"),))
    assert [f for f in still_standing(by_name, findings(by_name)) if f.code == told[0].code] == told


@pytest.mark.parametrize("name", EXAMPLES)
def test_every_finding_is_of_one_thing(name):
    """Whatever is wrong of everything at once, no two stops of one rule share a key; and two parts of one name are two."""
    job = shipped(name)
    worse = replace(
        job,
        runs=tuple(
            replace(
                run,
                name="lead",
                start=None,
                finish=None,
                via=(),
                segments=(Segment("way", 1.0, peak_degc=400.0),),
            )
            for run in job.runs
        ),
        ports=tuple(
            replace(
                port, name="place", spot=replace(port.spot, wall=replace(port.spot.wall, peak_degc=400.0))
            )
            for port in job.ports
        ),
        openings=tuple(replace(one, name="hole", edge="bare") for one in job.openings),
        taps=tuple(replace(tap, fuse_a=None) for tap in job.taps),
        displays=tuple(replace(one, name="gauge") for one in job.displays),
    )
    stops = [(f.code, f.key) for f in findings(worse) if f.grade == "stop"]
    assert len(stops) > len(job.runs)
    assert len(set(stops)) == len(stops)


def test_worst_first():
    grades = [Finding(g, "c", "s", "r") for g in ("note", "stop", "caution", "stop")]
    assert [f.grade for f in worst_first(grades)] == ["stop", "stop", "caution", "note"]


NEXT = [
    (van(), "feeds", "Move T4 to F31"),
    (replace(small_job(), **shown_by(())), "brief", "Say what"),
    (with_chain(small_job(), port=None), "ports", "choose a port"),
    (replace(small_job(), taps=(), conductors=small_job().conductors[2:]), "harness", "measure the way"),
]


@pytest.mark.parametrize(("job", "stage", "words"), NEXT)
def test_the_next_action(job, stage, words):
    found = findings(job)
    rows = chain_board(build(job), solve(build(job), State("run")), found)
    action = next_action(job, rows, found)
    assert action[1] == stage
    assert words in action[0]


def test_stages_count_what_is_open():
    found = findings(van())
    rows = chain_board(build(van()), solve(build(van()), State("run")), found)
    stages = {s.key: s for s in stages_of(van(), rows, found)}
    assert (stages["feeds"].count, stages["feeds"].grade) == (1, "stop")
    assert (stages["harness"].words, stages["harness"].grade) == ("2 cautions", "caution")
    assert (stages["ports"].count, stages["ports"].words) == (1, "1 open")
    assert stages["proving"].words == "1 of 4 proved"
