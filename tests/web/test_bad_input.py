"""Bad input at every form: a clear message at the field, nothing lost, nothing stored, no 500."""

from __future__ import annotations

import html
import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from metrolex.jobfile import example_job_data
from tests.jobs import van
from tests.web.forms_of import read_page
from workbench.jobs.models import JobRecord

LONG = "n" * 10_000
SEGMENTS = {
    "segments-TOTAL_FORMS": "1",
    "segments-INITIAL_FORMS": "0",
    "segments-0-name": "a to b",
    "segments-0-peak_degc": "60 C",
}
RUN = {"run": "gearbox run", "name": "Lead", "slack_pct": "5", "ends_m": "0.3 m"}
CURVE = {"channel": "coolant", "kind": "table", "interpolation": "log_x"}
TABLE = {"channel": "coolant", "x_unit": "ohm", "decimals": "0"}
BRIEF = {"name": "J", "vehicle": "V", "rest_v": "12.6", "charging_v": "14.2"}
FACTS = {"channel": "coolant", "pin": "head, rear plug", "name": "Head", "entry": "existing"}
PATH = {"id": "coolant", "name": "Coolant", "length_m": "3250 mm"}
WIRE = {"size": "0.5", "a": "tap|T1|", "b": "splice|S1|"}

FORMS = [
    ("brief/", BRIEF | {"name": LONG}, "name", "at most 120 characters"),
    ("brief/", BRIEF | {"rest_v": "900 V"}, "rest_v", "Expected 3 to 32 V"),
    ("brief/", BRIEF | {"rest_v": "twelve"}, "rest_v", "is not a voltage"),
    ("brief/", BRIEF | {"year": "1066"}, "year", "1885"),
    ("brief/", BRIEF | {"hours_left": "-1"}, "hours_left", "0 to 10000"),
    ("brief/", BRIEF | {"vehicle": ""}, "vehicle", "required"),
    ("brief/", BRIEF | {"burns": "steam"}, "burns", "not one of the available choices"),
    ("ports/facts/", FACTS | {"name": LONG}, "name", "at most 120"),
    ("ports/facts/", FACTS | {"thread": "1/8 NTP"}, "thread", "Did you mean '1/8-27 NPT'"),
    ("ports/facts/", FACTS | {"wall_mm": "0 mm"}, "wall_mm", "A wall of 0 holds no thread"),
    ("ports/facts/", FACTS | {"bore_mm": "5 mm"}, "bore_mm", "The probe is 7 mm thick"),
    ("ports/facts/", FACTS | {"path": "coolant", "at_m": "9000 mm"}, "at_m", "beyond the end of Coolant"),
    ("ports/facts/", FACTS | {"pin": "x"}, "name", "no such place"),
    ("ports/facts/", FACTS | {"peak_degc": "red"}, "peak_degc", "is not a temperature"),
    ("ports/facts/", FACTS | {"path": "moon"}, "path", "available choices"),
    ("ports/pin/add/", {"channel": "coolant", "name": "", "path": "coolant"}, "name", "required"),
    (
        "ports/pin/add/",
        {"channel": "coolant", "name": "Own", "path": "coolant", "at_m": "40 m"},
        "at_m",
        "beyond the end",
    ),
    ("ports/paths/save/", PATH | {"length_m": "0"}, "length_m", "Expected 0.001 to 100"),
    ("ports/paths/save/", PATH | {"parts": "turbine"}, "parts", "Line 1, 'turbine'"),
    ("ports/paths/save/", PATH | {"parts": "warp 10 mm"}, "parts", "Expected one of"),
    ("ports/paths/save/", PATH | {"parts": "pump 9 m"}, "parts", "beyond the end"),
    ("ports/paths/save/", PATH | {"stretches": "0 10 mm wood - - - bend x"}, "stretches", "Expected one of"),
    ("ports/paths/save/", PATH | {"stretches": "1"}, "stretches", "Line 1"),
    ("ports/paths/save/", PATH | {"into": "coolant"}, "into", "come back to itself"),
    ("ports/paths/new/", {"name": "x", "kind": "beer"}, "kind", "available choices"),
    ("ports/fluids/save/", {"fluid": "coolant", "lost": "-1 L"}, "lost", "Expected 0 to 500 L"),
    ("ports/fluids/save/", {"fluid": "beer", "lost": "1 L"}, "", ""),
    ("brief/survey/", {"rest_v": "90 V"}, "rest_v", "Expected 3 to 32 V"),
    ("brief/survey/", {"readings": "coolant low"}, "readings", "write name = reading"),
    ("brief/survey/", {"lamps_lit": "x" * 130}, "lamps_lit", "At most 120"),
    (
        "feeds/circuit/",
        {"id": "F9", "kind": "fuse", "form": "mini", "row": "1", "column": "1"},
        "id",
        "on the sheet already",
    ),
    (
        "feeds/circuit/",
        {"id": "F99", "kind": "fuse", "form": "mini", "row": "0", "column": "1"},
        "row",
        "greater than or equal to 1",
    ),
    (
        "feeds/circuit/",
        {"id": "F99", "kind": "fuse", "form": "mini", "row": "1", "column": "1", "rating_a": "-5"},
        "rating_a",
        "Expected 0.5 to 200 A",
    ),
    (
        "feeds/circuit/",
        {"id": LONG, "kind": "fuse", "form": "mini", "row": "1", "column": "1"},
        "id",
        "at most 60",
    ),
    ("feeds/grounds/save/", {"name": "", "where": "body"}, "name", "required"),
    ("feeds/grounds/save/", {"name": "x", "where": "moon"}, "where", "available choices"),
    (
        "feeds/grounds/save/",
        {"name": "x", "where": "body", "contact_ohm": "-1 ohm"},
        "contact_ohm",
        "Expected 1e-06 to 1000 Ω",
    ),
    (
        "harness/run/",
        RUN | SEGMENTS | {"segments-0-length_m": "-2 m"},
        "segments-0-length_m",
        "Expected 0 to 100 m",
    ),
    ("harness/run/", RUN | SEGMENTS | {"segments-0-length_m": ""}, "segments-0-name", "How long is it"),
    (
        "harness/run/",
        RUN | SEGMENTS | {"segments-0-length_m": "2 psi"},
        "segments-0-length_m",
        "not a unit of length",
    ),
    (
        "harness/run/",
        RUN | SEGMENTS | {"segments-0-length_m": "2 m", "slack_pct": "200"},
        "slack_pct",
        "Expected 0 to 100",
    ),
    ("harness/wire/", {"wire": "W1", "size": "0.6"}, "", "available choices"),
    ("harness/wire/", {"wire": "W1", "size": "0.5", "length_m": "-1"}, "length_m", "Expected 0.01 to 100 m"),
    ("harness/wire/add/", WIRE | {"a": "tap|T9|"}, "", "available choices"),
    ("harness/wire/add/", WIRE | {"b": "tap|T1|"}, "", "another place"),
    ("scaling/curve/", CURVE | {"points": "577 60"}, "points", "at least 2 points"),
    ("scaling/curve/", CURVE | {"points": "577 60\n577 61"}, "points", "Two points stand at x = 577"),
    ("scaling/curve/", CURVE | {"points": "577 60\nhot"}, "points", "Line 2"),
    ("scaling/curve/", CURVE | {"points": "0 60\n5 20"}, "points", "above 0"),
    ("scaling/curve/", CURVE | {"points": "577 60 3"}, "points", "Line 1: expected two numbers"),
    ("scaling/curve/", CURVE | {"kind": "magic"}, "kind", "available choices"),
    ("scaling/curve/", CURVE | {"kind": "beta", "r0_ohm": "-2200", "beta_k": "3600"}, "r0_ohm", "from 0.001"),
    ("scaling/curve/", CURVE | {"kind": "beta", "r0_ohm": "2200"}, "r0_ohm", "beta_k"),
    ("scaling/curve/", CURVE | {"points": "1 2\n" * 40_000}, "points", "at most 150000"),
    ("scaling/table/", TABLE | {"table": "577 60\n577 61"}, "table", "Two points stand"),
    ("scaling/table/", TABLE | {"table": "577 60"}, "table", "at least 2"),
    (
        "scaling/table/",
        TABLE | {"table": "577 60\n100 120", "low": "50", "high": "40"},
        "high",
        "above the low end",
    ),
    (
        "scaling/table/",
        TABLE | {"table": "577 60\n100 120", "decimals": "9"},
        "decimals",
        "less than or equal to 4",
    ),
    (
        "scaling/table/",
        TABLE | {"table": "577 60\n100 120", "warn_high": "hot"},
        "warn_high",
        "is not a temperature",
    ),
]


@pytest.mark.parametrize(
    ("address", "data", "field", "words"), FORMS, ids=[f"{f[0]}{f[2]}-{i}" for i, f in enumerate(FORMS)]
)
def test_a_refused_form_comes_back_filled_in(address, data, field, words, bay, text):
    answer = bay.post(address, **data)
    page = text(answer)
    assert answer.status_code == 422
    assert words in page
    typed = data.get(field, "")
    if typed:
        assert typed[:400] in html.unescape(answer.content.decode())
    assert read_page(answer.content.decode())  # no id twice on it, no label without its field
    assert bay.job == van()


def test_a_value_without_its_entry_comes_back_on_the_sheet(bay, text):
    answer = bay.post("scaling/menu/save/", display="gauge 2", more_value="x")
    assert (answer.status_code, "Which entry of the menu is it?" in text(answer)) == (422, True)
    assert 'name="more_value" value="x"' in answer.content.decode()
    assert bay.job == van()


READINGS = [
    ("12,4", 12.4, ""),
    ("live", "live", ""),
    ("", None, ""),
    ("900 V", 12.6, "Expected volts from -60 to 60"),
    ("x" * 10_000, 12.6, "live or dead"),
    ("-1e999", 12.6, "live or dead"),
]


@pytest.mark.parametrize(("typed", "stored", "words"), READINGS)
def test_a_probe_cell(typed, stored, words, bay, text):
    answer = bay.post("feeds/probe/", htmx=True, circuit="F31", state="off", reading=typed)
    page = text(answer)
    assert answer.status_code == 200
    assert bay.job.circuit("F31").readings.off == stored
    assert words in page
    assert ('id="class-F31"' in page) is (words == "")  # the classes follow only a reading that was taken
    assert bay.post("feeds/probe/", circuit="F31", state="off", reading=typed).status_code == 302


CELLS = [("F99", "off", "12"), ("F31", "sideways", "12"), ("", "", "")]


@pytest.mark.parametrize(("circuit", "state", "reading"), CELLS)
def test_a_probe_cell_that_is_not_there(circuit, state, reading, bay):
    assert (
        bay.post("feeds/probe/", htmx=True, circuit=circuit, state=state, reading=reading).status_code == 200
    )
    assert bay.job == van()


SEEN = [
    ("12,2", 12.2, ""),
    ("live", "live", ""),
    ("", None, ""),
    ("900", None, "-60 to 60"),
    ("lots", None, "Or one of live, dead"),
]


@pytest.mark.parametrize(("typed", "stored", "words"), SEEN)
def test_a_proving_cell(typed, stored, words, bay, text):
    data = {
        "test": "display|gauge 1|pin|2",
        "key": "run",
        "lamps": "off",
        "engine": "stopped",
        "found": typed,
    }
    assert words in text(bay.post("proving/seen/", htmx=True, **data))
    found = [o.value for o in bay.job.observations if str(o.test) == "gauge 1 pin 2"]
    assert found == ([stored] if stored is not None else [])
    assert bay.post("proving/seen/", **data).status_code == 302


def test_a_sender_cell_takes_ohms_and_no_negative_ones(bay, text):
    data = {"test": "sender|gearbox sender|ohms|", "key": "off", "lamps": "off", "engine": "stopped"}
    assert "0 or more" in text(bay.post("proving/seen/", htmx=True, found="-5", **data))
    bay.post("proving/seen/", htmx=True, found="2k7", **data)
    assert bay.job.observations[-1].value == 2700.0
    assert "as expected" in text(bay.get("handover/book/"))
    assert "not there any more" in text(
        bay.post("proving/seen/", htmx=True, found="5", **(data | {"test": "gone"}))
    )
    assert bay.post("proving/seen/", htmx=True, found="5", **(data | {"key": "sideways"})).status_code == 200


def upload(content, name="job.json"):
    return {"file": SimpleUploadedFile(name, content.encode() if isinstance(content, str) else content)}


def file_with(**changes):
    return json.dumps(example_job_data() | changes)


FILES = [
    (file_with()[:3000], "input: The text is not complete JSON"),
    (file_with(schema_version=9), "written by a newer Metrolex"),
    (
        file_with(taps=[{"id": "T1", "need": "constant", "circuit": "F77"}]),
        "taps[0].circuit: There is no part 'F77' here",
    ),
    (file_with(name=LONG), "name: At most 120 characters fit; this has"),
    (b"\xff\xfe\x00", "not text"),
    ("", "empty"),
    ("[]", "Expected a JSON object"),
    (b" " * (2 * 1024 * 1024 + 10), "up to 2048 kB"),
    (file_with(colour="red"), "Unknown key 'colour'"),
]


@pytest.mark.parametrize(("content", "words"), FILES, ids=[f[1] for f in FILES])
def test_a_job_file_that_cannot_be_read(content, words, bay, text):
    answer = bay.client.post("/jobs/from-file/", upload(content))
    assert answer.status_code == 422
    assert words in text(answer)
    assert JobRecord.objects.count() == 1


NEW = [
    ({"name": "", "vehicle": "v"}, "required"),
    ({"name": LONG, "vehicle": "v"}, "at most 120"),
    ({"name": "n", "vehicle": "v", "channels": ["warp"]}, "available choices"),
    ({"name": "n", "vehicle": "v", "year": "x"}, "whole number"),
    ({"name": "nul\x00", "vehicle": "v"}, "Null characters"),
]


@pytest.mark.parametrize(("data", "words"), NEW)
def test_a_new_job_that_cannot_be_made(data, words, bay, text):
    answer = bay.client.post("/jobs/new/", data)
    assert answer.status_code == 422
    assert words in text(answer)
    assert JobRecord.objects.count() == 1


ACTS = [
    ("brief/channels/add/", {"measurand": "warp"}),
    ("brief/channels/remove/", {"channel": "warp"}),
    ("ports/place/", {"channel": "coolant", "pin": "roof"}),
    ("ports/place/", {"channel": "x", "pin": "roof"}),
    ("ports/move/", {"channel": "coolant", "pin": "head, rear plug", "at": "9"}),
    ("ports/move/", {"channel": "coolant", "pin": "head, rear plug", "at": "far"}),
    ("ports/pin/remove/", {"channel": "coolant", "pin": "head, rear plug"}),
    ("ports/pin/remove/", {"channel": "coolant", "pin": "x"}),
    ("ports/stack/", {"channel": "coolant", "pin": "head, rear plug", "do": "add", "name": "x"}),
    ("ports/stack/", {"channel": "battery", "pin": "x", "do": "best"}),
    ("ports/weights/", {"channel": "coolant", "reading": "9"}),
    ("ports/practice/", {"topic": "x", "practice": "y"}),
    ("ports/practice/", {"topic": "tap_drill", "practice": "y"}),
    ("ports/paths/remove/", {"path": "x"}),
    ("brief/plan/aims/", {"aim": "fly"}),
    ("brief/plan/source/", {"channel": "coolant", "source": "magic"}),
    ("brief/plan/source/", {"channel": "coolant", "source": "ecu"}),
    ("brief/plan/answer/", {"word": "turbo", "there": "maybe"}),
    ("brief/cluster/item/", {"item": "x", "comes_from": "lamp"}),
    ("brief/cluster/item/", {"do": "add", "name": " "}),
    ("ports/sender/", {"channel": "coolant", "kit": "magic"}),
    ("ports/sender/", {"channel": "x", "kit": "magic"}),
    ("feeds/tap/", {"need": "magic", "circuit": "F31"}),
    ("feeds/tap/", {"need": "lamps", "circuit": "F99"}),
    ("feeds/circuit/remove/", {"circuit": "F31"}),
    ("feeds/prove/", {"circuit": "F31", "proved": "maybe"}),
    ("feeds/tap/turn/", {"tap": "T99"}),
    ("feeds/tap/remove/", {}),
    ("feeds/grounds/remove/", {}),
    ("harness/run/remove/", {"run": "x"}),
    ("harness/wire/", {"wire": "W99"}),
    ("harness/wire/remove/", {}),
    ("scaling/curve/", {"channel": "battery"}),
    ("waiver/", {"code": "x", "subject": "y", "reason": ""}),
    ("waiver/remove/", {}),
    ("scaling/row/", {"channel": "coolant", "row": "99", "x": "1", "y": "2"}),
    ("scaling/row/", {"channel": "coolant", "row": "a"}),
    ("scaling/branch/", {"channel": "coolant", "part": "7"}),
    ("scaling/run/remove/", {"channel": "coolant", "run": "0"}),
    ("scaling/speed-setting/", {"channel": "coolant"}),
    ("scaling/tank-curve/", {"channel": "coolant"}),
    ("scaling/measured/remove/", {"channel": "coolant", "number": "99"}),
    ("scaling/measured/take/", {"channel": "coolant", "law": "magic"}),
    ("scaling/measured/take/", {"channel": "battery", "law": "beta"}),
    ("scaling/measured/take/", {"channel": "coolant", "sender": "magic"}),
    ("scaling/menu/save/", {"display": "gauge 9"}),
    ("scaling/menu/entry/remove/", {"display": "gauge 9"}),
    ("displays/describe/", {"display": "gauge 2", "name": "magic"}),
    ("displays/describe/", {"display": "gauge 2", "name": "round gauge, volts"}),
]


@pytest.mark.parametrize(("address", "data"), ACTS, ids=[f"{a[0]}-{i}" for i, a in enumerate(ACTS)])
def test_an_act_that_cannot_be_done_changes_nothing(address, data, bay):
    answer = bay.post(address, **data)
    assert answer.status_code == 302
    assert bay.client.get(answer.url).status_code == 200
    assert bay.job == van()
