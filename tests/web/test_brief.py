"""Plan, survey, cluster and shopping list in the running pages."""

from __future__ import annotations

import csv
import io

import pytest

from metrolex.job import State
from tests.jobs import shipped
from workbench.jobs.door import import_job
from workbench.jobs.look import look_at


def codes(bay) -> dict[str, str]:
    return {f.code: f.grade for f in look_at(bay.job, State()).findings}


def test_aims_propose_the_least_set_and_it_can_be_added(bay, text):
    bay.post("brief/plan/aims/", aim=["keep the engine alive"])
    page = text(bay.get("brief/plan/"))
    assert "The factory lamp lights near zero" in page
    assert "Add the 1 that is missing" in page
    bay.post("brief/plan/add/")
    assert "mixture" in [c.id for c in bay.job.chains]
    assert "All of them are on the job" in text(bay.get("brief/plan/"))


def test_what_the_vehicle_has_already_can_stand_for_a_sender(bay):
    bay.record = import_job(bay.member, shipped("single_seater"))
    bay.post("brief/plan/source/", channel="engine oil", source="ecu")
    channel = bay.job.chain("engine oil")
    assert (channel.source, channel.sender, channel.port, channel.input) == ("ecu", None, None, "data")
    face = next(
        row for row in look_at(bay.job, State("run", "off", "running")).rows if row.channel.id == "engine oil"
    )
    assert face.cell("port").state == "none"
    bay.post("brief/plan/source/", channel="engine oil", source="sender")
    assert bay.job.chain("engine oil").source == "sender"


def test_prerequisites_are_asked_and_a_no_is_a_stop(bay):
    bay.record = import_job(bay.member, shipped("single_seater"))
    bay.post("brief/channels/add/", measurand="ethanol_content")
    assert codes(bay)["prerequisite_not_known"] == "note"
    bay.post("brief/plan/answer/", word="tune for blends", there="no")
    assert codes(bay)["prerequisite_missing"] == "stop"
    bay.post("brief/plan/answer/", word="tune for blends", there="yes")
    assert "prerequisite_missing" not in codes(bay)


def test_the_survey_is_kept_and_a_lit_lamp_or_a_sick_charge_bars_calibration(bay, text):
    form = {
        "day": "2026-11-20",
        "rest_v": "12,1",
        "charging_v": "12.1 V",
        "lamps_lit": "Engine fault\nAirbag",
        "stored_faults": "Air temperature",
        "old_wiring": "Old alarm",
        "leaks": "Sump seal",
        "readings": "coolant = half",
        "looked_after": "on",
        "lamps_after": "Airbag\nTraction",
        "readings_after": "coolant = half",
    }
    bay.post("brief/survey/", **form)
    survey = bay.job.survey
    assert survey.lamps_lit == ("Engine fault", "Airbag")
    assert (survey.readings[0].before, survey.readings[0].after) == ("half", "half")
    found = codes(bay)
    assert (
        found["charge_fault"],
        found["lamp_lit_before"],
        found["lamp_lit_after"],
        found["battery_low"],
    ) == ("stop", "stop", "stop", "caution")
    page = text(bay.get("brief/survey/"))
    assert "Lit now and not before: <b>Traction" in page
    assert "12.1 V" in page


def test_the_brief_keeps_aims_and_answers(bay):
    bay.post("brief/plan/answer/", word="data bus", there="no")
    bay.post(
        "brief/",
        name="J",
        vehicle="V",
        rest_v="12.6",
        alternator_v="14.2",
        layout="vee",
        cooling="water",
        fuel_feed="injection",
    )
    job = bay.job
    assert (job.vehicle.engine.layout, job.vehicle.has, job.brief.aims) == (
        "vee",
        ("no data bus",),
        ("tow and climb",),
    )


def test_a_cluster_that_comes_out_is_accounted_for(bay, text):
    assert "The factory cluster stays" in text(bay.get("brief/cluster/"))
    bay.post("brief/cluster/start/")
    assert codes(bay)["must_keep_open"] == "caution"
    bay.post("brief/cluster/item/", item="brakes", comes_from="lost")
    assert codes(bay)["must_keep_lost"] == "stop"
    for item in bay.job.cluster:
        bay.post("brief/cluster/item/", item=item.id, comes_from="display", how="tell-tale")
    bay.post("brief/cluster/item/", do="never", item="anti_lock")
    bay.post("brief/cluster/item/", do="add", name="Pump lamp")
    bay.post("brief/cluster/item/", do="never", item="pump lamp")
    assert not [code for code in codes(bay) if code.startswith("must_keep") or code == "not_in_inventory"]
    assert "pump lamp" not in [item.id for item in bay.job.cluster]
    bay.post("brief/cluster/start/", do="stay")
    assert not bay.job.brief.cluster_removed


def test_the_shopping_list_follows_the_job_and_goes_out_as_csv(bay, text):
    rows = _csv(bay)
    names = {row["thing"]: row for row in rows}
    assert names["Adapter M12x1.5 to 1/8-27 NPT"]["used for"] == "Coolant"
    assert names["Washer for M12x1.5"]["buy"] == "1"
    assert names["Extension lead, 2 wires"]["unit"] == "m"
    assert names["Coolant gauge"]["buy"] == "0"
    bay.post("ports/place/", channel="coolant", pin="coolant hose adapter")
    bay.post("ports/stack/", channel="coolant", pin="coolant hose adapter", do="best")
    names = {row["thing"]: row for row in _csv(bay)}
    assert names["Hose clamp for hose 38 mm"]["buy"] == "2"
    assert "Washer for M12x1.5" not in names
    bay.post("brief/shopping/kit/", item="Hose clamp for hose 38 mm", have="2")
    assert {row["thing"]: row for row in _csv(bay)}["Hose clamp for hose 38 mm"]["buy"] == "0"
    assert "have it" in text(bay.get("brief/shopping/"))


def _csv(bay):
    return list(csv.DictReader(io.StringIO(bay.get("brief/shopping/csv/").content.decode())))


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({"item": "Coolant gauge", "have": "-1"}, "Expected 0 to 10000"),
        ({"item": "Coolant gauge", "have": "two"}, "is not a number"),
    ],
)
def test_a_count_that_cannot_be_meant_comes_back(data, words, bay, text):
    answer = bay.post("brief/shopping/kit/", **data)
    assert answer.status_code == 422
    assert words in text(answer)
    assert f'value="{data["have"]}"' in text(answer)


def test_nothing_a_spreadsheet_would_run_goes_out(bay):
    from dataclasses import replace

    from workbench.jobs.door import change

    change(
        bay.record,
        lambda job: replace(
            job, displays=tuple(replace(d, name="=1+1") if d.id == "gauge 1" else d for d in job.displays)
        ),
        by=None,
    )
    assert "'=1+1" in bay.get("brief/shopping/csv/").content.decode()
