"""Which channel is read at which input: what takes a sender, what rides on pulses, wires that go along."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from metrolex.acts.inputs import assigned, read_at
from metrolex.errors import BadInput
from metrolex.job import Conductor, End, Job, MeasuringChain, State
from metrolex.kit import display_kit, sender_kit
from metrolex.scaling.check import scaling_findings
from metrolex.scaling.inputs import inputs_for
from metrolex.senders import x_range, y_at, y_range
from metrolex.twin import build, readings, solve
from tests.jobs import a_vehicle, shown_by

LOW_TIME = "fuel temperature, pulse width of the content sensor"
CONTENT = "content sensor, 50 to 150 Hz"
DASH = "dash, nine sensor inputs and data"


def job_with(*displays, **assigned):
    """Channels by id: (measurand, display, input, sender kit)."""
    channels, senders = [], []
    for key, (measurand, unit, display, stage, kit) in assigned.items():
        if kit:
            senders.append(sender_kit(kit, f"{key} sender"))
        channels.append(
            MeasuringChain(key, key, measurand, unit, display, stage, f"{key} sender" if kit else None)
        )
    return Job("x", a_vehicle("v"), **shown_by(tuple(channels)), displays=displays, senders=tuple(senders))


def gauge(key, name="round gauge, volts in"):
    return display_kit(name, key, key.title()).display


def dash():
    return display_kit(DASH, "dash", "Dash").display


def place(job, key):
    channel = job.chain(key)
    return channel.display, channel.input


def test_a_free_input_that_takes_the_sender_is_found_on_the_dash():
    job = job_with(
        dash(),
        content=("ethanol_content", "pct", "dash", "D", CONTENT),
        speed=("road_speed", "km/h", "dash", "P1", None),
    )
    assert place(assigned(job, "content"), "content") == ("dash", "P2")
    after = assigned(job, "content")
    assert after.chain("content").scaling.x_unit == "hertz"  # the table to come is in what the sender gives
    assert assigned(after, "content") == after


def test_a_gauge_of_its_own_becomes_one_that_takes_the_sender_unless_it_is_wired():
    job = job_with(gauge("gauge 1"), content=("ethanol_content", "pct", "gauge 1", "A", CONTENT))
    after = assigned(job, "content")
    assert after.input_of(after.chain("content")).kind == "pulse"
    assert (after.display("gauge 1").id, after.display("gauge 1").name) == ("gauge 1", "Gauge 1")
    wire = Conductor("W1", End("display", "gauge 1", "4"), End("ground", "g"), 0.5, length_m=1.0)
    wired = replace(job, conductors=(wire,))
    assert assigned(wired, "content").displays == wired.displays


def test_another_channels_gauge_is_never_taken():
    pulses = gauge("gauge 2", "round gauge, pulses in")
    job = job_with(gauge("gauge 1"), pulses, content=("ethanol_content", "pct", "gauge 1", "A", CONTENT))
    assert place(assigned(job, "content"), "content") == ("gauge 1", "A")


@pytest.mark.parametrize("first", ["content", "warm"])
def test_what_rides_joins_its_carrier_whichever_was_chosen_first(first):
    job = job_with(
        gauge("gauge 1"),
        gauge("gauge 2", "round gauge, pulses in"),
        content=("ethanol_content", "pct", "gauge 1", "A", CONTENT),
        warm=("fuel_temperature", "degC", "gauge 2", "A", LOW_TIME),
    )
    for key in (first, "warm" if first == "content" else "content"):
        job = assigned(job, key)
    assert place(job, "warm") == place(job, "content") == ("gauge 1", "A")
    assert job.input_of(job.chain("warm")).kind == "pulse"
    assert [d.id for d in job.displays] == ["gauge 1"]  # the one left over goes


def test_what_rode_gets_a_gauge_of_its_own_when_it_rides_no_more():
    job = job_with(
        gauge("gauge 1", "round gauge, pulses in"),
        content=("ethanol_content", "pct", "gauge 1", "A", CONTENT),
        warm=(
            "fuel_temperature",
            "degC",
            "gauge 1",
            "A",
            "infrared, 35 degree cone, 0.5 to 4.5 V",
        ),
    )
    after = assigned(job, "warm")
    assert place(after, "content") == ("gauge 1", "A")
    assert after.display("gauge 1") == job.display("gauge 1")  # the other channel's gauge is not touched
    assert place(after, "warm") == ("gauge 2", "A")
    assert after.input_of(after.chain("warm")).kind == "volts"


def test_a_channel_without_a_sender_stays():
    job = job_with(gauge("gauge 1"), warm=("fuel_temperature", "degC", "gauge 1", "A", None))
    assert assigned(job, "warm") == job == assigned(job, "nobody")


def test_moving_takes_the_senders_own_wires_and_leaves_the_others():
    job = job_with(dash(), oil=("oil_temperature", "degC", "dash", "A", "NTC, two wires, 1/8-27 NPT"))
    own = Conductor(
        "W1", End("sender", "oil sender", "signal"), End("display", "dash", "5"), 0.5, length_m=1.0
    )
    other = Conductor("W2", End("splice", "S1"), End("display", "dash", "5"), 0.5, length_m=1.0)
    moved = read_at(replace(job, conductors=(own, other)), "oil", "dash", "B")
    pin = job.display("dash").input_called("B").pin
    assert [wire.b.terminal for wire in moved.conductors] == [pin, "5"]


@pytest.mark.parametrize(
    ("channel", "display", "stage"),
    [("oil", "dash", "D"), ("oil", "dash", "Z"), ("oil", "shed", "A"), ("nobody", "dash", "A")],
)
def test_what_is_taken_or_not_there_is_refused(channel, display, stage):
    job = job_with(
        dash(),
        oil=("oil_temperature", "degC", "dash", "A", None),
        mix=("lambda", "lambda", "dash", "D", None),
    )
    with pytest.raises(BadInput):
        read_at(job, channel, display, stage)
    offered = {i.id for _, i in inputs_for(job, job.chain("oil"))}
    assert "A" in offered
    assert "D" not in offered


@pytest.mark.parametrize(
    ("measurand", "unit", "kit", "kind", "couple"),
    [
        ("exhaust_temperature", "degC", "exhaust probe 6 mm, type N, bare leads", "thermocouple", "N"),
        ("exhaust_temperature", "degC", "exhaust probe 3.2 mm, type K, bare leads", "thermocouple", "K"),
        ("oil_pressure", "bar", "pressure, 4 to 20 mA, 10 bar", "loop", None),
        ("fuel_level", "pct", "tank sender, 10 ohm empty, 180 ohm full", "pull_up", None),
    ],
)
def test_there_is_a_gauge_for_bare_couples_loops_and_ohms(measurand, unit, kit, kind, couple):
    job = assigned(job_with(gauge("gauge 1"), it=(measurand, unit, "gauge 1", "A", kit)), "it")
    stage = job.input_of(job.chain("it"))
    assert (stage.kind, stage.thermocouple_type) == (kind, couple)
    assert not [
        f for f in scaling_findings(job) if f.code in ("input_does_not_take_it", "wrong_thermocouple")
    ]
    # Wired straight from its terminals and fed, the face shows what is there.
    sender = job.sender("it sender")
    ways = {"signal": "5", "return": "6", "supply": "7"}
    wires = [
        Conductor(f"S{i}", End("sender", sender.id, t), End("display", "gauge 1", ways[t]), 0.5, length_m=1.0)
        for i, t in enumerate(sender.terminals)
    ]
    wires += [
        Conductor("F1", End("battery", "positive"), End("display", "gauge 1", "2"), 0.5, length_m=1.0),
        Conductor("F2", End("battery", "negative"), End("display", "gauge 1", "4"), 0.5, length_m=1.0),
    ]
    xs = np.linspace(*x_range(sender.curve), 9)
    table = tuple((float(x), float(y_at(sender.curve, x))) for x in xs)
    channel = job.chain("it")
    scaling = replace(channel.scaling, table=table, decimals=1)
    job = replace(job, conductors=tuple(wires)).with_chain(replace(channel, scaling=scaling))
    low, high = y_range(sender.curve)
    true = low + 0.4 * (high - low)
    shown = readings(solve(build(job), State("run"), true={"it": true}))["it"]
    assert shown.value == pytest.approx(true, abs=0.03 * (high - low)), shown.reason
