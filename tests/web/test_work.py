"""The acts of the fitter at each place, and what goes out again."""

from __future__ import annotations

import csv
import io
import json
from dataclasses import replace
from xml.etree import ElementTree

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from metrolex.check import find_all
from metrolex.job import State
from metrolex.jobfile import job_from_text
from metrolex.twin import build, readings, solve
from metrolex.twin.addresses import Address
from tests.jobs import van
from workbench.jobs.models import JobRecord
from workbench.jobs.storage import job_of


def test_a_job_from_nothing_to_a_living_gauge(bay):
    made = bay.client.post(
        "/jobs/new/", {"name": "Coolant", "vehicle": "Sidecar outfit", "channels": ["coolant_temperature"]}
    )
    bay.record = JobRecord.objects.get(pk=int(made.url.split("/")[2]))
    bay.post("ports/sender/", channel="coolant", kit="NTC, one wire, 1/8-27 NPT")
    bay.post("ports/place/", channel="coolant", pin="coolant head plug")
    bay.post("ports/stack/", channel="coolant", pin="coolant head plug", do="best")
    for key, purpose, volts in (
        ("F1", "Clock", (12.6, 12.6, 12.5, 10.7, 12.6, 12.5)),
        ("F2", "Windows", (0, 0, 12.4, 10.5, 0, 0)),
        ("F3", "Parking lamps", (0, 0, 0, 0, 12.4, 12.3)),
    ):
        bay.post(
            "feeds/circuit/",
            id=key,
            purpose=purpose,
            kind="fuse",
            form="mini",
            rating_a="10",
            row="1",
            column=key[1],
        )
        for state, value in zip(("off", "acc", "run", "crank", "park", "head"), volts, strict=True):
            bay.post("feeds/probe/", htmx=True, circuit=key, state=state, reading=str(value))
        bay.post("feeds/prove/", htmx=True, circuit=key, proved="yes")
    bay.post("feeds/probe/", htmx=True, circuit="F1", state="later", reading="12.5")
    for need, circuit in (("constant", "F1"), ("ignition_crank", "F2"), ("lamps", "F3")):
        bay.post("feeds/tap/", need=need, circuit=circuit)
    bay.post("feeds/grounds/save/", name="Frame lug", where="body", contact_ohm="2 mohm", reads_v="12.6")
    bay.post("harness/lay/")
    for run in bay.job.runs:
        segments = {
            "segments-TOTAL_FORMS": "1",
            "segments-INITIAL_FORMS": "0",
            "segments-0-name": "the way",
            "segments-0-length_m": "33 in",
            "segments-0-peak_degc": "210 F",
        }
        bay.post("harness/run/", run=run.id, name=run.name, slack_pct="5", ends_m="30 cm", **segments)
    job = bay.job
    assert [(t.need, t.circuit, t.fuse_a) for t in job.taps] == [
        ("constant", "F1", 1.0),
        ("ignition_crank", "F2", 1.0),
        ("lamps", "F3", 1.0),
    ]
    assert job.runs[0].segments[0].length_m == pytest.approx(0.8382)
    solved = solve(build(job), State("run", "off", "running"))
    face = readings(solved)["coolant"]
    assert face.state == "reading"
    assert abs(face.value - 90) <= 4
    assert not [f for f in find_all(build(job), solved) if f.grade != "note"]


def test_the_wrong_tap_is_moved_and_the_stop_goes(bay, text):
    assert "Safety critical tap" in text(bay.get("feeds/"))
    bay.post("feeds/tap/", need="constant", circuit="F31", tap="T4")
    assert bay.job.taps[3].circuit == "F31"
    assert "Safety critical tap" not in text(bay.get("feeds/"))


def test_going_past_a_stop_is_printed_in_the_book(bay, text):
    bay.tap_a_fuel_pump()
    before = bay.job
    waive = {"code": "safety_critical_tap", "subject": "tap T4", "reason": "The drawing shows a spare slot."}
    bay.post("waiver/", **waive, next=bay.path("feeds/"))
    page = text(bay.get("handover/book/"))
    assert "Waived, with the reason" in page
    assert "The drawing shows a spare slot." in page
    assert "Not ready to hand over" not in page
    bay.post("waiver/remove/", code="safety_critical_tap", subject="tap T4")
    assert bay.job == before


def test_nobody_goes_past_an_airbag(bay, text):
    """Neither a button, nor a reason, nor a form of one's own."""
    page = text(bay.get("feeds/"))
    assert "This stop can't be waived." in page
    waive = {"code": "safety_critical_tap", "subject": "tap T4", "reason": "The drawing shows a spare slot."}
    answer = bay.client.post(bay.path("waiver/"), waive, follow=True)
    assert "This stop can't be waived: put it right" in text(answer)
    tapped = {"need": "lamps", "circuit": "F9", "tap": "T3"}
    assert "F9 is a restraint circuit" in text(bay.client.post(bay.path("feeds/tap/"), tapped, follow=True))
    assert bay.job == van()


def test_a_new_sender_drops_the_wires_it_has_no_terminal_for(bay):
    bay.post("ports/sender/", channel="gearbox", kit="NTC, one wire, 1/8-27 NPT")
    ends = [e.terminal for w in bay.job.conductors for e in (w.a, w.b) if e.id == "gearbox sender"]
    assert ends == ["signal"]
    assert bay.job.sender("gearbox sender").wires == 1


def test_rows_taken_from_the_curve_cure_the_table(bay):
    bay.post("scaling/rows/", channel="gearbox", count="12")
    codes = {f.code for f in find_all(build(bay.job), solve(build(bay.job), State("run")))}
    assert "table_off_curve" not in codes
    assert len(bay.job.chains[0].scaling.table) == 12


def test_a_curve_and_a_table_as_typed(bay):
    bay.post(
        "scaling/curve/",
        channel="coolant",
        kind="table",
        interpolation="log_x",
        points="577; 60\n1150,5  40\n\n311\t80",
        tolerance_pct="2,5",
    )
    sender = bay.job.sender("coolant sender")
    assert sender.curve.points == ((311.0, 80.0), (577.0, 60.0), (1150.5, 40.0))
    assert sender.tolerance.x_pct == 2.5
    bay.post(
        "scaling/curve/",
        channel="coolant",
        kind="steinhart_hart",
        a="1.129148e-3",
        b="2.34125e-4",
        c="8.76741e-8",
    )
    assert bay.job.sender("coolant sender").curve.kind == "steinhart_hart"
    assert "0.001129148" in bay.get("scaling/", channel="coolant").content.decode()
    bay.post(
        "scaling/table/",
        channel="coolant",
        table="577 60\n100 120",
        x_unit="ohm",
        decimals="1",
        low="60",
        high="120",
        true_running="88",
    )
    channel = bay.job.chain("coolant")
    assert (channel.scaling.decimals, channel.scaling.low, channel.true_running, channel.warn_high) == (
        1,
        60.0,
        88.0,
        None,
    )


def test_entries_of_the_menu_reach_the_book(bay, text):
    bay.post(
        "scaling/menu/save/",
        display="gauge 2",
        more_name="Needle sweep",
        more_value="on",
        firmware="2.14",
        set_up_on="25 November",
    )
    bay.post(
        "scaling/menu/save/",
        display="gauge 2",
        name=["Needle sweep", "Scale to"],
        value=["off at night", ""],
        done=["Scale to"],
        firmware="2.14",
    )
    settings = {s.name: (s.value, s.done) for s in bay.job.settings if s.display == "gauge 2"}
    # Ticked with nothing typed means: as the job wants it.
    assert settings == {"Needle sweep": ("off at night", False), "Scale to": ("150", True)}
    book = text(bay.get("handover/book/"))
    assert "off at night" in book
    assert "firmware 2.14" in book


@pytest.mark.parametrize("name", ["T1", "gauge 2", "W1", "battery", "body", "coolant sender", "GP1", "S1"])
def test_a_slot_may_be_called_like_another_part(name, bay):
    assert (
        bay.post("feeds/circuit/", id=name, kind="fuse", form="mini", row="1", column="5").status_code == 302
    )
    assert bay.job.circuit(name)
    assert bay.get("harness/diagram/").status_code == 200


def test_taps_turn_and_go_with_their_wires(bay):
    bay.post("feeds/tap/turn/", tap="T2")
    assert bay.job.taps[1].side == "load"
    bay.post("feeds/tap/remove/", tap="T4")
    assert "W16" not in {w.id for w in bay.job.conductors}
    bay.post("feeds/circuit/remove/", circuit="F9")
    assert bay.job.circuit("F9") is None
    bay.post("feeds/grounds/remove/", ground="GP1")
    assert not bay.job.grounds


def test_wires_by_hand(bay):
    bay.post("harness/wire/", wire="W2", size="1.5", colour="RD", stripe="BK", length_m="2,5 m", run="")
    wire = next(w for w in bay.job.conductors if w.id == "W2")
    assert (wire.size, wire.look.stripe, wire.length_m, wire.run) == (1.5, "BK", 2.5, None)
    bay.post(
        "harness/wire/add/", a="splice|S3|", b="display|gauge 4|3", size="0.5", colour="OG", length_m="0.3"
    )
    bay.post("harness/wire/remove/", wire="W1")
    ids = [w.id for w in bay.job.conductors]
    assert "W1" not in ids
    assert bay.job.conductors[-1].b.id == "gauge 4"
    bay.post("harness/run/add/", name="Spare way")
    bay.post("harness/run/remove/", run="gearbox run")
    assert [r.id for r in bay.job.runs][-1] == "Spare way"
    assert bay.job.chains[0].run is None


def test_the_brief_keeps_everything(bay):
    bay.post(
        "brief/",
        name="Renamed",
        vehicle="Van 4",
        owner="O",
        wants="W",
        hours_left="2,5",
        waits_for="a bung",
        rest_v="12.4",
        alternator_v="14",
        cylinders="6",
        year="2019",
    )
    job = bay.job
    assert (
        job.name,
        job.vehicle.name,
        job.vehicle.engine.cylinders,
        job.brief.hours_left,
        job.vehicle.electrics.rest_v,
    ) == (
        "Renamed",
        "Van 4",
        6,
        2.5,
        12.4,
    )
    assert job.vehicle.identity.notes == van().vehicle.identity.notes
    bay.post("brief/channels/add/", measurand="oil_temperature")
    bay.post("brief/channels/remove/", channel="battery")
    assert [c.id for c in bay.job.chains] == ["gearbox", "coolant", "oil pressure", "engine oil"]


def test_port_facts(bay):
    bay.post(
        "ports/facts/",
        channel="coolant",
        pin="head, rear plug",
        entry="existing",
        name="Second plug",
        thread="1/8-27 NPT",
        way_in="sealant",
        why="nearer",
    )
    port = bay.job.port("head, rear plug")
    assert (port.name, port.ground.grounded, port.why) == ("Second plug", False, "nearer")
    assert "sender_without_ground" in {
        f.code for f in find_all(build(bay.job), solve(build(bay.job), State("run")))
    }


def test_the_job_file_goes_out_and_comes_in_without_loss(bay):
    answer = bay.get("handover/job.json")
    assert (
        answer.headers["Content-Disposition"] == 'attachment; filename="four-gauges-in-the-pillar-pod.json"'
    )
    assert job_from_text(answer.content.decode()) == van()
    made = bay.client.post("/jobs/from-file/", {"file": SimpleUploadedFile("j.json", answer.content)})
    again = JobRecord.objects.get(pk=int(made.url.split("/")[2]))
    assert job_of(again) == van()
    assert json.loads(bay.client.get(f"/jobs/{again.pk}/handover/job.json").content) == json.loads(
        answer.content
    )


def test_the_cut_list_is_csv_and_no_formula(bay):
    bay.post("harness/run/add/", name="=1+1")
    bay.post("harness/wire/", wire="W2", size="1.5", colour="RD", length_m="", run="=1+1")
    rows = list(csv.DictReader(io.StringIO(bay.get("harness/cut-list.csv").content.decode())))
    assert [r["wire"] for r in rows] == [w.id for w in bay.job.conductors]
    assert (rows[3]["from"], rows[3]["to"], rows[3]["length_m"]) == (
        "GP1 Dash brace, bare metal",
        "splice S4 ground",
        "0.40",
    )
    assert rows[1]["run"] == "'=1+1"


def test_the_wiring_drawing_carries_the_twins_volts(bay):
    bay.post("key-switch/", key="crank")
    root = ElementTree.fromstring(bay.get("harness/diagram.svg").content)
    words = [t.text for t in root.iter("{http://www.w3.org/2000/svg}text")]
    solved = solve(build(bay.job), State("crank"))
    assert f"{solved.volts(Address('display', 'gauge 2', 'pin', '2')):.1f}" in words
    assert f"{solved.volts(Address('display', 'gauge 2', 'pin', '5')):.2f}" in words
    assert {"Gauge 1", "Gauge 4", "F22", "Coolant sender", "Ground rail"} <= set(words)


def test_the_book_holds_what_was_found(bay, text):
    page = text(bay.get("handover/book/"))
    for words in (
        "Ridge Rescue support van 3",
        "Fuse card",
        "Belts",
        "F31",
        "W19",
        "coolant sender, unplugged",
        "as expected",
        "Not ready to hand over",
        "belts and airbags",
    ):
        assert words.lower() in page.lower()


def test_the_demo_is_loaded_once(db):
    from workbench.accounts.models import Workshop
    from workbench.jobs.management.commands.prepare import load_demo

    loaded = job_of(load_demo())
    assert loaded.work
    assert replace(loaded, work=(), work_hours=van().work_hours) == van()
    assert load_demo() is None
    assert Workshop.objects.count() == 1


def test_a_test_lamp_on_a_connector(bay, text):
    page = text(bay.get("proving/"))
    assert "pin|gauge 1|2" in page
    answer = text(bay.get("proving/lamp/", at="pin|gauge 1|2", watts="5"))
    assert "both legs good" in answer
    assert "bright" in answer
    assert "this lamp blows it" in text(bay.get("proving/lamp/", at="pin|gauge 1|2", watts="55"))
    assert "1 to 60 W" in text(bay.get("proving/lamp/", at="pin|gauge 1|2", watts="500"))
    assert "is not a number" in text(bay.get("proving/lamp/", at="pin|gauge 1|2", watts="strong"))
    assert "a supply pin that is wired" in text(bay.get("proving/lamp/", at="gauge 9|2", watts="5"))
