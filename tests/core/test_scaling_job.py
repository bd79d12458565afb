"""Scaling of whole jobs: pulses counted, the error budget from the twin, displays that share a sender, set-up sheets, loops and couples."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from metrolex.acts.boxes import take_between
from metrolex.brief.shopping import shopping_list
from metrolex.check import find_all
from metrolex.check.board import chain_board, with_accuracy
from metrolex.errors import BadInput
from metrolex.harness.plan import plan_wires
from metrolex.inputs.loop import volts_from_ohm
from metrolex.job import (
    AlarmBehaviour,
    Behaviour,
    Conductor,
    End,
    EngineCount,
    MeasuringChain,
    MenuEntry,
    OldSetting,
    RoadCount,
    Scaling,
    Sender,
    Setting,
    SpeedRun,
    State,
    TaughtGear,
    Tolerance,
)
from metrolex.job.references import check_references
from metrolex.job.within import replaced_within
from metrolex.jobfile import (
    EXAMPLES,
    job_from_data,
    job_from_text,
    job_to_data,
    job_to_text,
)
from metrolex.kit import sender_kit
from metrolex.scaling.counting import (
    calibration_of,
    road_pulses_of,
    roll_out,
    setting_by_tyre,
    shown_over_true,
)
from metrolex.scaling.menu import generic_menu, menu_findings, sheet_of
from metrolex.scaling.reading import in_range, read_thermocouple, read_volts
from metrolex.scaling.shared import Listener, on_one_sender, on_two_senders
from metrolex.scaling.suggest import suggest_rows
from metrolex.scaling.trim import trim_rows
from metrolex.senders import LinearCurve, ThermocoupleCurve, x_at
from metrolex.senders.frequency import read_content
from metrolex.senders.thermocouple import emf_mv
from metrolex.twin import build, readings, solve
from metrolex.twin.accuracy import accuracy, matters_at
from metrolex.twin.error_budget import channel_budget, loop_of
from tests.jobs import an_input, shipped, shown_by, small_job, van, with_facts

RUN = State("run", "off", "running")


def example(name):
    return shipped(name)


def codes(job, state=RUN):
    network = build(job)
    return {finding.code for finding in find_all(network, solve(network, state))}


# ---- pulses ------------------------------------------------------------------------------------------------


def road_job(road, **vehicle):
    """The single-seater with another way of sensing speed."""
    job = example("single_seater")
    job = replace(job, vehicle=replaced_within(job.vehicle, vehicle))
    return job.with_chain(replace(job.chain("road speed"), road=road))


@pytest.mark.parametrize(
    ("enters", "right"),
    # A wheel of 2.000 m, 4 pulses a turn: 2000 pulses a km, 3218.688 a mile (1.609344 km), 2000 mm a turn.
    [("pulses_per_km", 2000.0), ("pulses_per_mile", 3218.688), ("circumference_mm", 2000.0)],
)
def test_the_right_setting_shows_the_truth(enters, right):
    road = RoadCount("wheel", 4.0, 2.0, None, enters, right)
    job = road_job(road)
    assert setting_by_tyre(job, road) == pytest.approx(right)
    assert shown_over_true(job, job.chain("road speed")) == pytest.approx(1.0)
    # 5 % more pulses set shows 5 % less; 5 % more circumference shows 5 % more.
    off = replace(road, setting=right * 1.05)
    job = road_job(off)
    expected = 1.05 if enters == "circumference_mm" else 1 / 1.05
    assert shown_over_true(job, job.chain("road speed")) == pytest.approx(expected)
    face = readings(solve(build(job), RUN, true={"road speed": 100.0}))["road speed"]
    assert face.value == round(100 * expected)


@pytest.mark.thorough
@given(
    st.sampled_from(["pulses_per_km", "pulses_per_mile", "circumference_mm"]),
    st.sampled_from(["wheel", "driveline", "cable"]),
    st.floats(0.8, 1.25),
    st.floats(500, 9000),
    st.sampled_from([0.0, 1.0, 10.0]),
)
@settings(max_examples=60, deadline=None)
def test_the_setting_by_runs_never_reads_under(enters, sensed, ratio, driven, step):
    runs = tuple(SpeedRun(v, v * ratio) for v in (40.0, 70.0, 110.0))
    road = RoadCount(sensed, 4.0, 2.0, 620.0, enters, driven, step, runs, driven)
    found = calibration_of(road)
    job = road_job(replace(road, setting=found.setting), axle_ratio=3.9)
    after = shown_over_true(job, job.chain("road speed"))
    assert after >= 1 - 1e-9
    assert after <= 1 + 1.01 * step / found.setting + 1e-6
    assert road_pulses_of(job, road).how == "GPS runs"


def test_roll_out_beats_the_tyre_and_a_worn_tyre_rolls_less():
    job = road_job(RoadCount("wheel", 1.0), tyre="205/55R16", tyre_wear_mm=5.0)
    # 621.9 mm x 3.05 by hand (tests/references).
    assert roll_out(job, job.chain("road speed").road) == pytest.approx(1.896795)
    assert roll_out(job, RoadCount("wheel", 1.0, 1.9)) == 1.9
    assert roll_out(road_job(RoadCount("wheel", 1.0), tyre=""), RoadCount("wheel", 1.0)) is None


@pytest.mark.parametrize(
    ("road", "vehicle", "code"),
    [
        (None, {}, "not_counted"),
        (RoadCount("wheel", 4.0, 2.0), {}, "setting_missing"),
        (RoadCount("driveline", 4.0, 2.0, setting=2000.0), {"axle_ratio": None}, "setting_missing"),
        (RoadCount("wheel", 4.0, 2.0, setting=2100.0), {}, "reads_under"),
        (RoadCount("wheel", 4.0, 2.0, setting=1500.0), {}, "reads_far_over"),
        (RoadCount("wheel", 4.0, 2.0, setting=2000.0), {}, "not_driven_yet"),
        (RoadCount("wheel", 60.0, 2.0, setting=30000.0, limit_hz=500.0), {}, "input_too_slow"),
        (RoadCount("wheel", 1.0, 2.0, setting=500.0), {}, "slow_at_walking_pace"),
        (
            RoadCount(
                "wheel",
                4.0,
                None,
                None,
                "pulses_per_km",
                2000.0,
                1.0,
                (SpeedRun(50, 50), SpeedRun(90, 90)),
                2000.0,
            ),
            {"tyre": "205/55R16"},
            "runs_against_tyre",
        ),
    ],
)
def test_what_is_said_of_a_speed_channel(road, vehicle, code):
    assert code in codes(road_job(road, **vehicle))


@pytest.mark.parametrize(
    ("count", "code"),
    [
        (EngineCount("plug_lead"), "setting_missing"),
        (EngineCount("plug_lead", None, 1.0), "wrong_pulse_setting"),
        (EngineCount("plug_lead", None, 0.5, 6.0, 3600.0, 1800.0), "tach_off"),
        (EngineCount("plug_lead", None, 0.5), "scale_below_redline"),
    ],
)
def test_what_is_said_of_an_engine_speed_channel(count, code):
    job = example("sidecar")
    channel = replace(job.chain("engine speed"), engine=count, scaling=Scaling((), "ohm", 0, 0.0, 6000.0))
    assert code in codes(job.with_chain(channel))


def test_runs_need_the_setting_they_were_driven_with():
    with pytest.raises(BadInput) as refusal:
        RoadCount("wheel", 4.0, runs=(SpeedRun(50.0, 52.0),))
    assert refusal.value.field == "driven_with"


@pytest.mark.parametrize("name", EXAMPLES)
def test_what_scaling_keeps_survives_the_job_file(name):
    job = example(name)
    assert job_from_text(job_to_text(job)) == job


def test_every_kind_of_record_survives_the_job_file():
    job = example("sidecar")
    channel = replace(
        job.chain("road speed"),
        road=RoadCount(
            "cable",
            8.0,
            None,
            640.0,
            "pulses_per_mile",
            8000.0,
            10.0,
            (SpeedRun(50, 52, "ring road"),),
            8000.0,
            (OldSetting(7900, "old tyres"),),
            900.0,
            120.0,
        ),
        gears=(TaughtGear("1", 1.2), TaughtGear("N", 1.5)),
        behaviour=AlarmBehaviour(2.0, 0.5, ((800.0, 0.5), (4000.0, 2.0)), 400.0, 3.0),
    )
    display = with_facts(
        job.displays[0], firmware="4.2", menu=(MenuEntry("Smoothing", "note", "display", ("none", "some")),)
    )
    job = replace(
        job.with_chain(channel),
        displays=(display,),
        settings=(Setting(display.id, "Smoothing", "some", True),),
    )
    check_references(job)
    assert job_from_text(job_to_text(job)) == job


# ---- the error budget from the twin ---------------------------------------------------------------------------


def test_wire_and_ground_of_the_budget_are_what_the_twin_does_to_the_reading():
    """The small job's sender returns by wire: its whole loop is wire. The reading shifts by as much as the budget's term says."""
    job = small_job()
    channel = replace(job.chains[0], scaling=replace(job.chains[0].scaling, decimals=4))
    job = job.with_chain(channel)
    solved = solve(build(job), RUN, true={channel.id: 90.0})
    budget, loop = channel_budget(solved.network, solved.state, channel, 90.0)
    assert loop.wired
    assert loop.ground_offset_v == 0.0
    # Two wires of 0.5 mm2, 3 m each, 37.1 mohm/m (ISO 6722), and their joints.
    assert loop.wire_ohm == pytest.approx(2 * 3 * 0.0371, rel=0.15)
    seen = readings(solved)[channel.id].value
    table_alone = float(budget.terms["table"][0])
    assert seen - 90.0 - table_alone == pytest.approx(float(budget.terms["wire"][0]), abs=0.02)


def test_a_sender_that_returns_by_the_engine_sees_the_ground():
    job = van()
    channel = job.chain("coolant")
    channel = replace(channel, scaling=replace(channel.scaling, decimals=4))
    job = job.with_chain(channel)
    solved = solve(build(job), State("run", "head", "running"), true={channel.id: 90.0})
    budget, loop = channel_budget(solved.network, solved.state, channel, 90.0)
    rail_above_engine = -(loop.ground_offset_v)
    assert 0.02 < rail_above_engine < 0.2
    # The place's own 3 degrees are the sender's business: it stands where it is 93.
    at_place = readings(solve(build(job), State("run", "head", "running"), true={channel.id: 93.0}))[
        channel.id
    ].value
    told = sum(float(budget.terms[name][0]) for name in ("wire", "ground_offset", "table", "place"))
    assert at_place - 90.0 == pytest.approx(told, abs=0.35)
    # More lamps lift the display's ground further: the term follows the key switch.
    dark, _ = channel_budget(build(job), RUN, channel, 90.0)
    assert abs(float(dark.terms["ground_offset"][0])) < abs(float(budget.terms["ground_offset"][0]))


def test_nothing_is_made_up_where_the_chain_is_not_whole():
    job = van()
    solved = solve(build(job), RUN)
    assert channel_budget(solved.network, solved.state, job.chain("battery")) is None
    bare = replace(job.chain("coolant"), scaling=Scaling())
    assert channel_budget(solved.network, solved.state, bare) is None
    assert channel_budget(solved.network, solved.state, job.chain("coolant"), 900.0) is None
    assert not loop_of(solved, job.chain("battery")).wired
    unwired = replace(job, conductors=())
    found, loop = channel_budget(build(unwired), RUN, unwired.chain("gearbox"))
    assert (loop.wired, loop.wire_ohm) == (False, 0.0)
    assert float(np.abs(found.terms["wire"]).max()) == 0.0


@given(st.floats(45, 140), st.just(0.0) | st.floats(0.01, 10), st.floats(0, 5))
@settings(max_examples=25, deadline=None)
def test_a_budget_grows_with_its_tolerances(at, sender_pct, pull_up_pct):
    job = small_job()
    channel = job.chains[0]
    at = min(max(at, 21.0), 119.0)
    wide = replace(job.senders[0], tolerance=Tolerance(sender_pct))
    stage = with_facts(job.displays[0].inputs[0], pull_up_tolerance_pct=pull_up_pct)
    display = replace(job.displays[0], inputs=(stage,))
    other = replace(job, senders=(wide,), displays=(display,))
    found, _ = channel_budget(build(other), RUN, channel, at)
    assert found.terms["sender"][0] >= 0
    assert (found.terms["sender"][0] > 0) == (sender_pct > 1e-6)
    assert found.rss[0] <= found.worst_case[0] + 1e-9
    # About 1 % of pull-up is worth about as much as 1 % of sender: they stand in one divider.
    if sender_pct > 0.5 and pull_up_pct > 0.5:
        assert found.terms["pull_up"][0] / pull_up_pct == pytest.approx(
            found.terms["sender"][0] / sender_pct, rel=0.35
        )


# ---- two displays, two senders ------------------------------------------------------------------------------------


def listener(pull_up, rows=None, x_unit="ohm"):
    table = rows or ((100.0, 120.0), (250.0, 80.0), (500.0, 50.0), (1000.0, 20.0))
    channel = MeasuringChain("c", "Coolant", "coolant_temperature", "degC", scaling=Scaling(table, x_unit, 2))
    return Listener(channel, an_input("A", "pull_up", "5", pull_up, 5.0))


def test_two_displays_on_one_sender_by_hand():
    """500 ohm (50 degC) behind two pull-ups of 1000 ohm at 5 V: V = 5 x 500/(500 + 500) = 2.5; each takes it for 1000 ohm: 20 degC."""
    sender = small_job().senders[0]
    one, two = on_one_sender(sender, listener(1000.0), listener(1000.0))
    at = int(np.abs(one.true - 50.0).argmin())
    assert one.alone[at] == pytest.approx(0.0, abs=0.02)
    true = float(one.true[at])
    ohm = float(x_at(sender.curve, true))
    volts = 5 * ohm / (ohm + 500)
    taken = 1000 * volts / (5 - volts)
    expected = np.interp(taken, *np.array(sorted(listener(1000.0).channel.scaling.table)).T) - true
    assert one.together[at] == pytest.approx(expected, abs=0.02)
    assert one.worst_together == two.worst_together > 10 > one.worst_alone
    # A display that only listens to the volts draws next to nothing.
    quiet = Listener(
        replace(listener(1000.0).channel, scaling=Scaling(((0.4, 120.0), (2.5, 20.0)), "volt", 2)),
        an_input("B", "volts", "6", reference_v=5.0),
    )
    heard, _ = on_one_sender(sender, listener(1000.0), quiet)
    assert heard.worst_together < 1.0


def test_one_gauge_on_two_senders_by_a_switch():
    job = small_job()
    same = job.senders[0]
    other = Sender(
        "other", "Other", replace(same.curve, points=tuple((x * 1.5, y) for x, y in same.curve.points))
    )
    a, b = on_two_senders(same, other, listener(1000.0))
    # A clean switch is 0.05 ohm: nothing beside 100 ohm and more.
    assert a.worst_together == pytest.approx(a.worst_alone, abs=0.05)
    assert b.worst_alone > 5
    volts = Sender("volts", "Volts", LinearCurve(((0.5, 0.0), (4.5, 10.0))), wires=3)
    for call in (
        lambda: on_two_senders(same, volts, listener(1000.0)),
        lambda: on_one_sender(volts, listener(1000.0), listener(1000.0)),
        lambda: on_one_sender(
            same,
            replace(listener(1.0), channel=replace(listener(1.0).channel, scaling=Scaling())),
            listener(1000.0),
        ),
    ):
        with pytest.raises(BadInput):
            call()


# ---- loops, couples, gears -------------------------------------------------------------------------------------------


def test_a_current_loop_through_its_input():
    """12 mA through 250 ohm is 3 V; half of 4 to 20 mA, half of the range."""
    job = example("fire_tender")
    old = job.chain("pump outlet")
    sender = Sender(
        old.sender, "Loop", LinearCurve(((4.0, 0.0), (20.0, 16.0)), "milliampere", "bar"), wires=2
    )
    display = job.displays[0]
    stage = with_facts(
        display.input_called(old.input), kind="loop", input_ohm=250.0, reference_v=None, adc_bits=None
    )
    display = replace(display, inputs=tuple(stage if i.id == stage.id else i for i in display.inputs))
    wires = tuple(
        w
        for w in job.conductors
        if not any(e.kind == "sender" and e.id == old.sender and e.terminal == "return" for e in (w.a, w.b))
    )
    channel = replace(old, scaling=Scaling(((4.0, 0.0), (20.0, 16.0)), "milliampere", 1, 0.0, 16.0))
    job = replace(
        job,
        senders=tuple(sender if s.id == sender.id else s for s in job.senders),
        displays=(display,),
        conductors=wires,
    ).with_chain(channel)
    check_references(job)
    solved = solve(build(job), RUN, true={channel.id: 8.0})
    face = readings(solved)[channel.id]
    assert face.value == pytest.approx(8.0, abs=0.1)
    assert "input_does_not_take_it" not in codes(job)
    assert sender.terminals == ("signal", "supply")


def content_job():
    """The single-seater with a content sensor straight into a pulse input of its dash, wired."""
    job = example("single_seater")
    sender = sender_kit("content sensor, 50 to 150 Hz", "content")
    scaling = Scaling(((50.0, 0.0), (150.0, 100.0)), "hertz", 0, 0.0, 100.0)
    channel = MeasuringChain(
        "ethanol",
        "Ethanol content",
        "ethanol_content",
        "pct",
        "dash",
        "P1",
        "content",
        scaling=scaling,
        true_running=10.0,
    )
    wires = tuple(
        Conductor(f"X{i}", End("display", "dash", pin), End("sender", "content", terminal), 0.5, length_m=1.5)
        for i, (pin, terminal) in enumerate((("14", "signal"), ("16", "return"), ("17", "supply")))
    )
    job = replace(
        job,
        **shown_by((*job.chains, channel)),
        senders=(*job.senders, sender),
        conductors=(*job.conductors, *wires),
    )
    return job, channel


def test_a_content_sensor_speaks_in_hertz():
    """30 % ethanol is 80 Hz (50 Hz none, 150 Hz all: common practice); the dash's table turns it back."""
    job, channel = content_job()
    check_references(job)
    solved = solve(build(job), RUN, true={"ethanol": 30.0})
    face = readings(solved)["ethanol"]
    assert (face.text, face.at_input) == ("30", 80.0)
    assert not {"input_does_not_take_it", "not_counted", "nothing_entered"} & codes(job)
    _, loop = channel_budget(solved.network, solved.state, channel, 30.0)
    assert (loop.wire_ohm, loop.ground_offset_v) == (0.0, 0.0)
    rows = suggest_rows(channel, job.sender("content"), job.input_of(channel), 2)
    assert rows.rows == ((50.0, 0.0), (150.0, 100.0))
    unwired = replace(job, conductors=tuple(w for w in job.conductors if w.id != "X0"))
    assert readings(solve(build(unwired), RUN))["ethanol"].reason == "no signal wire yet"
    on_volts = job.with_chain(replace(channel, input="I"))
    assert "input_does_not_take_it" in codes(on_volts)


def riding_job():
    """The content job with fuel temperature read off the same pulses, at the same input."""
    job, _ = content_job()
    sender = sender_kit("fuel temperature, pulse width of the content sensor", "warmth")
    scaling = Scaling(((1.0, -40.0), (5.0, 125.0)), "millisecond", 0, -40.0, 125.0)
    channel = MeasuringChain(
        "warm", "Fuel temperature", "fuel_temperature", "degC", "dash", "P1", "warmth", scaling=scaling
    )
    return replace(job, **shown_by((*job.chains, channel)), senders=(*job.senders, sender)), channel


def test_fuel_temperature_rides_on_the_pulses_of_the_content_sensor():
    """Low 1 ms at -40 degC, 5 ms at 125 (common practice): by hand, 42.5 degC is half way, 3 ms."""
    job, _ = riding_job()
    check_references(job)
    faces = readings(solve(build(job), RUN, true={"ethanol": 30.0, "warm": 42.5}))
    assert (faces["warm"].text, faces["warm"].at_input) == ("43", 3.0)
    assert faces["ethanol"].text == "30"
    # The same pulses said by the meter: 80 Hz and low for 3 ms of 12.5 is 76 % high.
    heard = read_content(80.0, 76.0)
    assert (heard.ethanol_pct, heard.fuel_degc) == pytest.approx((30.0, 42.5))
    assert not {"two_on_one_pin", "no_carrier", "input_does_not_take_it", "not_counted"} & codes(job)
    assert job.sender("warmth").terminals == ()
    assert "warmth" not in {item.name for item in shopping_list(job)}
    assert job_from_data(job_to_data(job)) == job


def test_what_is_not_counted_turn_by_turn_waits_for_its_sender():
    job, channel = riding_job()
    network = build(job.with_chain(replace(channel, sender=None)))
    solved = solve(network, RUN)
    findings = find_all(network, solved)
    assert not [f for f in findings if f.code == "not_counted" and f.channel == "warm"]
    row = next(row for row in chain_board(network, solved, findings) if row.channel.id == "warm")
    assert row.shown.reason == "no sender chosen"
    assert next(cell.fact for cell in row.cells if cell.link == "scaling") == "Needs sender and display"


def test_what_rides_needs_a_carrier_at_its_input():
    job, channel = riding_job()
    moved = job.with_chain(replace(channel, input="P2"))
    assert "no_carrier" in codes(moved)
    assert readings(solve(build(moved), RUN))["warm"].reason in (
        "no sender sends pulses there",
        "no signal wire yet",
    )
    cut = replace(job, conductors=tuple(w for w in job.conductors if w.id != "X0"))
    assert readings(solve(build(cut), RUN))["warm"].reason == "no signal wire yet"
    two = job.with_chain(replace(job.chain("ethanol"), input="P1"))
    both = replace(
        two,
        **shown_by(
            (*two.chains, replace(two.chain("ethanol"), id="again", channel="again", source_id="again"))
        ),
    )
    assert "two_on_one_pin" in {f.code for f in menu_findings(both)}


@pytest.mark.parametrize(
    ("wires", "unit"), [(0, "hertz"), (0, "ohm"), (3, "millisecond"), (2, "millisecond")]
)
def test_only_a_low_time_has_no_wires(wires, unit):
    with pytest.raises(BadInput, match="wires"):
        Sender("s", "x", LinearCurve(((1.0, 0.0), (5.0, 100.0)), unit, "degC"), wires=wires)


def bare_couple_job():
    """The single-seater with a bare couple in place of its amplified probe."""
    job = take_between(example("single_seater"), "exhaust gas")
    old = job.chain("exhaust gas")
    couple = Sender(old.sender, "Couple", ThermocoupleCurve("K", (0.0, 45.0)), wires=2)
    job = replace(job, senders=tuple(couple if s.id == couple.id else s for s in job.senders))
    return plan_wires(job).job, old, couple


def test_drops_along_a_wire_do_not_count_against_currents_and_millivolts():
    job, old, _ = bare_couple_job()
    found = loop_of(solve(build(job), RUN), old)
    assert (found.wired, found.ground_offset_v) == (True, 0.0)


def test_bars_are_bound_by_the_range_typed_before_them():
    job = example("single_seater")
    typed = replace(
        job, settings=(Setting("dash", "A: Range high", "120"), Setting("dash", "A: Bar high", "150"))
    )
    assert [f.figure for f in menu_findings(typed) if f.code == "bar_outside_range"] == ["150"]
    assert not [f for f in menu_findings(job) if f.code == "bar_outside_range"]


@pytest.mark.parametrize("kind", ["K", "J", "N", "T"])
def test_a_couple_is_read_by_its_own_law(kind):
    stage = an_input("A", "thermocouple", "5", thermocouple_type=kind)
    channel = MeasuringChain(
        "egt", "Exhaust", "exhaust_temperature", "degC", scaling=Scaling((), "millivolt", 0, 0.0, 1200.0)
    )
    volts = (emf_mv(kind, 350.0) - emf_mv(kind, 25.0)) / 1000
    assert read_thermocouple(volts, stage, channel, Behaviour(), 25.0).value == 350.0
    # The same millivolts where the input is 25 degC warmer stand for about 25 degC more (couples steepen as they get hotter).
    assert read_thermocouple(volts, stage, channel, Behaviour(), 50.0).value == pytest.approx(375, abs=9)
    assert read_thermocouple(0.5, stage, channel, Behaviour(), 25.0).state == "open"
    with pytest.raises(BadInput):
        an_input("A", "thermocouple", "5")


def test_a_couple_on_the_wrong_input_is_stopped():
    job, old, _ = bare_couple_job()
    assert "input_does_not_take_it" in codes(job)
    display = job.displays[0]
    inputs = tuple(
        with_facts(i, kind="thermocouple", thermocouple_type="N", reference_v=None, adc_bits=None)
        if i.id == old.input
        else i
        for i in display.inputs
    )
    others = job.displays[1:]
    assert "wrong_thermocouple" in codes(replace(job, displays=(replace(display, inputs=inputs), *others)))


def test_gears_are_told_by_their_taught_volts():
    job = example("single_seater")
    network = build(job)
    # The lever's curve: 0.5 V + gear x 0.667 V; taught within a hair of that.
    for gear in (1, 2, 3, 4, 5, 6):
        assert readings(solve(network, RUN, true={"gear": float(gear)}))["gear"].text == str(gear)
    assert readings(solve(network, RUN, true={"gear": 1.5}))["gear"].text == "N"
    assert readings(solve(network, RUN, true={"gear": 0.0}))["gear"].text == "--"


def test_values_worked_out_are_held_at_the_ends_of_the_face():
    scaling = Scaling((), "ohm", 0, 0.0, 200.0)
    assert in_range(120.4, 1.0, scaling, Behaviour()).text == "120"
    assert in_range(260.0, 1.0, scaling, Behaviour()).state == "above"
    assert in_range(-3.0, 1.0, scaling, Behaviour()).state == "below"


# ---- trim ----------------------------------------------------------------------------------------------------------


@given(st.floats(-0.3, 0.3), st.floats(0.9, 1.1))
def test_a_trim_takes_offset_and_gain_out(offset, gain):
    rows = ((0.0, 0.68), (5.0, 1.36))

    def dash(true):
        came_in = gain * (true - 0.68) / 0.136 + offset
        return 0.68 + came_in * 0.136

    found = trim_rows(rows, ((0.80, dash(0.80)), (1.00, dash(1.00)), (1.20, dash(1.20))))
    assert (found.offset, found.gain) == (pytest.approx(offset, abs=1e-6), pytest.approx(gain, abs=1e-6))
    assert found.left < 1e-9
    xs, ys = zip(*found.rows, strict=True)
    came_in = gain * (0.93 - 0.68) / 0.136 + offset
    assert np.interp(came_in, xs, ys) == pytest.approx(0.93, abs=1e-6) or not xs[0] <= came_in <= xs[1]


def test_a_trim_that_cannot_be_meant():
    line = ((0.0, 0.68), (5.0, 1.36))
    bent = ((0.0, 0.68), (2.0, 0.70), (5.0, 1.36))
    for rows, pairs in ((line, ()), (bent, ((1.0, 1.0),)), (line, ((0.8, 0.8), (1.0, 3.0)))):
        with pytest.raises(BadInput):
            trim_rows(rows, pairs)
    assert trim_rows(line, ((1.0, 1.02),)).gain == 1.0


# ---- set-up sheets ------------------------------------------------------------------------------------------------------


def test_a_sheet_writes_itself_from_the_job():
    job = van()
    lines = {line.name: line for line in sheet_of(job, job.display("gauge 2"))}
    channel = job.chain("coolant")
    assert lines["Scale from"].wanted == "40"
    assert lines["Scale to"].wanted == "150"
    assert lines["Warn over"].wanted == "110"
    assert lines["Unit"].wanted == "°C"
    assert (
        lines["Sender table"].wanted
        == f"{len(channel.scaling.table)} rows, sum {sum(y for _, y in channel.scaling.table):g}"
    )
    assert lines["Backlight"].wanted is None
    assert "Warn under" not in lines  # nothing is wanted there, nothing is typed there


def test_a_dash_is_gone_through_input_by_input():
    job = example("single_seater")
    lines = sheet_of(job, job.display("dash"))
    names = [line.name for line in lines]
    assert names[:2] == ["Backlight", "Fuel"]
    assert names.index("A: Channel") < names.index("A: Range high") < names.index("B: Channel")
    by_name = {line.name: line for line in lines}
    assert (by_name["B: Channel"].wanted, by_name["A: Channel"].wanted) == ("off", "on")
    assert by_name["P2: Pulse setting"].wanted == f"{job.chain('road speed').road.setting:g}"
    assert by_name["D: Warning delay, s"].wanted == "0.6"
    assert by_name["D: Digits after the point"].wanted == "2"


@pytest.mark.parametrize(
    ("name", "typed", "code", "grade"),
    [
        ("A: Range high", "1500", "wrong_decimal_point", "stop"),
        ("A: Range high", "15", "wrong_decimal_point", "stop"),
        ("A: Range high", "140", "menu_differs", "caution"),
        ("A: Unit", "°F", "menu_differs", "caution"),
        ("B: Channel", "on", "enabled_without_sensor", "caution"),
        ("A: Channel", "off", "menu_differs", "caution"),
        ("A: Range high", "150", None, None),
        ("A: Range high", "150.0", None, None),
        ("A: Channel", "yes", None, None),
    ],
)
def test_slips_are_told_apart(name, typed, code, grade):
    job = replace(example("single_seater"), settings=(Setting("dash", name, typed),))
    found = [f for f in menu_findings(job) if name in f.subject]
    assert [(f.code, f.grade) for f in found if f.code != "menu_digits"] == ([(code, grade)] if code else [])


def test_digits_a_menu_cannot_take_two_on_one_pin_and_warnings_out_of_reach():
    job = example("single_seater")
    short = replace(job.display("dash"), menu=(MenuEntry("High warning", "warn_high", digits=0),))
    assert "menu_digits" in {f.code for f in menu_findings(replace(job, displays=(short,)))}
    crowd = job.with_chain(replace(job.chain("boost"), input="D"))
    assert "two_on_one_pin" in {f.code for f in menu_findings(crowd)}
    deaf = job.with_chain(replace(job.chain("engine oil"), warn_high=400.0))
    assert "warning_out_of_reach" in {f.code for f in menu_findings(deaf)}
    with pytest.raises(BadInput):
        generic_menu("phone")


def test_a_reading_in_milliamperes():
    stage = an_input("A", "loop", "5", input_ohm=250.0)
    scaling = Scaling(((4.0, 0.0), (20.0, 10.0)), "milliampere", 1)
    assert read_volts(3.0, stage, scaling, Behaviour()).value == 5.0
    assert read_volts(volts_from_ohm(0.0, 1000.0, 5.0).item(), stage, scaling, Behaviour()).value == 0.0


@pytest.mark.parametrize("name", EXAMPLES)
def test_accuracy_is_one_figure(name):
    """What the board says is what the budget has at the reading that matters, and the table's own error is within it."""
    network = build(example(name))
    solved = solve(network, RUN)
    for row in with_accuracy(network, chain_board(network, solved, ())):
        found = accuracy(network, row.channel)
        if found is None:
            continue
        budget, _ = channel_budget(network, State("run"), row.channel, matters_at(row.channel))
        assert found.half == pytest.approx(abs(budget.shift[0]) + budget.half_95[0])
        digits = max(row.channel.scaling.decimals, 1)
        assert row.cell("scaling").fact.startswith(f"± {found.half:.{digits}f} ")


def test_a_gear_has_no_accuracy():
    """It is right or wrong: half a gear says nothing."""
    network = build(example("single_seater"))
    gear = network.job.chain("gear")
    assert gear.gears
    assert accuracy(network, gear) is None
    row = next(
        r
        for r in with_accuracy(network, chain_board(network, solve(network, RUN), ()))
        if r.channel.id == "gear"
    )
    assert row.cell("scaling").fact == f"{len(gear.gears)} gears taught"
