"""The twin: what it builds, what it shows, what it expects."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts.brief import set_electrics
from metrolex.circuit import Fault
from metrolex.circuit.elements import CurrentSource
from metrolex.errors import BadInput
from metrolex.harness.conductors import wire_ohm
from metrolex.job import Behaviour, Conductor, End, GroundPoint, Scaling, State
from metrolex.twin import (
    addresses,
    build,
    expect,
    points_to_test,
    read_meter,
    read_test_lamp,
    readings,
    solve,
    verdict,
)
from metrolex.twin.addresses import Address
from metrolex.twin.instruments import filament_ohm
from metrolex.twin.run import state_findings
from tests.jobs import a_port, shown_by, small_job, unfinished_van, van, with_chain, with_facts, with_part

RUN = State("run")


def shown(job, state=RUN, faults=(), true=None, channel="coolant"):
    return readings(solve(build(job), state, faults, true))[channel]


def test_the_battery_by_hand():
    # Key off: 12.6 V behind 12 mohm; nothing is said of what the circuits feed, so the memory pin's 10 mA is all that flows.
    solved = solve(build(small_job()), State("off"))
    current = solved.solution.currents[addresses.vehicle("battery")]
    assert solved.volts(addresses.BATTERY_POSITIVE) == pytest.approx(12.6 - 0.012 * current)
    assert 0.01 < current < 0.011


def test_probing_more_fuses_draws_nothing():
    job = small_job()
    more = tuple(replace(job.circuits[0], id=f"X{i}") for i in range(20))
    before, after = (
        solve(build(j), State("off")).solution.currents[addresses.vehicle("battery")]
        for j in (job, replace(job, circuits=(*job.circuits, *more)))
    )
    assert after == pytest.approx(before, abs=0.001)
    said = replace(job, circuits=(with_facts(job.circuits[0], load_a=2.0), *job.circuits[1:]))
    assert solve(build(said), State("off")).solution.currents[addresses.vehicle("battery")] == pytest.approx(
        before + 2.0 * 12.6 / 12, rel=0.02
    )


@pytest.mark.parametrize("lamps", ["off", "park", "head"])
def test_what_was_read_post_to_post_stands_there_with_the_engine_running(lamps):
    for volts in (13.8, 14.2, 14.7):
        job = set_electrics(small_job(), {"charging_v": volts})
        assert solve(build(job), State("run", lamps, "running")).volts(
            addresses.BATTERY_POSITIVE
        ) == pytest.approx(volts, abs=0.005)


@pytest.mark.parametrize("where", ["body", "engine", "battery"])
def test_a_measured_ground_drop_is_used_once(where):
    # By hand: 4.5 A through the point drop 90 mV to battery negative, body lead and all: nothing else may be added.
    point = GroundPoint("GP1", "Bolt", where, drop_v=0.09, drop_load_a=4.5)
    job = replace(small_job(), grounds=(point,), conductors=())
    load = CurrentSource("load", addresses.BATTERY_POSITIVE, addresses.ground_node("GP1"), 4.5)
    quiet = solve(build(job), State("off")).volts(addresses.ground_node("GP1"))
    assert solve(build(job), State("off"), extra=[load]).volts(
        addresses.ground_node("GP1")
    ) - quiet == pytest.approx(0.09, rel=1e-6)


def test_a_24_volt_vehicle():
    job = set_electrics(small_job(), {"rest_v": 25.2, "charging_v": 28.4, "run_load_a": 6.0})
    solved = solve(build(job), State("run"))
    assert solved.solution.currents[addresses.vehicle("engine systems")] == pytest.approx(
        6 * solved.across(addresses.BATTERY_POSITIVE, addresses.BODY) / 24, rel=1e-9
    )


def test_ignition_path_by_hand():
    # Fuse tap 2 A: 53.5 mohm and 4 mohm of contact; 2 m of 0.75 mm2 and its joints; 12/0.5 = 24 ohm of gauge.
    solved = solve(build(small_job()), RUN)
    amps = solved.solution.currents[addresses.pin_load("gauge", "2")]
    path = 0.0535 + 0.004 + wire_ohm(0.75, "mm2", 2.0) + 0.002
    drop = solved.across(addresses.feed_side("F2"), Address("display", "gauge", "pin", "2"))
    assert drop == pytest.approx(amps * path, rel=1e-6)
    assert amps == pytest.approx(
        solved.across(Address("display", "gauge", "pin", "2"), Address("display", "gauge", "pin", "4")) / 24,
        rel=1e-9,
    )


def test_the_engine_charges_and_the_starter_drags():
    network = build(small_job())
    rest, charging, cranking = (
        solve(network, State(k, "off", e)).volts(addresses.BATTERY_POSITIVE)
        for k, e in (("off", "stopped"), ("run", "running"), ("crank", "stopped"))
    )
    assert charging > 13.5 > rest > 12.4 > cranking > 9.6


@pytest.mark.parametrize(
    ("key", "lamps", "live"),
    [
        ("off", "off", {"T1"}),
        ("acc", "off", {"T1"}),
        ("run", "off", {"T1", "T2"}),
        ("crank", "off", {"T1", "T2"}),
        ("off", "park", {"T1", "T3"}),
        ("run", "head", {"T1", "T2", "T3"}),
    ],
)
def test_circuits_are_live_where_the_probe_found_them_live(key, lamps, live):
    solved = solve(build(van()), State(key, lamps))
    assert {t for t in ("T1", "T2", "T3") if solved.volts(addresses.tap_node(t)) > 6} == live


def test_a_dimmed_circuit_gives_its_part():
    solved = solve(build(van()), State("off", "park"))
    ratio = solved.volts(addresses.feed_side("F33")) / solved.volts(addresses.BATTERY_POSITIVE)
    assert ratio == pytest.approx(6.8 / 12.6, abs=0.03)


def test_the_reading_is_the_gauges_own_arithmetic():
    # Two wires, 80 degC: 250 ohm; only the return's own resistance lifts the signal.
    job = small_job()
    face = shown(job, State("run", "off", "running"))
    assert (face.text, face.state) == ("80", "reading")
    loop = 2 * (wire_ohm(0.5, "mm2", 3.0) + 0.002) + 0.005
    solved = solve(build(job), State("run", "off", "running"))
    volts = solved.across(Address("display", "gauge", "pin", "5"), Address("display", "gauge", "pin", "4"))
    assert volts == pytest.approx(5 * (250 + loop) / (1250 + loop), rel=1e-4)


def test_a_dash_asleep_shows_nothing_and_says_why():
    assert shown(small_job(), State("off")).state == "dark"
    tired = with_part(small_job(), "displays", "gauge", min_v=12.0)
    assert shown(tired, RUN).state == "reading"
    face = shown(tired, State("crank"))
    assert face.state == "dark"
    assert "needs 12 V" in face.reason


BROKEN = [
    (Fault(addresses.wire("W4"), "open"), "open", "--"),
    (Fault(addresses.wire("W5"), "open"), "open", "--"),
    (Fault(addresses.sender_part("ntc", "element"), "open"), "open", "--"),
    (Fault(addresses.sender_part("ntc", "element"), "short"), "short", "--"),
    (Fault(addresses.wire("W4"), "short", to=Address("display", "gauge", "pin", "4")), "short", "--"),
    (Fault(addresses.sender_part("ntc", "element"), "resistance", ohm=900.0), "reading", "20"),
    (Fault(addresses.wire("W3"), "open"), "dark", ""),
    (Fault(addresses.tap("T2"), "open"), "dark", ""),
]


@pytest.mark.parametrize(("fault", "state", "text"), BROKEN)
def test_faults_show_as_on_a_real_gauge(fault, state, text):
    face = shown(small_job(), State("run", "off", "running"), [fault])
    assert (face.state, face.text) == (state, text)


REACTIONS = [
    ("open", "highest", Fault(addresses.wire("W4"), "open"), "120"),
    ("open", "lowest", Fault(addresses.wire("W4"), "open"), "20"),
    ("open", "flash", Fault(addresses.wire("W4"), "open"), "- -"),
    ("short", "highest", Fault(addresses.sender_part("ntc", "element"), "short"), "120"),
]


@pytest.mark.parametrize(("field", "reaction", "fault", "text"), REACTIONS)
def test_the_displays_behaviour_is_a_setting(field, reaction, fault, text):
    job = with_part(small_job(), "displays", "gauge", behaviour=Behaviour(**{field: reaction}))
    assert shown(job, RUN, [fault]).text == text


@pytest.mark.parametrize(
    ("low", "high", "true", "behaviour", "state", "text"),
    [
        (40, 120, 20.0, Behaviour(), "below", "40"),
        (40, 120, 20.0, Behaviour(below="dashes"), "below", "--"),
        (20, 100, 115.0, Behaviour(), "above", "100"),
        (20, 100, 115.0, Behaviour(above="flash"), "above", "- -"),
    ],
)
def test_below_and_above_the_range(low, high, true, behaviour, state, text):
    job = small_job()
    job = replace(job, displays=(replace(job.displays[0], behaviour=behaviour),))
    job = with_chain(job, scaling=Scaling(job.chains[0].scaling.table, "ohm", 0, low, high))
    face = shown(job, RUN, true={"coolant": true})
    assert (face.state, face.text) == (state, text)


def one_wire(grounded: bool, lead: bool):
    job = small_job()
    sender = replace(job.senders[0], wires=1)
    wires = [w for w in job.conductors if w.id != "W5"]
    if lead:
        wires.append(Conductor("W9", End("port", "plug"), End("ground", "GP1"), length_m=1.0))
    return replace(
        job,
        senders=(sender,),
        conductors=tuple(wires),
        ports=(a_port("plug", "Hose adapter", "hose adapter", grounded=grounded),),
    )


@pytest.mark.parametrize(
    ("grounded", "lead", "state"),
    [(True, False, "reading"), (False, False, "open"), (False, True, "reading")],
)
def test_a_one_wire_sender_needs_a_way_back(grounded, lead, state):
    assert shown(one_wire(grounded, lead), RUN).state == state


def test_a_shared_ground_shifts_a_one_wire_sender():
    job = one_wire(True, False)
    true = {"coolant": 80.0}
    clean = shown(job, RUN, true=true)
    lifted = shown(job, RUN, [Fault(addresses.ground_node("GP1"), "resistance", ohm=1.0)], true)
    assert abs(clean.value - 80) <= 1
    assert lifted.value > 85  # the gauge's ground stands half a volt up, so it sees fewer ohms: hotter


def test_an_unfinished_channel_says_what_is_missing():
    job = small_job()
    assert shown(replace(job, conductors=job.conductors[:3])).reason == "no signal wire yet"
    assert shown(with_chain(job, sender=None)).reason == "no sender chosen"
    assert shown(with_chain(job, scaling=Scaling())).reason == "no table entered"
    assert shown(with_chain(job, display=None, input=None)).reason == "no display chosen"


def test_two_gauges_on_one_sender_pull_each_other_off():
    # Each pull-up feeds the sender too: 1 kohm from 5 V twice is 500 ohm from 5 V, so 250 ohm gives 1.67 V, not 1.0 V.
    job = small_job()
    second = replace(job.displays[0], id="gauge 2", name="Another gauge")
    wires = [
        replace(
            w,
            id=f"{w.id}b",
            b=replace(w.b, id="gauge 2") if w.b.kind == "display" else w.b,
            a=replace(w.a, id="gauge 2") if w.a.kind == "display" else w.a,
        )
        for w in job.conductors
    ]
    again = replace(
        job.chains[0], id="again", channel="again", source_id="again", name="Again", display="gauge 2"
    )
    job = replace(
        job,
        displays=(*job.displays, second),
        conductors=(*job.conductors, *wires),
        **shown_by((*job.chains, again)),
    )
    solved = solve(build(job), State("run", "off", "running"))
    assert solved.across(
        Address("display", "gauge", "pin", "5"), Address("display", "gauge", "pin", "4")
    ) == pytest.approx(5 * 250 / 750, abs=0.02)
    assert readings(solved)["coolant"].value < 60


def test_a_supply_gauge_reads_its_own_pins():
    solved = solve(build(van()), RUN)
    pins = solved.across(Address("display", "gauge 4", "pin", "2"), Address("display", "gauge 4", "pin", "4"))
    assert readings(solved)["battery"].value == pytest.approx(pins, abs=0.05)


def test_a_ratiometric_sender_follows_its_supply():
    face = shown(van(), State("run", "off", "running"), channel="oil pressure")
    assert face.text == "3.5"


def test_a_meter_loads_a_high_resistance_point_hardly_and_a_lamp_shows_a_poor_leg():
    network = build(small_job())
    pins = (Address("display", "gauge", "pin", "2"), Address("display", "gauge", "pin", "4"))
    fault = [Fault(addresses.wire("W3"), "resistance", ohm=6.0)]
    assert read_meter(network, RUN, *pins) == pytest.approx(solve(network, RUN).across(*pins), abs=1e-4)
    good, poor = read_test_lamp(network, RUN, *pins, 21.0), read_test_lamp(network, RUN, *pins, 21.0, fault)
    assert (good.looks, poor.looks) == ("bright", "glows")
    assert read_meter(network, RUN, *pins, fault) > 9  # the meter alone finds nothing alarming
    assert good.volts / good.current_a == pytest.approx(filament_ohm(good.volts, 21.0), rel=1e-6)


def test_a_meter_needs_real_points():
    with pytest.raises(BadInput, match="There is no node 'nowhere'"):
        read_meter(build(small_job()), RUN, addresses.vehicle("nowhere"), addresses.BODY)


@pytest.mark.parametrize("key", ["off", "run", "crank"])
def test_a_healthy_job_stands_within_every_band(key):
    network = build(van())
    for expectation in expect(network, State(key)):
        if expectation.value is not None:
            assert expectation.low < expectation.value < expectation.high or expectation.point.kind == "shown"
            assert verdict(expectation, expectation.value)[0] == "as expected"


@pytest.mark.parametrize(
    ("fault", "test"),
    [
        (Fault(addresses.ground_node("GP1"), "resistance", ohm=1.5), "gauge 2 ground"),
        (Fault(addresses.tap("T2"), "resistance", ohm=2.0), "gauge 2 pin 2"),
        (Fault(addresses.wire("W19"), "open"), "gauge 2 pin 5"),
        (Fault(addresses.sender_part("coolant sender", "element"), "short"), "gauge 2 pin 5"),
    ],
)
def test_a_fault_falls_outside_the_band(fault, test):
    network = build(van())
    expectation = next(e for e in expect(network, RUN) if e.point.id == test)
    seen = solve(network, RUN, [fault]).across(expectation.point.red, expectation.point.black)
    assert verdict(expectation, round(seen, 2))[0] == "off"


def test_a_looser_part_widens_the_band():
    def band(job, test):
        return next(e for e in expect(build(job), RUN) if e.point.id == test).band

    loose = with_part(
        van(), "senders", "coolant sender", tolerance=replace(van().senders[1].tolerance, x_pct=10.0)
    )
    assert band(loose, "gauge 2 pin 5") > 1.4 * band(van(), "gauge 2 pin 5")
    assert band(loose, "coolant sender ohms") > 1.5 * band(van(), "coolant sender ohms")
    assert band(loose, "gauge 2 pin 2") == pytest.approx(band(van(), "gauge 2 pin 2"), rel=1e-4)


WORDS = [
    ("coolant shown", State("off"), "dark", "as expected"),
    ("coolant shown", RUN, "dark", "off"),
    ("gauge 2 pin 2", RUN, "live", "as expected"),
    ("gauge 2 pin 2", State("off"), "live", "off"),
    ("gauge 2 pin 2", State("off"), "dead", "as expected"),
]


@pytest.mark.parametrize(("test", "state", "word", "found"), WORDS)
def test_words_are_judged_too(test, state, word, found):
    expectation = next(e for e in expect(build(van()), state) if e.point.id == test)
    assert verdict(expectation, word)[0] == found


def test_only_wired_pins_are_tested():
    ids = {point.id for point in points_to_test(build(unfinished_van()))}
    assert "gauge 2 pin 5" in ids
    assert "gauge 3 pin 5" not in ids
    assert "gauge 3 pin 5" in {point.id for point in points_to_test(build(van()))}


def test_what_had_to_be_assumed_is_said():
    network = build(van())
    codes = {
        f.code
        for f in state_findings(solve(network, State("off", "off", "running"), true={"coolant": 400.0}))
    }
    assert codes == {"engine_stopped", "outside_curve"}
    job = with_chain(small_job(), true_stopped=None)
    assert [f.code for f in state_findings(solve(build(job), RUN))] == ["true_value_assumed"]


def test_an_empty_job_is_a_job():
    job = replace(
        small_job(),
        **shown_by(()),
        displays=(),
        senders=(),
        ports=(),
        circuits=(),
        taps=(),
        grounds=(),
        conductors=(),
    )
    assert solve(build(job), State("crank")).volts(addresses.BATTERY_POSITIVE) > 9
