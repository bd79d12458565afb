"""The rooms of Scaling, on the example jobs and on a job made from nothing: what is typed reaches the core and comes back in the book."""

from __future__ import annotations

import csv
import io
import re
from dataclasses import replace

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from metrolex.acts.boxes import take_between
from metrolex.acts.channels import add_channel
from metrolex.harness.plan import plan_wires
from metrolex.job import Job, State
from metrolex.kit import sender_kit
from metrolex.scaling.error import table_error
from metrolex.senders import BetaCurve, TableCurve, is_monotonic, x_at, y_at
from metrolex.twin import build, readings, solve
from tests.core.test_speed import drive, nmea, table
from tests.jobs import a_vehicle, shipped, with_facts
from tests.web.forms_of import read_page
from workbench.jobs.door import import_job
from workbench.jobs.models import JobRecord
from workbench.library.models import ShelfPart


class Other:
    """Another job of the bay's workshop."""

    def __init__(self, bay, job):
        self.bay, self.record = bay, import_job(bay.member, job)
        self.client = bay.client

    def path(self, tail=""):
        return f"/jobs/{self.record.pk}/{tail}"

    def get(self, tail="", **data):
        return self.client.get(self.path(tail), data)

    def post(self, tail, **data):
        return self.client.post(self.path(tail), data)

    @property
    def job(self):
        from workbench.jobs.storage import job_of

        return job_of(JobRecord.objects.get(pk=self.record.pk))


@pytest.fixture
def seater(bay):
    return Other(bay, shipped("single_seater"))


@pytest.fixture
def tender(bay):
    return Other(bay, shipped("fire_tender"))


@pytest.fixture
def outfit(bay):
    return Other(bay, shipped("sidecar"))


@pytest.fixture
def fresh(bay):
    """A job made from nothing: a dash that shows speed, engine speed, fuel, gear, mixture and boost."""
    job = Job("From nothing", a_vehicle("Wherry van"))
    for measurand in (
        "road_speed",
        "engine_speed",
        "fuel_level",
        "gear",
        "lambda",
        "boost",
        "coolant_temperature",
    ):
        job = add_channel(job, measurand, on_dash=True)
    return Other(bay, job)


ROOMS = ("", "measured/", "error/", "suits/", "warnings/")


@pytest.mark.parametrize("name", ["single_seater", "sidecar", "fire_tender"])
def test_every_room_answers_for_every_channel(name, bay):
    other = Other(bay, shipped(name))
    for channel in other.job.chains:
        for room in ROOMS:
            assert other.get(f"scaling/{room}", channel=channel.id).status_code == 200, (channel.id, room)
    for room in ("fuel/", "menu/"):
        assert other.get(f"scaling/{room}").status_code == 200


def test_every_room_answers_on_a_job_from_nothing(fresh, text):
    for channel in fresh.job.chains:
        for room in ROOMS:
            assert fresh.get(f"scaling/{room}", channel=channel.id).status_code == 200, (channel.id, room)
    sheet = text(fresh.get("scaling/menu/"))
    assert "typed in and ticked off" in sheet
    assert all(channel.name in sheet for channel in fresh.job.chains)


def test_fuel_temperature_is_read_off_the_content_sensors_pulses(bay, text):
    job = Job("Blend", a_vehicle("Wherry van"))
    for measurand in ("fuel_temperature", "road_speed", "ethanol_content"):
        job = add_channel(job, measurand, on_dash=measurand != "fuel_temperature")
    other = Other(bay, job)
    low_time = "fuel temperature, pulse width of the content sensor"
    assert other.post("ports/sender/", channel="fuel temperature", kit=low_time).status_code == 302
    # Alone it has nobody's pulses to ride on, and says so.
    assert other.job.sender(other.job.chain("fuel temperature").sender).rides
    assert "none sends pulses to this input" in text(other.get("scaling/", channel="fuel temperature"))
    assert (
        other.post("ports/sender/", channel="ethanol content", kit="content sensor, 50 to 150 Hz").status_code
        == 302
    )
    free = next(
        i.id
        for i in other.job.display("dash").inputs
        if i.kind == "pulse" and i.id != other.job.chain("road speed").input
    )
    answer = other.post("displays/read-at/", channel="ethanol content", at=f"dash|{free}")
    assert answer.status_code == 302
    assert other.post("ports/sender/", channel="fuel temperature", kit=low_time).status_code == 302
    found = other.job
    warm, content = found.chain("fuel temperature"), found.chain("ethanol content")
    assert (warm.display, warm.input, warm.run) == (content.display, content.input, None)
    assert [display.id for display in found.displays] == ["dash"]  # the gauge it left is gone
    board = text(other.get(""))
    assert "No port of its own" in board
    assert "none sends pulses" not in board
    for tail in (
        "ports/",
        "scaling/",
        "scaling/measured/",
        "scaling/error/",
        "scaling/suits/",
        "scaling/warnings/",
        "harness/",
        "harness/plugs/",
        "harness/diagram/",
        "proving/",
        "handover/",
        "brief/shopping/",
        "brief/plan/",
    ):
        assert other.get(tail, channel="fuel temperature").status_code == 200, tail
    assert (
        other.post(
            "scaling/rows/", channel="fuel temperature", count="4", x_step="0.1", y_step="1"
        ).status_code
        == 302
    )
    # Moved again, it takes along what rides on it.
    third = next(i.id for i in found.display("dash").inputs if i.kind == "volts")
    assert other.post("displays/read-at/", channel="ethanol content", at=f"dash|{third}").status_code == 302
    assert other.job.chain("fuel temperature").input == third
    rows = other.job.chain("fuel temperature").scaling
    assert (rows.x_unit, rows.table[0][0], rows.table[-1][0]) == ("millisecond", 1.0, 5.0)
    # With a converter between, both come as volts, each at an input of its own, and the sensor is there once.
    other.post(
        "ports/sender/",
        channel="ethanol content",
        kit="content sensor, 50 to 150 Hz, by content converter, two outputs",
    )
    other.post("ports/sender/", channel="fuel temperature", kit="Content converter: fuel temperature")
    after = other.job
    warm, content = after.chain("fuel temperature"), after.chain("ethanol content")
    assert (warm.box, warm.output, warm.sender) == (content.box, "B", None)
    assert [after.input_of(chain).kind for chain in (warm, content)] == ["volts", "volts"]
    assert warm.input != content.input


def test_a_channel_moves_to_another_input_and_its_wires_go_along(seater):
    before = seater.job
    channel = before.chain("engine oil")
    state = State("run", "off", "running")
    shown = readings(solve(build(before), state))["engine oil"]
    free = next(
        i
        for i in before.display("dash").inputs
        if i.kind == "pull_up" and i.id not in {c.input for c in before.chains}
    )
    assert seater.post("displays/read-at/", channel="engine oil", at=f"dash|{free.id}").status_code == 302
    after = seater.job
    assert after.chain("engine oil").input == free.id
    old_pin = before.input_of(channel).pin
    ends = {
        end.terminal
        for w in after.conductors
        for end in (w.a, w.b)
        if (end.kind, end.id) == ("display", "dash")
    }
    assert free.pin in ends
    assert old_pin not in ends
    assert len(after.conductors) == len(before.conductors)
    assert readings(solve(build(after), state))["engine oil"].text == shown.text


@pytest.mark.parametrize(
    ("channel", "at", "words"),
    [
        ("engine oil", "dash|H", "not free"),
        ("engine oil", "dash|Z", "not there"),
        ("engine oil", "shed|A", "not there"),
        ("engine oil", "", "not there"),
        ("nobody", "dash|B", "engine oil"),
    ],
)
def test_an_input_that_is_taken_or_not_there_is_refused(channel, at, words, seater, text):
    before = seater.job
    answer = seater.client.post(seater.path("displays/read-at/"), {"channel": channel, "at": at}, follow=True)
    assert words in text(answer)
    assert seater.job == before


# ---- bench -----------------------------------------------------------------------------------------------


def test_the_best_rows_are_taken_with_the_displays_limits(bay, text):
    answer = bay.post("scaling/rows/", channel="coolant", count="8", x_step="5", y_step="1", near="110")
    assert answer.status_code == 302
    job = bay.job
    channel = job.chain("coolant")
    assert len(channel.scaling.table) <= 8
    assert all(x % 5 == 0 and y % 1 == 0 for x, y in channel.scaling.table)
    stage = job.input_of(channel)
    assert (stage.table.rows, stage.table.x_step, stage.table.y_step) == (8, 5.0, 1.0)
    assert "Equally spaced" in text(bay.client.get(answer.url))


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({"count": "1"}, "2"),
        ({"count": "500"}, "256"),
        ({"count": "many"}, "whole number"),
        ({"count": "8", "x_step": "90000"}, "no coarser"),
        ({"count": "8", "near": "warm"}, "not a number"),
    ],
)
def test_rows_that_cannot_be_placed_are_said_at_the_field(data, words, bay, text):
    before = bay.job
    answer = bay.post("scaling/rows/", channel="coolant", **data)
    assert answer.status_code == 422
    assert words in text(answer)
    assert f'value="{data["count"]}"' in answer.content.decode()
    assert bay.job == before


def test_a_row_dragged_is_tried_without_being_kept_and_kept_when_left(bay):
    before = bay.job
    tried = bay.get("scaling/row/try/", channel="coolant", row="2", x="151.7", y="88.2")
    assert tried.status_code == 200
    assert b"data-row" in tried.content
    assert bay.job == before
    bay.post("scaling/row/", channel="coolant", row="2", x="91.4", y="127.6")
    # The demo's display takes whole ohms and whole degrees.
    assert bay.job.chain("coolant").scaling.table[2] == (91.0, 128.0)
    assert bay.get("scaling/row/try/", channel="coolant", row="77", x="1", y="1").status_code == 422


def test_the_card_and_the_csv_hold_the_rows_and_their_sums(bay):
    answer = bay.get("scaling/card/", channel="coolant", **{"as": "csv"})
    rows = list(csv.reader(io.StringIO(answer.content.decode())))
    held = bay.job.chain("coolant").scaling.table
    assert [tuple(map(float, row)) for row in rows[1:-1]] == list(held)
    assert [float(cell) for cell in rows[-1]] == pytest.approx(
        [sum(x for x, _ in held), sum(y for _, y in held)]
    )
    assert bay.get("scaling/card/", channel="coolant").content[:5] == b"%PDF-"
    assert bay.get("scaling/card/", channel="battery").status_code == 404


def test_what_the_display_holds_is_compared(bay, text):
    held = bay.job.chain("coolant").scaling.table
    typed = "\n".join(f"{x:g} {y:g}" for x, y in held)
    assert "holds what was meant" in text(bay.post("scaling/read-back/", channel="coolant", typed=typed))
    wrong = typed.replace(f"{held[3][0]:g} {held[3][1]:g}", f"{held[3][0]:g} {held[3][1] + 10:g}")
    assert "Row 4, shown" in text(bay.post("scaling/read-back/", channel="coolant", typed=wrong))
    assert bay.post("scaling/read-back/", channel="coolant", typed="a b").status_code == 422


def test_a_curve_that_turns_back_offers_its_stretches(bay, text):
    bay.post(
        "scaling/curve/",
        channel="coolant",
        kind="table",
        points="100 120\n200 90\n300 95\n900 40\n2000 20",
        interpolation="linear",
    )
    assert not is_monotonic(bay.job.sender("coolant sender").curve)
    assert "turns back" in text(bay.get("scaling/", channel="coolant"))
    bay.post("scaling/branch/", channel="coolant", part="0")
    curve = bay.job.sender("coolant sender").curve
    assert is_monotonic(curve)
    assert curve.points[0] == (300.0, 95.0)


def test_pasted_columns_with_units_in_the_head(bay):
    bay.post(
        "scaling/curve/",
        channel="coolant",
        kind="table",
        points="R (kohm);T (degF)\n0,577;140\n0,1085;248",
        interpolation="log_x",
    )
    assert bay.job.sender("coolant sender").curve.points == (
        (108.5, pytest.approx(120.0)),
        (577.0, pytest.approx(60.0)),
    )


# ---- measured points -------------------------------------------------------------------------------------


def test_a_sender_is_measured_fitted_and_kept(bay, text):
    for m in bay.job.sender("coolant sender").measured:
        assert m.how
    while bay.job.sender("coolant sender").measured:
        bay.post("scaling/measured/remove/", channel="coolant", number="0")
    law = BetaCurve(1900.0, 3450.0)
    lines = "\n".join(f"{float(x_at(law, t)):.5g}  {t} C" for t in (0.5, 25, 50, 75, 99))
    assert (
        bay.post("scaling/measured/add/", channel="coolant", points=lines, how="water bath").status_code
        == 302
    )
    page = text(bay.get("scaling/measured/", channel="coolant", law="beta"))
    assert "beta = 345" in page
    assert "Which sender is this" in page
    bay.post("scaling/measured/take/", channel="coolant", law="beta")
    sender = bay.job.sender("coolant sender")
    assert (sender.curve.r0_ohm, sender.curve.beta_k) == pytest.approx((1900, 3450), rel=1e-3)
    assert sender.tolerance.x_pct == 0
    # Kept in the library, it is offered to another job and ranked first there.
    bay.client.post(
        "/library/parts/keep/",
        {"job": bay.record.pk, "kind": "sender", "part": "coolant sender", "name": "Bin 4 sender"},
    )
    shelf = text(bay.client.get("/library/senders/"))
    assert "Bin 4 sender" in shelf
    assert "your own" in shelf
    assert "Bin 4 sender" in text(bay.get("ports/", channel="gearbox"))
    bay.post("ports/sender/", channel="gearbox", pin="gearbox test port", kit="Bin 4 sender")
    assert bay.job.sender("gearbox sender").curve == sender.curve
    assert "Measured" in text(bay.get("handover/book/"))


@pytest.mark.parametrize(
    ("points", "words"),
    [
        ("", "required"),
        ("2510 30", "stands among the points already"),
        ("-5 30", "0 or more"),
        ("12 warm", "Line 1"),
        ("1 2 3", "Line 1: expected two numbers"),
    ],
)
def test_points_that_cannot_be_meant_come_back(points, words, bay, text):
    before = bay.job
    answer = bay.post("scaling/measured/add/", channel="coolant", points=points)
    assert answer.status_code == 422
    assert words in text(answer)
    assert points in answer.content.decode()
    assert bay.job == before


# ---- error, does it suit -----------------------------------------------------------------------------------


def test_the_error_names_the_biggest_part_and_its_remedy(bay, text):
    page = text(bay.get("scaling/error/", channel="coolant", at="90"))
    # The van's one-wire sender returns by the engine: ground and place are what makes it unsure.
    assert "Ground offset" in page
    assert "ground wire of its own" in page or "choose a truer port" in page
    assert "Expected 40 to 150" in text(bay.get("scaling/error/", channel="coolant", at="900"))
    assert "not a temperature" in text(bay.get("scaling/error/", channel="coolant", at="hot"))


def test_matching_resistors_found_or_refused(bay, tender, text):
    answer = text(
        tender.get("scaling/suits/match/", channel="fuel level", gauge="0 90\n50 45\n100 0", series="E24")
    )
    assert "In series" in answer
    assert "Without resistors" in answer
    backward = text(
        tender.get("scaling/suits/match/", channel="fuel level", gauge="0 0\n100 90", series="E24")
    )
    assert "never turns that round" in backward or "never turn that round" in backward
    assert "Line 1" in text(
        tender.get("scaling/suits/match/", channel="fuel level", gauge="full", series="E24")
    )
    both = text(bay.get("scaling/suits/", channel="coolant", **{"with": "gearbox"}))
    assert "load each other" in both


# ---- speed, engine speed, gear -----------------------------------------------------------------------------


def test_speed_from_nothing_by_tyre_then_by_runs(fresh, text):
    assert fresh.post(
        "scaling/bench/", channel="speed", sensed="driveline", pulses_per_rev="4", enters="pulses_per_km"
    ).status_code in (302, 404)
    key = next(c.id for c in fresh.job.chains if c.measurand == "road_speed")
    data = {
        "channel": key,
        "sensed": "driveline",
        "pulses_per_rev": "4",
        "tyre": "205/55R16 91V",
        "axle_ratio": "3,73",
        "enters": "pulses_per_km",
        "step": "10",
    }
    assert fresh.post("scaling/bench/", **data).status_code == 302
    fresh.post("scaling/speed-setting/", channel=key)
    # 7741.4 pulses a km by hand (tests/references), rounded down to the step: it reads over, never under.
    assert fresh.job.chain(key).road.setting == 7740.0
    for gps, shown in (("50", "52,1"), ("50 mph", "83.9 km/h"), ("110", "114.6")):
        assert fresh.post("scaling/run/", channel=key, gps=gps, shown=shown).status_code == 302
    assert "New setting" in text(fresh.get("scaling/", channel=key))
    fresh.post("scaling/speed-setting/", channel=key)
    road = fresh.job.chain(key).road
    ratio = sum(r.gps_kmh * r.shown_kmh for r in road.runs) / sum(r.gps_kmh**2 for r in road.runs)
    assert road.setting == np.floor(7740 * ratio / 10) * 10
    assert road.before[-1].setting == 7740.0
    assert "Speed setting" in text(fresh.get("handover/book/"))
    # Runs driven with the new setting join those of the old one: each keeps what was read and what was set then.
    fresh.post("scaling/run/", channel=key, gps="80", shown="80.2")
    again = fresh.job.chain(key).road
    assert again.driven_with == road.setting
    assert [(run.shown_kmh, run.setting) for run in (again.runs[0], again.runs[-1])] == [
        (52.1, 7740.0),
        (80.2, road.setting),
    ]
    assert "7740" in text(fresh.get("scaling/", channel=key))


def test_a_recorded_drive_gives_its_runs(seater, text):
    for _ in range(4):
        seater.post("scaling/run/remove/", channel="road speed", run="0")
    t, kmh = drive(5)
    files = {
        "recording": SimpleUploadedFile("drive.nmea", nmea(t, kmh).encode()),
        "shown": SimpleUploadedFile("dash.csv", table(t, 1.02 * np.interp(t - 1.2, t, kmh)).encode()),
    }
    answer = seater.post("scaling/run/record/", channel="road speed", **files)
    assert answer.status_code == 302
    assert "steady stretches" in text(seater.client.get(answer.url))
    assert [round(r.gps_kmh, -1) for r in seater.job.chain("road speed").road.runs] == [50, 80, 110]


@pytest.mark.parametrize(
    ("gps", "words"),
    [
        (b"", "empty"),
        (b"hello", "neither NMEA"),
        (nmea(*drive(1), "V").encode(), "position fix"),
        (b"\xff\xfe\x00$GP", "can be used"),
    ],
)
def test_a_recording_that_tells_nothing_changes_nothing(gps, words, seater, text):
    before = seater.job
    files = {
        "recording": SimpleUploadedFile("drive.nmea", gps),
        "shown": SimpleUploadedFile("dash.csv", b"t,v\n0,1\n1,2"),
    }
    answer = seater.post("scaling/run/record/", channel="road speed", **files)
    assert answer.status_code == 422
    assert words in text(answer)
    assert seater.job == before


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({"tyre": "205/55"}, "not a tyre designation"),
        ({"wear": "-3"}, "Expected 0 to 25"),
        ({"pulses_per_rev": "0"}, "Expected 0.001"),
        ({"distance": "9 m"}, "both: the distance"),
        ({"distance": "90 m", "turns": "2"}, "Expected 0.8 to 10"),
    ],
)
def test_a_speed_bench_that_cannot_be_meant_comes_back(data, words, fresh, text):
    key = next(c.id for c in fresh.job.chains if c.measurand == "road_speed")
    before = fresh.job
    answer = fresh.post(
        "scaling/bench/",
        **({"channel": key, "sensed": "wheel", "pulses_per_rev": "4", "enters": "pulses_per_km"} | data),
    )
    assert answer.status_code == 422
    assert words in text(answer)
    assert next(iter(data.values())) in answer.content.decode()
    assert fresh.job == before


def test_other_tyres_change_speed_and_odometer(seater, fresh, text):
    """185/60R13 is 552.2 mm, 195/60R13 564.2 mm high (13 x 25.4 + 1.2 x width): the larger one shows 2.1 % less."""
    page = text(seater.get("scaling/tyres/", channel="road speed", other="195/60R13"))
    assert "97.9" in page
    assert "−2.1 %" in page
    assert "not a tyre designation" in text(
        seater.get("scaling/tyres/", channel="road speed", other="big ones")
    )
    key = next(c.id for c in fresh.job.chains if c.measurand == "road_speed")
    assert "first" in text(fresh.get("scaling/tyres/", channel=key, other="195/60R13"))


def test_engine_speed_gear_and_shift_lamps(outfit, seater, text):
    data = {
        "channel": "engine speed",
        "pickup": "plug_lead",
        "cylinders": "2",
        "strokes": "4",
        "setting": "1",
        "shown": "900",
        "true": "1800",
    }
    assert outfit.post("scaling/bench/", **data).status_code == 302
    page = text(outfit.get("scaling/", channel="engine speed"))
    assert "1000 rpm shows" in page
    solved = solve(build(outfit.job), State("run", "off", "running"))
    # 0.5 pulses a turn come, the display divides by 1: 850 rpm shows as 425.
    assert readings(solved)["engine speed"].value == 425
    assert outfit.post("scaling/bench/", **(data | {"true": ""})).status_code == 422
    assert outfit.post("scaling/bench/", **(data | {"readings": "1800 fast"})).status_code == 422
    outfit.post("scaling/bench/", **(data | {"shown": "", "readings": "1800 1810 2900 1790"}))
    assert "noise is counted" in text(outfit.get("scaling/", channel="engine speed"))
    table_ = text(seater.get("scaling/", channel="engine speed"))
    assert "1 to 2" in table_
    assert (
        seater.post(
            "scaling/shift/",
            channel="engine speed",
            power="1000 10\n2000 20",
            ratios="3 2",
            axle="4",
            mass="500",
            redline="9000",
            lamps="5",
            reaction="0.3",
            step="0.2",
        ).status_code
        == 422
    )
    assert seater.post("scaling/bench/", channel="gear", taught="1 1.2\n2 1.3\n3").status_code == 422
    # First gear gives 1.167 V by the sender's curve: the demo's taught volts show it, these would show neutral.
    assert readings(solve(build(seater.job), State("run", "off", "running")))["gear"].text == "1"
    seater.post("scaling/bench/", channel="gear", taught="1 1.2\n2 1.3\nN 1.6")
    assert (
        readings(solve(build(seater.job), State("run", "off", "running"), true={"gear": 5.0}))["gear"].text
        == "--"
    )
    assert "only 0.10 V apart" in text(seater.get("scaling/", channel="gear"))


def test_the_shift_lamps_a_display_has_are_the_ones_planned_for(seater, outfit, text):
    """A plan begins with as many as are there; one for more is told where it is made."""
    lamps = r'name="lamps" value="(\d+)"'
    assert re.search(lamps, outfit.get("scaling/", channel="engine speed").content.decode())[1] == "8"
    planned = seater.job.chain("engine speed")
    more = seater.job.with_chain(replace(planned, shift=replace(planned.shift, lamps=12)))
    seater.record = import_job(seater.bay.member, more)
    page = seater.get("scaling/", channel="engine speed")
    assert re.search(lamps, page.content.decode())[1] == "12"
    assert "planned for 12 lamps, Dash has 8" in text(page)


# ---- tank, mixture, boost, fuel ------------------------------------------------------------------------------


def test_a_tank_dipped_becomes_the_senders_curve(tender, text):
    data = {
        "channel": "fuel level",
        "capacity": "120 L",
        "shape": "box",
        "fillings": "0 238\n30 160\n60 101\n90 60\n120 34",
        "reserve": "18",
        "delay": "15",
    }
    assert tender.post("scaling/bench/", **data).status_code == 302
    tender.post("scaling/tank-curve/", channel="fuel level")
    job = tender.job
    curve = job.sender(job.chain("fuel level").sender).curve
    assert y_at(curve, [238, 101, 34]) == pytest.approx([0, 50, 100])
    assert job.chain("fuel level").warn_low == 15.0
    assert job.chain("fuel level").behaviour.delay_s == 15.0
    for more, words in (
        ({"fillings": "0 238\n10 200\n130 30"}, "no more than the tank holds"),
        ({"reserve": "130"}, "less than the tank holds"),
        ({"fillings": "0 5\n10 5\n20 5"}, "same at every filling"),
        ({"capacity": "0 L"}, "Expected 0.5"),
    ):
        answer = tender.post("scaling/bench/", **(data | more))
        assert answer.status_code == 422
        assert words in text(answer)


def test_mixture_is_trimmed_by_readings_side_by_side(seater):
    before = seater.job.chain("mixture").scaling.table
    assert seater.post("scaling/bench/", channel="mixture", pairs="1.00 1.02").status_code == 302
    after = seater.job.chain("mixture").scaling.table
    # 0.02 lambda over a span of 0.136 lambda a volt: 0.147 V more at each row.
    slope = (before[1][0] - before[0][0]) / (before[1][1] - before[0][1])
    assert [a[0] - b[0] for a, b in zip(after, before, strict=True)] == pytest.approx(
        [0.02 * slope] * 2, abs=1e-3
    )
    assert seater.post("scaling/bench/", channel="mixture", pairs="lean").status_code == 422


def test_boost_and_the_barometer(seater, text):
    seater.post("scaling/bench/", channel="boost", altitude="1500")
    assert seater.job.vehicle.identity.altitude_m == 1500
    assert "at 1500 m" in text(seater.get("scaling/", channel="boost"))
    assert "14.5 psi boost" in text(seater.get("scaling/boost/", absolute="184.56 kPa"))
    assert "before trusting any boost" in text(
        seater.get("scaling/boost/", absolute="200 kPa", barometer="101 kPa")
    )
    assert "Absolute:" in text(seater.get("scaling/boost/", absolute="much"))


def test_the_blend_planner(seater, text):
    page = text(seater.get("scaling/fuel/", tank="50", inside="20", content="5", pump="E85", target="30"))
    assert "9.1" in page
    assert "room for" in text(
        seater.get("scaling/fuel/", tank="50", inside="45", content="5", pump="E85", target="60")
    )
    assert "what the tank holds" in text(
        seater.get("scaling/fuel/", tank="50", inside="60", content="5", pump="E85", target="60")
    )
    seater.post("scaling/fuel/ceiling/", ceiling="20")
    assert "tune goes up to E20" in text(
        seater.get("scaling/fuel/", tank="50", inside="20", content="5", pump="E85", target="30")
    )
    assert seater.post("scaling/fuel/ceiling/", ceiling="200").status_code == 422
    assert "no ethanol" in text(seater.get("scaling/fuel/", hertz="75", duty="70"))


# ---- warnings, set-up sheets ----------------------------------------------------------------------------------


def test_a_warning_is_kept_and_tried(bay, text):
    data = {"channel": "oil pressure", "warn_low": "2.5", "delay": "", "by_rpm": ""}
    assert bay.post("scaling/warnings/save/", **data).status_code == 302
    assert "for nothing" in text(bay.get("scaling/warnings/", channel="oil pressure"))
    bay.post(
        "scaling/warnings/save/",
        channel="oil pressure",
        warn_low="0.5",
        delay="1",
        hysteresis="0.2",
        inhibit="400",
        start="3",
        by_rpm="800 0.5\n5600 2.5",
    )
    behaviour = bay.job.chain("oil pressure").behaviour
    assert (behaviour.delay_s, behaviour.by_rpm) == (1.0, ((800.0, 0.5), (5600.0, 2.5)))
    assert "for nothing" not in text(bay.get("scaling/warnings/", channel="oil pressure"))
    for more in (
        {"warn_low": "5", "warn_high": "3"},
        {"by_rpm": "800 1"},
        {"delay": "900"},
        {"by_rpm": "low"},
    ):
        assert bay.post("scaling/warnings/save/", **(data | more)).status_code == 422


def test_the_usual_slips_of_a_set_up_are_named(seater, text):
    seater.post(
        "scaling/menu/save/",
        display="dash",
        name=["A: Range high", "B: Channel", "D: Range low"],
        value=["1500", "on", "0.7"],
    )
    page = text(seater.get("scaling/menu/"))
    assert "decimal point is off" in page
    assert "nothing is fitted to it" in page
    seater.post(
        "scaling/menu/save/", display="dash", name=["A: Range high"], value=["150"], done=["A: Range high"]
    )
    assert "decimal point is off" not in text(seater.get("scaling/menu/"))
    assert seater.get("scaling/menu/paper/", display="dash").content[:5] == b"%PDF-"
    assert seater.get("scaling/menu/", display="nothing").status_code == 404


def test_a_display_is_described_and_kept(seater, text):
    assert (
        seater.post(
            "scaling/menu/entry/",
            display="dash",
            name="Smoothing",
            asks="note",
            each="input",
            choices="none, some",
        ).status_code
        == 302
    )
    assert "Smoothing" in text(seater.get("scaling/menu/"))
    assert (
        seater.post("scaling/menu/entry/", display="dash", name="", asks="note", each="input").status_code
        == 422
    )
    stage = {
        "display": "dash",
        "input": "A",
        "called": "A",
        "pin": seater.job.display("dash").input_called("A").pin,
        "kind": "pull_up",
        "pull_up": "1k",
        "reference": "5 V",
        "bits": "10",
        "first": "y",
        "rows": "6",
    }
    assert seater.post("displays/input/", **stage).status_code == 302
    found = seater.job.display("dash").input_called("A")
    assert (found.circuit.pull_up_ohm, found.converter.adc_bits, found.table.first, found.table.rows) == (
        1000.0,
        10,
        "y",
        6,
    )
    for more in ({"pull_up": ""}, {"reference": "none"}, {"kind": "thermocouple"}, {"rows": "1"}):
        assert seater.post("displays/input/", **(stage | more)).status_code == 422
    seater.client.post(
        "/library/parts/keep/",
        {"job": seater.record.pk, "kind": "display", "part": "dash", "name": "Bay dash"},
    )
    assert ShelfPart.objects.get().name == "Bay dash"
    assert "Bay dash" in text(seater.client.get("/library/displays/"))
    seater.post("scaling/menu/entry/remove/", display="dash", name="")
    assert "Smoothing" not in text(seater.get("scaling/menu/"))
    seater.post("displays/describe/", display="dash", name="Bay dash")
    assert "Smoothing" in text(seater.get("scaling/menu/"))
    seater.client.post("/library/parts/remove/", {"kind": "display", "name": "Bay dash"})
    assert not ShelfPart.objects.exists()


def test_the_library_is_each_workshops_own(bay, other_bay, text):
    bay.client.post(
        "/library/parts/keep/",
        {"job": bay.record.pk, "kind": "sender", "part": "coolant sender", "name": "Ours"},
    )
    assert "Ours" not in text(other_bay.client.get("/library/senders/"))
    other_bay.client.post("/library/parts/remove/", {"kind": "sender", "name": "Ours"})
    assert ShelfPart.objects.count() == 1
    stolen = other_bay.client.post(
        "/library/parts/keep/",
        {"job": bay.record.pk, "kind": "sender", "part": "coolant sender", "name": "Theirs"},
    )
    assert stolen.status_code == 404
    for name in ("", "NTC, one wire, M10x1", "x" * 121):
        bay.client.post(
            "/library/parts/keep/",
            {"job": bay.record.pk, "kind": "sender", "part": "coolant sender", "name": name},
        )
    assert ShelfPart.objects.count() == 1


def test_a_thermocouple_straight_into_its_input(bay):
    """Type K leads into an input made for them: the couple gives its millivolts, the input adds its cold junction, the face tells the truth."""
    job = take_between(shipped("single_seater"), "exhaust gas")
    old = job.chain("exhaust gas")
    couple = sender_kit("exhaust probe 3.2 mm, type K, bare leads", old.sender)
    display = job.display("dash")
    inputs = tuple(
        with_facts(i, kind="thermocouple", thermocouple_type="K", reference_v=None, adc_bits=None)
        if i.id == old.input
        else i
        for i in display.inputs
    )
    job = replace(
        job,
        senders=tuple(couple if s.id == couple.id else s for s in job.senders),
        displays=(replace(display, inputs=inputs), *job.displays[1:]),
    )
    job = plan_wires(job).job
    face = readings(solve(build(job), State("run", "off", "running"), true={old.id: 640.0}))[old.id]
    # The senders' shared return is lifted by the others' supply current, about a tenth of a millivolt: 2.5 degC.
    assert face.value == pytest.approx(640.0, abs=4.0)
    assert Other(bay, job).get("scaling/", channel=old.id).status_code == 200


def test_the_table_taken_is_what_the_error_strip_measures(bay):
    bay.post("scaling/rows/", channel="gearbox", count="10")
    job = bay.job
    channel = job.chain("gearbox")
    strip = table_error(channel, job.sender(channel.sender), job.input_of(channel))
    assert strip.largest < 1.7  # half a degree of rounding, the converter's step, the table
    assert isinstance(job.sender("coolant sender").curve, TableCurve)


def test_five_thousand_points_go_in_and_more_are_refused_at_the_field(bay, text):
    def pasted(count):
        return "\n".join(f"{10 + 0.5 * i:.1f}  {150 - 0.02 * i:.2f}" for i in range(count))

    facts = {"channel": "coolant", "kind": "table", "interpolation": "linear", "tolerance_pct": "2"}
    assert bay.post("scaling/curve/", points=pasted(5000), **facts).status_code == 302
    curve = bay.job.sender(bay.job.chain("coolant").sender).curve
    assert len(curve.points) == 5000
    assert bay.get("scaling/", channel="coolant").status_code == 200
    answer = bay.post("scaling/curve/", points=pasted(5001), **facts)
    assert answer.status_code == 422
    assert "more than 5000 points" in text(answer)
    assert bay.job.sender(bay.job.chain("coolant").sender).curve == curve


@pytest.mark.parametrize("points", ["500 50", "500 50\n500 60", "500 50\n400 50"])
def test_points_no_law_goes_through_are_shown_with_why(bay, text, points):
    bay.post("scaling/measured/add/", channel="coolant", points=points, how="ice water")
    page = bay.get("scaling/measured/", channel="coolant", law="steinhart_hart")
    assert page.status_code == 200
    assert points.split()[0] in text(page)


def test_what_a_set_up_sheet_cannot_take_comes_back_as_typed(bay, text):
    """Nothing is cut off in silence: what is too long is told at its entry, and all that was typed is there."""
    page = bay.get("scaling/menu/", display="gauge 2")
    forms, _ = read_page(page.content.decode())
    form = next(f for f in forms if f.action.endswith("menu/save/"))
    fields = form.fields
    names = fields["name"]
    fields["value"] = ["y" * 121] + ["kept as typed"] + [""] * (len(names) - 2)
    fields |= {"more_name": ["my own"], "more_value": ["12"], "firmware": ["9.9"]}
    before = bay.job
    answer = bay.client.post(bay.path("scaling/menu/save/"), fields)
    shown = answer.content.decode()
    assert answer.status_code == 422
    assert bay.job == before
    for words in ("y" * 121, "kept as typed", 'value="my own"', 'value="9.9"'):
        assert words in shown
    assert f"{names[0]}: what was typed is not" in text(answer)


def test_operating_points_are_typed_and_the_faces_follow(bay, text):
    page = text(bay.get("scaling/points/"))
    assert 'placeholder="96"' in page
    assert "minute by minute" in page
    form = next(f for f in read_page(page)[0] if f.action.endswith("points/save/"))
    fields = {name: values[-1] for name, values in form.fields.items()}
    empty = bay.post("scaling/points/save/", **fields)
    assert empty.status_code == 302
    assert bay.job.chain("coolant").true_at == ()
    name = re.search(r'name="(v\d+-\d+)"[^>]*aria-label="Coolant, full load"', page)[1]
    assert bay.post("scaling/points/save/", **(fields | {name: "210 F"})).status_code == 302
    assert bay.job.chain("coolant").true_at[0].value == pytest.approx(98.9, abs=0.05)
    bay.post("key-switch/", point="full load")
    board = text(bay.get(""))
    assert "engine at full load" in board
    refused = bay.post("scaling/points/save/", **(fields | {name: "hot"}))
    assert refused.status_code == 422
    assert 'value="hot"' in text(refused)
    assert bay.post("key-switch/", point="flat out").status_code == 400
