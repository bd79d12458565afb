"""The plan, runs led by hand, plugs, the bus, and the papers, by the pages."""

from __future__ import annotations

import io
from dataclasses import replace
from xml.etree import ElementTree

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from metrolex.harness.runs import plan_run
from metrolex.job import End
from metrolex.layout.routes import laid, route_of
from tests.core.test_plugs_and_bus import DESCRIPTION
from tests.jobs import shipped
from workbench.harness.plan_drawing import plan_drawing
from workbench.jobs.door import import_job


def length_of(job, run):
    return plan_run(laid(job, job.run(run))).length_m


def test_a_job_without_a_plan_starts_from_a_layout(bay, text):
    made = bay.client.post(
        "/jobs/new/", {"name": "Coolant", "vehicle": "Sidecar outfit", "channels": ["coolant_temperature"]}
    )
    job = int(made.url.split("/")[2])
    page = text(bay.client.get(f"/jobs/{job}/harness/plan/"))
    assert '<option value="outfit" selected>' in page
    bay.client.post(f"/jobs/{job}/harness/plan/start/", {"layout": "outfit"})
    assert "Chair, nose" in text(bay.client.get(f"/jobs/{job}/harness/plan/"))
    bay.client.post(f"/jobs/{job}/harness/plan/start/", {"layout": "submarine"})


def test_a_run_led_through_a_zone_changes_length_cut_list_and_findings(bay, text):
    before = length_of(bay.job, "feed run")
    answer = bay.post("harness/plan/via/", htmx=True, run="feed run", zone="dash centre")
    assert bay.job.run("feed run").via == ("dash centre",)
    after = length_of(bay.job, "feed run")
    assert after > before + 0.9
    assert f"{after:.2f}" in text(answer)
    assert 'id="findings"' in text(answer)
    assert f"{after:.2f} m" in text(bay.get("harness/"))
    bay.post("harness/plan/via/", run="feed run", zone="dash centre", out="1")
    assert bay.job.run("feed run").via == ()


def test_a_zone_no_way_leads_to_is_said_on_the_spot(bay, text):
    bay.post(
        "harness/plan/zone/",
        **{
            "zone-name": "Trailer",
            "zone-kind": "boot",
            "zone-x": "90",
            "zone-y": "45",
            "zone-w": "8",
            "zone-h": "8",
        },
    )
    assert bay.job.zone("trailer")
    answer = bay.post("harness/plan/via/", htmx=True, run="feed run", zone="trailer")
    assert "No way leads through Trailer" in text(answer)
    assert bay.job.run("feed run").via == ()


def test_ends_of_a_run_and_its_lead(bay, text):
    bay.post(
        "harness/plan/run/",
        run="oil pressure run",
        name="Oil pressure lead",
        start="engine side",
        finish="pillar",
        supplied_m="3 m",
        slack_pct="10",
        ends_m="30 cm",
        thermocouple_type="",
        plug="dash left",
    )
    run = bay.job.run("oil pressure run")
    assert (run.start, run.plug, run.slack_pct) == ("engine side", "dash left", 10.0)
    assert route_of(bay.job, run).zones[0] == "engine side"
    refused = bay.post(
        "harness/plan/run/",
        run="oil pressure run",
        name="Oil pressure lead",
        start="engine side",
        finish="pillar",
        supplied_m="0 m",
        slack_pct="10",
        ends_m="30 cm",
    )
    assert refused.status_code == 422
    assert 'value="0 m"' in text(refused)


def test_a_way_as_measured(bay, text):
    assert "Change way w9" in text(bay.get("harness/plan/edit/", way="w9"))
    before = length_of(bay.job, "coolant run")
    bay.post(
        "harness/plan/way/",
        way="w9",
        **{
            "way-a": "dash left",
            "way-b": "pillar",
            "way-length_m": "2.1 m",
            "way-peak_degc": "50 C",
            "way-tied_to": ["brake line"],
        },
    )
    assert length_of(bay.job, "coolant run") != before
    assert "brake line" in text(bay.get("harness/plan/"))
    refused = bay.post(
        "harness/plan/way/",
        way="w9",
        **{"way-a": "pillar", "way-b": "pillar", "way-length_m": "2.1 m", "way-peak_degc": "50 C"},
    )
    assert refused.status_code == 422
    assert "another zone" in text(refused)
    bay.post("harness/plan/way/remove/", way="w20")
    assert "w20" not in {way.id for way in bay.job.ways}


def test_a_zone_a_run_ends_in_stays(bay, text):
    bay.post("harness/plan/zone/remove/", zone="pillar")
    assert bay.job.zone("pillar")
    bay.post("harness/plan/zone/remove/", zone="boot")
    assert bay.job.zone("boot") is None
    assert not [w for w in bay.job.ways if "boot" in (w.a, w.b)]
    bay.post(
        "harness/plan/zone/",
        zone="roof",
        **{
            "zone-name": "Roof",
            "zone-kind": "roof",
            "zone-x": "63",
            "zone-y": "27",
            "zone-w": "20",
            "zone-h": "9",
            "zone-airbag": "there",
        },
    )
    assert bay.job.zone("roof").airbag == "there"


def test_stretches_by_hand_take_the_place_of_the_plan(bay):
    rows = {
        "segments-TOTAL_FORMS": "1",
        "segments-INITIAL_FORMS": "0",
        "segments-0-name": "straight",
        "segments-0-length_m": "1 m",
        "segments-0-peak_degc": "50 C",
    }
    bay.post(
        "harness/run/",
        run="coolant run",
        name="Coolant",
        slack_pct="0",
        ends_m="0 m",
        supplied_m="3.6 m",
        **rows,
    )
    run = bay.job.run("coolant run")
    assert (run.start, run.via, len(run.segments)) == (None, (), 1)


def test_the_plan_names_every_zone_and_is_a_file(bay):
    root = ElementTree.fromstring(str(plan_drawing(bay.job, bay.job.run("gearbox run"))))
    words = " ".join(t.text or "" for t in root.iter("{http://www.w3.org/2000/svg}text"))
    for zone in bay.job.zones:
        assert zone.name.split()[0] in words
    answer = bay.get("harness/plan.svg", run="gearbox run")
    assert answer["Content-Type"] == "image/svg+xml"
    ElementTree.fromstring(answer.content)


PINS = "1 1 1 GN/WH turn signal, left\n2 1 2 BU main beam, 12 V\n3 2 1 - ground"


def test_a_plug_is_entered_line_by_line_and_turned(bay, text):
    bay.post(
        "harness/plugs/save/",
        name="Cluster plug",
        view="wire side",
        source="diagram",
        cavities=PINS.replace("turn signal, left", "turn left"),
    )
    plug = bay.job.connectors[0]
    assert [(c.pin, c.colour, c.stripe, c.function, c.switched) for c in plug.cavities] == [
        ("1", "GN", "WH", "turn left", ""),
        ("2", "BU", "", "main beam", "12 V"),
        ("3", "", "", "ground", ""),
    ]
    assert "seen from the wire side" in text(bay.get("harness/plugs/"))
    assert "seen from the mating side" in text(bay.get("harness/plugs/", turned=plug.id))
    bay.post(
        "harness/wire/add/",
        a=f"plug|{plug.id}|1",
        b="display|gauge 1|5",
        size="0.5",
        colour="",
        length_m="1 m",
        run="",
    )
    assert any(End("plug", plug.id, "1") in (w.a, w.b) for w in bay.job.conductors)
    held = bay.post(
        "harness/plugs/save/",
        id=plug.id,
        name="Cluster plug",
        view="wire side",
        cavities="2 1 2 BU main beam",
    )
    assert held.status_code == 422
    assert "take the wire out first" in text(held)
    bay.post("harness/plugs/remove/", plug=plug.id)
    assert not bay.job.connectors
    assert not any(e.kind == "plug" for w in bay.job.conductors for e in (w.a, w.b))


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("1 1", "Line 1: expected pin, row, column"),
        ("1 a 1 RD", "Line 1"),
        ("1 1 1 QQ ground", "no wire colour 'QQ'"),
        ("1 1 1 RD turn left, 5 V", "12 V"),
        ("1 1 1 RD x\n1 1 2 RD y", "stands twice"),
        ("1 1 1 RD x\n2 1 1 RD y", "would lie on another"),
    ],
)
def test_pins_that_cannot_be_meant_are_said_at_the_field(line, words, bay, text):
    answer = bay.post("harness/plugs/save/", name="Plug", view="wire side", cavities=line)
    assert answer.status_code == 422
    assert words in text(answer)
    assert line.splitlines()[0] in text(answer)
    assert not bay.job.connectors


def test_a_can_description_is_read_and_a_signal_taken(bay, text):
    path = f"/jobs/{bay.record.pk}/harness/bus/"
    file = SimpleUploadedFile("engine.dbc", DESCRIPTION.encode())
    bay.client.post(path, {"pair_ohm": "119", "stub_m": "0.2 m", "bitrate_kbit": "500", "file": file})
    assert [s.name for s in bay.job.bus.signals] == ["EngineSpeed", "OilPress", "CoolantTemp"]
    assert "One end is missing" in text(bay.get("harness/plugs/"))
    refused = bay.client.post(
        path,
        {"pair_ohm": "119", "bitrate_kbit": "500", "file": SimpleUploadedFile("x.dbc", b"not a description")},
    )
    assert refused.status_code == 422
    assert "not a CAN description" in text(refused)
    assert len(bay.job.bus.signals) == 3
    bay.post("harness/bus/signal/", channel="coolant", signal="Moon")
    assert bay.job.chain("coolant").signal == ""
    bay.post("harness/bus/signal/", channel="coolant", signal="CoolantTemp")
    assert bay.job.chain("coolant").signal == "CoolantTemp"


def test_a_point_of_the_diagram_is_asked(bay, text):
    page = text(bay.get("harness/diagram/", node="gauge 2 pin 3 lamps"))
    assert "key run, lamps park" in page
    assert "wire W11" in page
    assert "the moon" not in text(bay.get("harness/diagram/", node="the moon"))


PAPERS = [
    ("diagram.svg", b"<svg"),
    ("reels.csv", b"size,colour"),
    ("plugs/pins.csv", b"display,pin"),
    ("cut-list.csv", b"wire,from"),
]


@pytest.mark.parametrize(("name", "start"), PAPERS)
def test_papers_to_take_away(name, start, bay):
    answer = bay.get(f"harness/{name}")
    assert answer.status_code == 200
    assert io.BytesIO(answer.content).read(len(start)) == start
    assert "attachment" in answer["Content-Disposition"]


def test_a_lamp_input_and_an_output_as_they_are(bay, text):
    bay.record = import_job(bay.member, shipped("fire_tender"))
    assert "Lamp inputs and outputs" in text(bay.get("harness/plugs/"))
    bay.post("harness/plugs/pin/", display="dash", pin="22", function="main beam", active="ground")
    assert "switched to 12 V; pin 22 of dash waits for ground" in text(bay.get("harness/plugs/"))
    bay.post("harness/plugs/pin/", display="dash", pin="24", function="fan", limit_a="1.5", drives_a="9")
    page = text(bay.get("harness/plugs/"))
    assert "A relay between" in page
    assert "only the screen switches" in text(bay.get("dash/lamps/"))
    refused = bay.post(
        "harness/plugs/pin/", display="dash", pin="24", function="fan", limit_a="nine", drives_a="9"
    )
    assert refused.status_code == 422
    assert 'value="nine"' in text(refused)
    bay.post("harness/plugs/pin/", display="dash", pin="1", function="fan")
    assert bay.job.display("dash").pins[0].function == ""


def test_a_wires_form_is_fetched_when_it_is_opened(bay, text):
    wire = next(w for w in bay.job.conductors if w.look.colour)
    page = text(bay.get("harness/"))
    assert 'name="twist"' not in page  # the page does not carry the forms of all its wires
    form = text(bay.get("harness/wire/form/", wire=wire.id))
    assert f'name="wire" value="{wire.id}"' in form
    assert f'<option value="{wire.look.colour}" selected>' in form
    # Without a script the link opens the same form on the page itself.
    opened = text(bay.get("harness/", wire=wire.id))
    assert opened.count('name="twist"') == 1
    assert bay.get("harness/wire/form/", wire="W99").status_code == 404
    assert bay.get("harness/", wire="W99").status_code == 200


def test_lengths_are_asked_before_wires_are_laid(bay, text):
    """Typed before laying, they stand in the wires; a word that is no length comes back as typed and nothing is laid."""
    bare = replace(
        bay.job, conductors=(), splices=(), runs=tuple(r for r in bay.job.runs if r.id != "feed run")
    )
    bay.record = import_job(bay.member, bare)
    refused = bay.post("harness/lay/", feed_m="far", ground_m="0.4", tail_m="0.2")
    assert refused.status_code == 422
    assert 'value="far"' in text(refused)
    assert bay.job.conductors == ()
    assert bay.post("harness/lay/", feed_m="2.2 m", ground_m="0,4", tail_m="20 cm").status_code == 302
    job = bay.job
    grounds = [w.length_m for w in job.conductors if "ground" in (w.a.kind, w.b.kind)]
    tails = [w.length_m for w in job.conductors if w.a.kind == "splice" and w.b.kind == "display"]
    assert grounds == [0.4]
    assert set(tails) == {0.2}
    assert job.run("feed run").segments[0].length_m == 2.2


def test_an_end_of_a_wire_is_led_to_another_place(bay, text):
    form = text(
        bay.client.get(bay.path("harness/wire/form/"), {"wire": "W1"}, headers={"HX-Request": "true"})
    )
    assert "Lead it there" in form
    assert bay.post("harness/wire/move/", wire="W1", end="a", to="tap|T4|").status_code == 302
    assert bay.job.wire("W1").a == End("tap", "T4")
    for wrong in ({"to": "tap|T99|"}, {"end": "c"}, {"wire": "W99"}):
        before = bay.job
        bay.post("harness/wire/move/", **({"wire": "W1", "end": "a", "to": "tap|T1|"} | wrong))
        assert bay.job == before


def test_a_list_of_pins_needs_no_rows_and_columns(bay):
    """As it stands in a pin table: number, colour in words or by code, function."""
    bay.post(
        "harness/plugs/save/",
        id="",
        name="Old cluster",
        display="",
        view="wire side",
        cavities="1 light-blue/white/red turn left, 12 V\n2 GN turn right\n3 - charge\n4 BK/WH ground",
    )
    plug = bay.job.connectors[-1]
    assert [(c.pin, c.row, c.column) for c in plug.cavities] == [
        ("1", 1, 1),
        ("2", 1, 2),
        ("3", 1, 3),
        ("4", 1, 4),
    ]
    assert plug.cavities[0].code == "LB/WH/RD"
    assert (plug.cavities[0].function, plug.cavities[0].switched) == ("turn left", "12 V")
    before = bay.job
    answer = bay.post(
        "harness/plugs/save/", id="", name="X", display="", view="wire side", cavities="1 XX turn left"
    )
    assert "no wire colour" in answer.content.decode()
    assert bay.job == before
