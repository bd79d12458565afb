"""JSON in, JSON out: every example works, every refusal names its field, nothing prints a traceback."""

from __future__ import annotations

import io
import json
import subprocess
import sys

import pytest

from metrolex.cli import CALCULATIONS, main
from metrolex.jobfile import example_job_data


@pytest.fixture
def call(monkeypatch, capsys):
    def run(name, data, *flags):
        text = data if isinstance(data, str) else json.dumps(data)
        monkeypatch.setattr(sys, "stdin", type("In", (), {"buffer": io.BytesIO(text.encode())})())
        code = main([name, *flags])
        out = capsys.readouterr().out
        return code, (out if "--spice" in flags else json.loads(out))

    return run


@pytest.fixture
def example(capsys):
    def make(name):
        assert main([name, "--example"]) == 0
        return json.loads(capsys.readouterr().out)

    return make


@pytest.mark.parametrize("name", CALCULATIONS)
def test_every_example_works(name, call, example):
    code, answer = call(name, example(name))
    assert code == 0
    assert isinstance(answer["findings"], list)
    for finding in answer["findings"]:
        assert {"grade", "code", "subject", "reason", "figure", "remedy"} <= set(finding)


def test_the_list_of_names(capsys):
    assert main([]) == 0
    out = capsys.readouterr().out
    assert all(f"  {name} " in out and line in out for name, (_, line) in CALCULATIONS.items())


LINE = {"kind": "linear", "x_unit": "volt", "y_unit": "bar", "points": [[0.5, 0], [4.5, 10]]}
NTC = {
    "kind": "table",
    "x_unit": "ohm",
    "y_unit": "degC",
    "points": [[1000, 20], [100, 120]],
    "interpolation": "linear",
}
DISPLAY = {
    "curve": NTC,
    "table": [[0.5, 120], [2.5, 20]],
    "input": {"pull_up_ohm": 1000, "reference_v": 5},
    "true": [20, 200],
}


def test_sender_answers_null_outside_with_a_finding(call):
    _, answer = call("sender", {"curve": LINE, "x": [2.5, 5.0]})
    assert answer["y"] == [5.0, None]
    assert answer["findings"][0]["code"] == "outside_curve"
    _, answer = call("sender", {"curve": NTC, "y": [70]})
    assert answer["x"] == [550.0]


def test_display_by_hand(call):
    # 20 degC: 1000 ohm of 1000 is 2.5 V: the table's own row. With 1 kohm of wire 3.333 V: held at the last row.
    _, answer = call("display", DISPLAY)
    assert answer["shown"] == [20.0, None]
    _, answer = call("display", {**DISPLAY, "true": [120], "wire_ohm": 100, "decimals": 1})
    # 200 ohm: 5 x 200/1200 = 0.8333 V; 120 - 100 (0.8333 - 0.5)/2 = 103.3.
    assert answer["shown"] == [103.3]
    _, answer = call(
        "display",
        {"curve": LINE, "table": [[0.5, 0], [4.5, 10]], "true": [5], "ground_offset_v": 0.04, "decimals": 2},
    )
    assert answer["shown"] == [5.1]
    _, answer = call(
        "display", {"curve": NTC, "table": [[100, 120], [1000, 20]], "true": [120], "wire_ohm": 90}
    )
    assert answer["shown"] == [110.0]


def test_fuse_and_wire_and_run(call):
    _, answer = call("fuse", {"load_a": 4, "wire": 18, "system": "awg", "tap_limit_a": 5})
    assert (answer["fuse_a"], answer["colour"], [f["code"] for f in answer["findings"]]) == (
        7.5,
        "brown",
        ["fuse_over_tap"],
    )
    _, answer = call(
        "wire",
        {"current_a": 60, "length_m": 2, "volts": 12, "max_drop_v": 0.5, "system": "mm2", "return": "body"},
    )
    assert (answer["size"], answer["drop_v"], answer["findings"][0]["grade"]) == (None, None, "stop")
    _, answer = call(
        "run",
        {
            "segments": [{"length_m": 2, "peak_degc": 140, "moving": True}],
            "slack_pct": 10,
            "ends_m": 0.2,
            "supplied_m": 2,
        },
    )
    assert (answer["length_m"], answer["extension_m"], answer["insulation_class"]) == (
        pytest.approx(2.45),
        pytest.approx(0.45),
        "D",
    )


def test_circuits(call, example):
    _, answer = call("circuits", example("circuits"))
    assert answer["class"] == {
        "F9": "constant",
        "F14": "lamps",
        "F22": "ignition_crank",
        "F25": "accessory",
        "F33": "signal",
        "F31": "constant",
    }
    assert answer["choice"] == {"constant": "F31", "ignition_crank": "F22", "lamps": "F14"}


def test_twin_in_every_part(call, example):
    data = example("twin") | {
        "faults": [
            {"element": "wire W19", "kind": "open"},
            {"element": "wire W9", "kind": "swap", "with": "wire W10"},
        ],
        "instruments": [
            {"kind": "meter", "red": "gauge 2 pin 2 ignition", "black": "body"},
            {"kind": "lamp", "red": "gauge 1 pin 2 ignition", "black": "gauge 1 pin 4 ground", "watts": 5},
        ],
    }
    code, answer = call("twin", data)
    assert code == 0
    assert answer["shown"]["coolant"] is None
    assert answer["faces"]["coolant"]["state"] == "open"
    assert answer["instruments"][1]["looks"] == "bright"
    assert answer["nodes"]["battery negative"] == 0.0
    assert set(answer["currents"]) >= {"battery", "wire W1", "tap T2", "coolant sender thread"}


def test_the_deck_covers_the_nodes(call, example):
    code, deck = call("twin", example("twin"), "--spice")
    _, answer = call("twin", example("twin"))
    named = {line.split(" = ", 1)[1] for line in deck.splitlines() if line.startswith("* node ")}
    assert code == 0
    assert named == set(answer["nodes"])


def test_check_is_one_row_a_channel(call, example):
    _, answer = call("check", example("check"))
    assert [row["id"] for row in answer["channels"]] == ["gearbox", "coolant", "oil pressure", "battery"]
    assert "Oil pressure: Choose a port" in answer["open"]


OWN = [
    {"name": "bush", "male": "M12x1.5", "female": "M10x1", "length_mm": 11},
    {"name": "long", "male": "M12x1.5", "female": "M10x1", "length_mm": 30},
]


@pytest.mark.parametrize(
    ("data", "chain", "seals", "length_mm", "codes"),
    [
        (
            {"port": "M12x1.5 female", "sender": "M10x1 male", "fittings": OWN},
            ["bush"],
            ["washer", "washer"],
            11.0,
            [],
        ),
        ({"port": "1/8-27 NPT", "sender": "1/8-27 NPT", "fittings": []}, [], ["sealant"], 0.0, []),
        ({"port": "M12x1.5", "sender": "M8x1", "fittings": OWN}, [], [], None, ["no_way_in"]),
        ({"port": "M12x1.5", "sender": "M8x1", "fittings": []}, [], [], None, ["no_fittings"]),
        (
            {"port": "1/8-28 BSPT female", "sender": "1/8-27 NPT male", "fittings": OWN},
            [],
            [],
            None,
            ["look_alike_thread", "no_way_in"],
        ),
        (
            {"port": "9/16-18 ORB", "sender": "AN6 male", "fittings": OWN},
            [],
            [],
            None,
            ["look_alike_thread", "no_way_in"],
        ),
    ],
)
def test_stack(data, chain, seals, length_mm, codes, call):
    code, answer = call("stack", data)
    assert code == 0
    assert (answer["chain"], [j["seal"] for j in answer["joints"]], answer["length_mm"]) == (
        chain,
        seals,
        length_mm,
    )
    assert [f["code"] for f in answer["findings"]] == codes


def test_drill_wideband_and_spot(call):
    _, answer = call("drill", {"thread": "1/8 NPT", "wall_mm": 6, "material": "cast_iron", "reamed": False})
    assert (answer["tap_drill"], answer["steps_mm"][-1]) == ({"name": "R", "mm": 8.61}, 8.61)
    assert answer["threads_engaged"] == pytest.approx(6 / (25.4 / 27))
    _, answer = call("drill", {"thread": "1/8-27 NPT", "wall_mm": 2, "material": "sheet", "reamed": True})
    assert (answer["tap_drill"]["name"], [f["grade"] for f in answer["findings"]]) == (
        "21/64 in",
        ["stop", "note"],
    )
    _, answer = call(
        "wideband", {"distance_mm": 500, "after_turbine": None, "before_catalyst": True, "practice": "24_in"}
    )
    assert (answer["ok"], answer["allowed_mm"], answer["findings"][0]["code"]) == (
        False,
        [534.0, 686.0],
        "lambda_too_close",
    )
    _, answer = call("spot", {"distance_mm": 100, "cone_deg": 90})
    assert answer["spot_mm"] == pytest.approx(200.0)


def job(**changes):
    return {"job": example_job_data() | changes}


BETA = {"kind": "beta", "r0_ohm": 2200, "beta_k": 3600, "x_range": [40, 40000]}
ROWS = {"curve": BETA, "x_range": [60, 3000], "points": 8}
BUDGET = {"curve": BETA, "table": [[60, 150], [3000, 20]], "at": 90}
SPEED = {"tyre": "205/55R16", "pulses_per_rev": 4, "sensed": "wheel"}
GPS = {"setting": 8000, "runs": [{"gps_kmh": 100, "shown_kmh": 105}], "meaning": "circumference"}
BLEND = {"tank_l": 50, "in_tank_l": 20, "in_tank_ethanol_pct": 5, "added_ethanol_pct": 85, "target_pct": 30}

REFUSED = [
    ("sender", {"curve": {"kind": "thermocouple", "type": "K"}, "x": [1]}, "cold_junction_degc"),
    ("sender", {"curve": LINE, "x": [1], "cold_junction_degc": 20}, "cold_junction_degc"),
    (
        "sender",
        {"curve": {"kind": "thermocouple", "type": "Q"}, "x": [1], "cold_junction_degc": 20},
        "curve.type",
    ),
    ("fit", {"kind": "beta", "points": [[100, 20]]}, "points"),
    ("fit", {"kind": "beta", "points": [[100, 20], [100, 30]]}, "points"),
    ("fit", {"kind": "spline", "points": []}, "kind"),
    ("fit", {"kind": "beta", "points": [[1, 2], [3, 1]], "x_unit": "volt"}, "x_unit"),
    ("table", {**ROWS, "points": 1}, "points"),
    ("table", {**ROWS, "points": 500}, "points"),
    ("table", {**ROWS, "x_step": 9e4}, "x_step"),
    ("table", {**ROWS, "x_range": [10, 3000]}, "x_range"),
    ("table", {**ROWS, "x_range": [300, 100]}, "x_range"),
    ("table", {**ROWS, "y_range": [0, 50]}, "y_range"),
    ("table", {"curve": BETA, "points": 8, "y_range": [0, 900]}, "y_range"),
    ("table", {**ROWS, "y_step": -1}, "y_step"),
    ("budget", {**BUDGET, "at": 900}, "at"),
    ("budget", {**BUDGET, "curve": {**BETA, "tolerance": {"x": 1}}}, "curve.tolerance.x"),
    ("budget", {**BUDGET, "table": []}, "table"),
    ("match", {"sender_points": [[0, 10]], "gauge_points": [[0, 10], [1, 20]]}, "sender_points"),
    (
        "match",
        {"sender_points": [[0, 10], [1, -5]], "gauge_points": [[0, 10], [1, 20]]},
        "sender_points[1][1]",
    ),
    (
        "match",
        {"sender_points": [[0, 10], [1, 20]], "gauge_points": [[0, 10], [1, 20]], "series": "E12"},
        "series",
    ),
    ("speed", {**SPEED, "tyre": "205/55"}, "tyre"),
    ("speed", {**SPEED, "tyre_wear_mm": -1}, "tyre_wear_mm"),
    ("speed", {**SPEED, "pulses_per_rev": 0}, "pulses_per_rev"),
    ("speed", {**SPEED, "sensed": "driveline"}, "axle_ratio"),
    ("speed", {"pulses_per_rev": 4, "sensed": "wheel"}, "tyre"),
    ("speed", {**SPEED, "circumference_m": 2}, "circumference_m"),
    ("gps", {**GPS, "runs": []}, "runs"),
    ("gps", {**GPS, "setting": 0}, "setting"),
    ("gps", {**GPS, "runs": [{"gps_kmh": 0, "shown_kmh": 3}]}, "runs[0].gps_kmh"),
    ("gps", {**GPS, "meaning": "pulses"}, "meaning"),
    ("gps", {**GPS, "step": 9000}, "step"),
    ("tach", {"cylinders": 4, "strokes": 3, "pickup": "ecu"}, "strokes"),
    ("tach", {"cylinders": 0, "strokes": 4, "pickup": "ecu"}, "cylinders"),
    ("tach", {"cylinders": 4, "strokes": 4, "pickup": "ecu", "shown_rpm": 100}, "true_rpm"),
    ("tach", {"cylinders": 4, "strokes": 4, "pickup": "ecu", "pulses_per_rev": 0}, "pulses_per_rev"),
    ("blend", {**BLEND, "in_tank_l": 60}, "in_tank_l"),
    ("blend", {**BLEND, "target_pct": 101}, "target_pct"),
    ("blend", {**BLEND, "in_tank_l": -1}, "in_tank_l"),
    ("lambda", {"lambda": 1, "fuel": "petrool"}, "fuel"),
    ("lambda", {"lambda": 1, "shown_ratio": 14.7, "fuel": "petrol"}, "shown_ratio"),
    ("lambda", {"lambda": 1}, "fuel"),
    ("lambda", {"fuel": "petrol"}, "lambda"),
    ("lambda", {"lambda": -1, "fuel": "petrol"}, "lambda"),
    ("boost", {"absolute_kpa": 100}, "altitude_m"),
    ("boost", {"absolute_kpa": -1, "altitude_m": 0}, "absolute_kpa"),
    ("boost", {"absolute_kpa": 100, "barometer_kpa": 1013}, "barometer_kpa"),
    ("sendre", {}, "name"),
    ("sender", "", "input"),
    ("sender", "[]", "input"),
    ("sender", '{"x": NaN}', "input"),
    ("sender", {}, "curve"),
    ("sender", {"curve": LINE}, "x"),
    ("sender", {"curve": LINE, "x": [1], "y": [1]}, "y"),
    ("sender", {"curve": LINE, "x": []}, "x"),
    ("sender", {"curve": LINE, "x": ["1"]}, "x[0]"),
    ("sender", {"curve": {**LINE, "points": [[1, 1]]}, "x": [1]}, "curve.points"),
    ("sender", {"curve": {**NTC, "points": [[-5, 1], [5, 2]]}, "x": [1]}, "curve.points"),
    ("sender", {"curve": LINE, "x": [1], "z": 1}, "z"),
    ("display", {**DISPLAY, "input": {"pull_up_ohm": 1000}}, "input.reference_v"),
    ("display", {**DISPLAY, "table": []}, "table"),
    ("display", {**DISPLAY, "true": []}, "true"),
    ("display", {**DISPLAY, "wire_ohm": -1}, "wire_ohm"),
    ("display", {**DISPLAY, "decimals": -1}, "decimals"),
    (
        "wire",
        {"current_a": 1, "length_m": -1, "volts": 12, "max_drop_v": 1, "system": "mm2", "return": "body"},
        "length_m",
    ),
    (
        "wire",
        {"current_a": 1, "length_m": 1, "volts": 12, "max_drop_v": 13, "system": "mm2", "return": "body"},
        "max_drop_v",
    ),
    (
        "wire",
        {"current_a": 1, "length_m": 1, "volts": 12, "max_drop_v": 1, "system": "swg", "return": "body"},
        "system",
    ),
    ("fuse", {"load_a": 1, "wire": 0.6, "system": "mm2"}, "wire"),
    ("fuse", {"load_a": -1, "wire": 0.5, "system": "mm2"}, "load_a"),
    ("run", {"segments": [], "supplied_m": 1}, "segments"),
    ("run", {"segments": [{"length_m": 1, "peak_degc": 20}], "supplied_m": 1}, "segments[0].moving"),
    ("circuits", {"slots": []}, "slots"),
    ("circuits", {"slots": [{"name": "F1", "readings": {"off": 1}}]}, "slots[0].readings.acc"),
    ("twin", {}, "job"),
    ("twin", {"job": {}}, "job.schema_version"),
    ("twin", job(name=3), "job.name"),
    ("twin", {**job(), "state": {"key": "on"}}, "state.key"),
    ("twin", {**job(), "faults": [{"element": "wier W1", "kind": "open"}]}, "faults[0].element"),
    ("twin", {**job(), "true": {"x": 1}}, "true.x"),
    (
        "twin",
        {**job(), "instruments": [{"kind": "meter", "red": "x", "black": "body"}]},
        "instruments[0].red",
    ),
    ("check", {"job": {**example_job_data(), "schema_version": 7}}, "job.schema_version"),
    ("stack", {"port": "1/8 NTP", "sender": "M10x1 male"}, "port"),
    ("stack", {"port": "M10x1", "sender": ""}, "sender"),
    ("stack", {"port": "M10x1"}, "sender"),
    (
        "stack",
        {"port": "M10x1", "sender": "M8x1", "fittings": [{"name": "x", "male": "M10x1", "length_mm": 1}]},
        "fittings[0].female",
    ),
    (
        "stack",
        {
            "port": "M10x1",
            "sender": "M8x1",
            "fittings": [{"name": "x", "male": "M10x1", "female": "M8x9", "length_mm": 1}],
        },
        "fittings[0].female",
    ),
    (
        "stack",
        {
            "port": "M10x1",
            "sender": "M8x1",
            "fittings": [{"name": "x", "male": "M10x1", "female": "M8x1", "length_mm": -1}],
        },
        "fittings[0].length_mm",
    ),
    ("drill", {"thread": "1/8-27 NPT", "wall_mm": 0, "material": "steel"}, "wall_mm"),
    ("drill", {"thread": "1/8 NTP", "wall_mm": 5, "material": "steel"}, "thread"),
    ("drill", {"thread": "hose 10 mm", "wall_mm": 5, "material": "steel"}, "thread"),
    ("drill", {"thread": "M10x1", "wall_mm": 5, "material": "oak"}, "material"),
    ("wideband", {"distance_mm": -1, "after_turbine": None, "before_catalyst": True}, "distance_mm"),
    ("wideband", {"distance_mm": 500, "after_turbine": 1, "before_catalyst": True}, "after_turbine"),
    (
        "wideband",
        {"distance_mm": 500, "after_turbine": None, "before_catalyst": True, "practice": "30_in"},
        "practice",
    ),
    ("bundle", {"wires": []}, "wires"),
    ("bundle", {"wires": [{"od_mm": 0, "count": 1}]}, "wires[0].od_mm"),
    ("bundle", {"wires": [{"od_mm": 1, "count": 0}]}, "wires[0].count"),
    ("bundle", {"wires": [{"od_mm": 1, "count": 300}, {"od_mm": 2, "count": 300}]}, "wires"),
    ("bundle", {"wires": [{"od_mm": 1, "count": 1}], "hole_mm": 0}, "hole_mm"),
    ("spot", {"distance_mm": 100, "cone_deg": 0}, "cone_deg"),
    ("spot", {"distance_mm": -1, "cone_deg": 35}, "distance_mm"),
]


@pytest.mark.parametrize(("name", "data", "field"), REFUSED)
def test_what_cannot_be_meant_exits_2_and_names_the_field(name, data, field, call):
    code, answer = call(name, data)
    assert code == 2
    assert answer["error"]["field"] == field
    assert set(answer["error"]) == {"field", "value", "allowed", "message"}
    assert answer["error"]["message"]


def test_an_unknown_option_is_refused(call):
    assert call("fuse", {}, "--spise")[0] == 2


def test_a_circuit_without_an_answer_is_told_in_words(call, monkeypatch):
    from metrolex.cli import jobs
    from metrolex.errors import CircuitError

    def no_answer(*_):
        raise CircuitError("Two sources ask for different volts at one point.")

    monkeypatch.setattr(jobs, "solve", no_answer)
    code, answer = call("twin", job())
    assert code == 2
    assert answer["error"]["field"] == "job"
    assert answer["error"]["message"] == "Two sources ask for different volts at one point."


@pytest.mark.thorough
def test_as_a_program_it_reads_and_writes_and_starts_quickly(example):
    run = subprocess.run(
        [sys.executable, "-m", "metrolex.cli", "fuse"],
        input=json.dumps(example("fuse")),
        capture_output=True,
        text=True,
        check=False,
    )
    assert run.returncode == 0
    assert json.loads(run.stdout)["fuse_a"] == 3
    bad = subprocess.run(
        [sys.executable, "-m", "metrolex.cli", "fuse"], input=b"\xff", capture_output=True, check=False
    )
    assert bad.returncode == 2
    assert b"Traceback" not in bad.stderr + bad.stdout


def test_a_start_up_peak_asks_for_a_larger_fuse(call):
    asked = {"load_a": 1.0, "wire": 0.75, "system": "mm2", "peak_a": 5.6, "peak_s": 10}
    assert call("fuse", asked)[1]["fuse_a"] == 7.5
    assert call("fuse", {**asked, "peak_s": 0.5})[1]["fuse_a"] == 5


def test_a_late_reading_tells_a_timed_feed(call):
    readings = {
        "off": 12.6,
        "acc": 12.6,
        "run": 12.5,
        "crank": 10.6,
        "park": 12.6,
        "head": 12.5,
        "later": 0.1,
    }
    _, found = call(
        "circuits",
        {"slots": [{"name": "F1", "readings": readings}], "needs": [{"need": "constant", "load_a": 0.1}]},
    )
    assert (found["class"], found["choice"]) == ({"F1": "timed"}, {"constant": None})


def test_a_thermocouple_with_its_cold_junction(call):
    """20.644 mV is 500 degC against 0 degC (NIST ITS-90); with the joint at 25 degC (1.000 mV) the wires give 19.644."""
    code, answer = call(
        "sender",
        {"curve": {"kind": "thermocouple", "type": "K"}, "x": [19.644, 99], "cold_junction_degc": 25},
    )
    assert code == 0
    assert answer["y"][0] == pytest.approx(500.0, abs=0.02)
    assert answer["y"][1] is None
    assert call(
        "sender", {"curve": {"kind": "thermocouple", "type": "K"}, "y": [500], "cold_junction_degc": 25}
    )[1]["x"][0] == pytest.approx(19.644, abs=1e-3)


@pytest.mark.thorough
def test_a_table_is_whole_in_its_steps_and_reads_back(call):
    code, answer = call("table", {**ROWS, "x_step": 5, "y_step": 0.5, "x_range": [62, 2998]})
    assert code == 0
    xs = [x for x, _ in answer["points"]]
    assert (xs[0], xs[-1]) == (60, 3000)
    assert all(x % 5 == 0 and (2 * y) % 1 == 0 for x, y in answer["points"])
    assert answer["check_sum"] == [sum(xs), pytest.approx(sum(y for _, y in answer["points"]))]
    assert answer["max_error"] < answer["equal_spacing_max_error"]
    # The rows go on into `display`, which then shows what the curve says to within that error.
    code, shown = call(
        "display", {"curve": BETA, "table": answer["points"], "true": [40, 90, 130], "decimals": 3}
    )
    assert code == 0
    assert shown["shown"] == pytest.approx([40, 90, 130], abs=answer["max_error"] + 1e-3)


def test_a_table_in_volts_behind_a_pull_up(call):
    code, answer = call(
        "table",
        {"curve": BETA, "y_range": [40, 120], "points": 6, "input": {"pull_up_ohm": 1000, "reference_v": 5}},
    )
    assert code == 0
    assert answer["x_unit"] == "volt"
    assert 0 < answer["points"][0][0] < answer["points"][-1][0] < 5


def test_what_cannot_be_met_is_a_stop_with_the_nearest(call):
    code, answer = call("blend", {**BLEND, "target_pct": 84})
    assert (code, answer["findings"][0]["grade"], answer["findings"][0]["code"]) == (
        0,
        "stop",
        "over_the_brim",
    )
    assert answer["add_l"] == pytest.approx(30)
    code, answer = call("match", {"sender_points": [[0, 10], [1, 180]], "gauge_points": [[0, 240], [1, 33]]})
    assert (code, answer["series_ohm"], answer["findings"][0]["grade"]) == (0, None, "stop")


def test_both_settings_lean_to_the_safe_side(call):
    runs = [{"gps_kmh": 50, "shown_kmh": 53}, {"gps_kmh": 100, "shown_kmh": 105}]
    for meaning in ("pulses_per_distance", "circumference"):
        _, answer = call("gps", {"setting": 8000, "runs": runs, "meaning": meaning, "step": 50})
        assert answer["legal"] is True
        assert all(at["shown_kmh"] >= at["true_kmh"] for at in answer["band"])


def test_a_budget_tells_of_the_input_what_was_said_of_it(call, example):
    plain = ["sender", "pull-up", "reference", "wire", "ground offset", "converter", "table", "rounding"]
    given = example("budget")
    code, answer = call("budget", given)
    assert (code, [term["name"] for term in answer["terms"]]) == (0, plain)
    stage = {**given["input"], "adc_bits": 10, "adc_offset_lsb": 2}
    code, answer = call("budget", {**given, "input": stage, "dissipation_mw_per_k": 5})
    errors = {term["name"]: term["error"] for term in answer["terms"]}
    assert code == 0
    assert set(errors) == {*plain, "self heating", "converter offset"}
    assert errors["self heating"] > 0
    assert errors["converter offset"] == pytest.approx(4 * errors["converter"], rel=0.05)
    shared = {**stage, "ratiometric": True, "reference_tolerance_pct": 3}
    code, answer = call("budget", {**given, "input": shared, "ground_offset_v": 0})
    assert next(t["error"] for t in answer["terms"] if t["name"] == "reference") == pytest.approx(0, abs=1e-9)
