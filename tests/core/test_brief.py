"""Planner, prerequisites, survey, cluster and shopping list."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts.brief import choose_source, measure_vehicle
from metrolex.brief.planner import (
    aims,
    has_word,
    needs_of,
    planner_findings,
    propose,
    sources_for,
)
from metrolex.brief.shopping import shopping_list
from metrolex.brief.survey import cluster_facts, new_lamps, start_inventory, survey_findings
from metrolex.errors import BadInput
from metrolex.feeds.check import proved_for_meter
from metrolex.job import Brief, ClusterItem, Job, KitItem, State, Survey
from metrolex.job.within import replaced_within
from metrolex.kit import measurands
from metrolex.twin import addresses, build, expect, readings, solve
from tests.jobs import a_vehicle, shipped, shown_by, van


def wants(*keys: str, **vehicle) -> list[str]:
    return [p.measurand for p in propose(Job("x", a_vehicle("v", **vehicle), Brief(aims=keys)))]


@pytest.mark.parametrize("aim", aims(), ids=lambda a: a.key)
def test_every_aim_proposes_channels_that_exist_with_a_reason(aim):
    job = Job("x", a_vehicle("v"), Brief(aims=(aim.key,)))
    assert propose(job)
    for proposal in propose(job):
        assert proposal.name
        assert all(why for _, why in proposal.reasons)


def test_the_least_set_follows_the_vehicle():
    assert wants("tow and climb", gearbox="automatic", induction="turbo") == [
        "gearbox_temperature",
        "coolant_temperature",
        "exhaust_temperature",
        "boost",
    ]
    assert wants("tow and climb", gearbox="manual", induction="none", cooling="air") == []
    assert wants("keep the engine alive", burns="diesel") == ["oil_pressure", "coolant_temperature"]
    both = propose(Job("x", a_vehicle("v"), Brief(aims=("keep the engine alive", "track and hill climb"))))
    assert len([p for p in both if p.measurand == "oil_pressure"]) == 1
    assert len(next(p for p in both if p.measurand == "oil_pressure").reasons) == 2
    assert "channel_proposed" in {
        f.code for f in planner_findings(Job("x", a_vehicle("v"), Brief(aims=("blend fuel",))))
    }


@pytest.mark.parametrize("facts", measurands(), ids=lambda f: f.id)
def test_every_channel_has_a_source_and_what_is_there_comes_before_new_holes(facts):
    found = sources_for(Job("x", a_vehicle("v")), facts.id)
    assert found
    open_ones = [s for s in found if not s.why_not]
    assert [s.holes for s in open_ones] == sorted(s.holes for s in open_ones)
    assert all(s.accuracy and s.loses and 0 <= s.cost <= 4 for s in found)


def test_a_source_the_vehicle_lacks_is_barred_with_the_reason():
    job = shipped("fire_tender")
    assert next(s for s in sources_for(job, "coolant_temperature") if s.key == "ecu").why_not
    with pytest.raises(BadInput, match="sends no data"):
        choose_source(job, "coolant", "ecu")
    with pytest.raises(BadInput, match="no data input"):
        choose_source(van(), "coolant", "ecu")
    with pytest.raises(BadInput):
        choose_source(job, "coolant", "magic")
    with pytest.raises(BadInput):
        choose_source(job, "nothing", "ecu")


def test_a_reading_that_arrives_as_data_is_shown_as_it_is():
    job = replace(shipped("single_seater"), taps=(), conductors=())
    face = readings(solve(build(job), State("run", "off", "running")))["coolant"]
    assert (face.state, face.reason) == ("unfinished", "its ignition pin has no wire yet")
    stage = job.input_of(job.chain("coolant"))
    assert (stage.kind, job.chain("coolant").sender) == ("data", None)


@pytest.mark.parametrize(
    ("vehicle", "word", "there"),
    [
        (a_vehicle("v"), "turbo", None),
        (a_vehicle("v", induction="turbo"), "turbo", True),
        (a_vehicle("v", induction="none"), "turbo or compressor", False),
        (a_vehicle("v", fuel_feed="injection"), "pressurised fuel supply", True),
        (a_vehicle("v"), "pressurised fuel supply", None),
        (a_vehicle("v", has=("tune for blends",)), "tune for blends", True),
        (a_vehicle("v", has=("no tune for blends",)), "tune for blends", False),
        (a_vehicle("v", cooling="air"), "water cooling", False),
        (a_vehicle("v", gearbox="manual"), "automatic gearbox or cooler", False),
        (a_vehicle("v", burns="blend"), "petrol", True),
    ],
)
def test_what_a_vehicle_has(vehicle, word, there):
    assert has_word(vehicle, word) is there


def test_a_prerequisite_that_is_missing_stops_and_one_unknown_is_asked():
    job = van()
    assert not [f for f in planner_findings(job) if f.code.startswith("prerequisite")]
    manual = replace(job, vehicle=replaced_within(job.vehicle, {"gearbox": "manual"}))
    found = [f for f in planner_findings(manual) if f.code == "prerequisite_missing"]
    assert [(f.grade, f.channel) for f in found] == [("stop", "gearbox")]
    assert needs_of(job, "ethanol_content")[0].there is None


@pytest.mark.parametrize(
    ("survey", "volts", "codes"),
    [
        (Survey(), {}, set()),
        (Survey(), {"charging_v": 14.1, "rest_v": 12.6}, set()),
        (Survey(), {"charging_v": 12.1}, {"charge_fault"}),
        (Survey(), {"charging_v": 15.6}, {"charge_fault"}),
        (Survey(), {"rest_v": 11.9}, {"battery_low"}),
        (Survey(), {"rest_v": 25.2, "charging_v": 28.2}, set()),
        (Survey(), {"rest_v": 23.8, "charging_v": 26.0}, {"battery_low", "charge_fault"}),
        (Survey(), {"charging_v": 28.2}, set()),
        (Survey(lamps_lit=("Airbag",)), {}, {"lamp_lit_before"}),
        (Survey(old_wiring=("Alarm",)), {}, {"old_wiring"}),
        (Survey(lamps_lit=("Airbag",), lamps_after=("airbag ",)), {}, {"lamp_lit_before"}),
        (Survey(lamps_after=("Airbag",)), {}, {"lamp_lit_after"}),
        (Survey(stored_faults=("Air",)), {}, {"fault_stored_before"}),
    ],
)
def test_the_survey_bars_calibration_where_it_must(survey, volts, codes):
    job = Job("x", a_vehicle("v", **volts), survey=survey)
    assert {f.code for f in survey_findings(job)} == codes
    for finding in survey_findings(job):
        assert (finding.place == "") == (finding.code in ("charge_fault", "lamp_lit_before"))


def test_the_vehicle_is_measured_once_for_all_pages():
    """Survey, brief, twin and ground proof read one figure; its day is that of the last reading that was another."""
    job = measure_vehicle(van(), {"rest_v": 12.41}, "2026-12-01")
    assert job.vehicle.electrics.state.measured_on == "2026-12-01"
    assert measure_vehicle(job, {"rest_v": 12.41}, "2026-12-09") == job
    assert solve(build(job), State("off")).volts(addresses.BATTERY_POSITIVE) == pytest.approx(12.41, abs=0.02)
    point = replace(job.grounds[0], reads_v=12.41)
    assert proved_for_meter(replace(job, grounds=(point,)), point)


def test_volts_read_while_it_cranks_are_what_stands_at_the_posts():
    job = measure_vehicle(van(), {"cranking_v": 9.7}, "2026-12-01")
    for lamps in ("off", "head"):
        assert solve(build(job), State("crank", lamps)).volts(addresses.BATTERY_POSITIVE) == pytest.approx(
            9.7, abs=1e-3
        )


def test_new_lamps_wait_until_somebody_looked():
    assert new_lamps(Job("x", a_vehicle("v"), survey=Survey(lamps_after=None))) == ()
    assert new_lamps(Job("x", a_vehicle("v"), survey=Survey(lamps_after=("Door",)))) == ("Door",)


def test_a_removed_cluster_keeps_what_must_stay():
    job = start_inventory(
        Job("x", a_vehicle("v"), cluster=(ClusterItem("mine", "Charge lamp", "charge", "display"),))
    )
    assert job.brief.cluster_removed
    assert [i.id for i in job.cluster].count("mine") == 1
    assert len(job.cluster) == len(cluster_facts())
    keep = [f for f in cluster_facts() if f.keep]
    assert len([f for f in survey_findings(job) if f.code == "must_keep_open"]) == len(keep) - 1
    lost = replace(job, cluster=tuple(replace(i, comes_from="lost") for i in job.cluster))
    grades = {f.code: f.grade for f in survey_findings(lost)}
    assert (grades["must_keep_lost"], grades["cluster_item_lost"]) == ("stop", "note")
    settled = replace(job, cluster=tuple(replace(i, comes_from="never") for i in job.cluster))
    assert not list(survey_findings(settled))
    assert "not_in_inventory" in {f.code for f in survey_findings(replace(job, cluster=()))}


def test_the_list_counts_what_the_stacks_want_and_tools_once():
    job = shipped("single_seater")
    items = {item.name: item for item in shopping_list(job)}
    assert items["Plug 1/8-27 NPT"].need == 1  # three mouths, two senders
    assert next(i.need for n, i in items.items() if n.startswith("Sandwich plate")) == 1
    assert items["Anti-seize"].need == 1
    assert items["Fuel-proof paste sealant"].used_for == ("Fuel pressure",)
    assert items["Tap 1/8-27 NPT"].need == 1
    assert items["Engine oil"].unit == "L"
    assert items["Pen magnet"].need == 1
    bought = replace(job, kit=(KitItem("Plug 1/8-27 NPT", "Plug 1/8-27 NPT", 5),))
    assert next(i for i in shopping_list(bought) if i.name == "Plug 1/8-27 NPT").buy == 0
    groups = [item.group for item in shopping_list(job)]
    assert groups == sorted(groups, key=groups.index)


def test_a_sender_that_grounds_by_its_thread_is_measured_in_proving():
    points = {e.point.id: e for e in expect(build(van()), State("off"))}
    ground = points["coolant sender ground"]
    assert (ground.low, ground.high) == (0.0, 1.0)
    assert ground.value == van().port("head, rear plug").ground.thread_ohm
    assert "gearbox sender ground" not in points
    assert "coolant sender ground" not in {e.point.id for e in expect(build(van()), State("run"))}


def test_what_the_new_display_is_to_show_must_be_a_channel_on_it():
    job = shipped("fire_tender")
    assert "not_on_display" not in {f.code for f in survey_findings(job)}
    without = replace(
        job, **shown_by(tuple(c for c in job.chains if c.measurand not in ("road_speed", "fuel_level")))
    )
    found = {f.subject: f.grade for f in survey_findings(without) if f.code == "not_on_display"}
    assert found == {"Speedometer": "stop", "Fuel gauge": "caution"}
    loose = replace(
        job,
        **shown_by(tuple(replace(c, display=None) if c.measurand == "fuel_level" else c for c in job.chains)),
    )
    assert [f.subject for f in survey_findings(loose) if f.code == "not_on_display"] == ["Fuel gauge"]


def test_a_sender_that_is_on_the_vehicle_is_not_bought():
    job = shipped("fire_tender")
    tank = job.sender(job.chain("fuel level").sender)
    assert tank.name not in {item.name for item in shopping_list(job)}
    bought = replace(
        job, **shown_by(tuple(replace(c, source="sender") if c.id == "fuel level" else c for c in job.chains))
    )
    assert tank.name in {item.name for item in shopping_list(bought)}
